import { trailFile } from '../../../../../../operations/log';
import { answerRoute } from '../../../../../_server/answerRoute';
import { signedIn } from '../../../../../_server/session';
import { attached } from '../../../../../_server/streamed';

/** The trail for whoever has no account here: a provider, or an app's people. */
export async function GET(_request: Request, { params }: { params: Promise<{ id: string }> }): Promise<Response> {
  return answerRoute(async () => {
    const { ctx, actor } = await signedIn();
    const { id } = await params;
    const file = await trailFile(ctx, actor, id);
    return attached(JSON.stringify(file, null, 2), 'application/json; charset=utf-8', `trail-${id}.json`);
  });
}
