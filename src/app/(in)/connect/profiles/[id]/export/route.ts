import { getProfile } from '../../../../../../operations/profiles';
import { answerRoute } from '../../../../../_server/answerRoute';
import { signedIn } from '../../../../../_server/session';
import { attached } from '../../../../../_server/streamed';

/** The profile as a file, to be taken to another installation. */
export async function GET(_: Request, { params }: { params: Promise<{ id: string }> }): Promise<Response> {
  return answerRoute(async () => {
    const { ctx, actor } = await signedIn();
    const { id } = await params;
    const { text } = await getProfile(ctx, actor, id);
    return attached(text, 'application/yaml; charset=utf-8', `${id.replace(/[^a-z0-9-]/g, '')}.yaml`);
  });
}
