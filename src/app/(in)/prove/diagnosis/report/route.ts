import { found } from '../../../../../operations/context';
import { reportOf } from '../../../../../operations/diagnosis';
import { answerRoute } from '../../../../_server/answerRoute';
import { signedIn } from '../../../../_server/session';
import { attached } from '../../../../_server/streamed';
import { complaintOf, queryOf } from '../query';

/** What is known of a complaint, for whoever owns the part of the way it stopped in. */
export async function GET(request: Request): Promise<Response> {
  return answerRoute(async () => {
    const { ctx, actor } = await signedIn();
    const complaint = found(complaintOf(queryOf(new URL(request.url).searchParams)), 'complaint');
    const { text, file } = await reportOf(ctx, actor, complaint);
    return attached(text, 'text/plain; charset=utf-8', file);
  });
}
