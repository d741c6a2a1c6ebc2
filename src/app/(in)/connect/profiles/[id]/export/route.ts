import { getProfile } from '../../../../../../operations/profiles';
import { signedIn } from '../../../../../_server/session';

/** The profile as a file, to be taken to another installation. */
export async function GET(_: Request, { params }: { params: Promise<{ id: string }> }): Promise<Response> {
  const { ctx, actor } = await signedIn();
  const { id } = await params;
  const { text } = await getProfile(ctx, actor, id);
  return new Response(text, {
    headers: {
      'content-type': 'application/yaml; charset=utf-8',
      'content-disposition': `attachment; filename="${id.replace(/[^a-z0-9-]/g, '')}.yaml"`,
    },
  });
}
