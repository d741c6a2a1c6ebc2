import { trailFile } from '../../../../../../operations/log';
import { orNotFound } from '../../../../../_server/orNotFound';
import { signedIn } from '../../../../../_server/session';

/** The trail for whoever has no account here: a provider, or an app's people. */
export async function GET(_request: Request, { params }: { params: Promise<{ id: string }> }): Promise<Response> {
  const { ctx, actor } = await signedIn();
  const { id } = await params;
  const file = await orNotFound(trailFile(ctx, actor, id));
  return new Response(JSON.stringify(file, null, 2), {
    headers: {
      'content-type': 'application/json; charset=utf-8',
      'content-disposition': `attachment; filename="trail-${id}.json"`,
    },
  });
}
