/** The log as a file, sent while it is read. */
import { requireRole } from '../../../../../operations/context';
import { exportMessages } from '../../../../../operations/log';
import { answerRoute } from '../../../../_server/answerRoute';
import { signedIn } from '../../../../_server/session';
import { streamed } from '../../../../_server/streamed';
import { filterFrom, type Search } from '../query';

export function GET(request: Request): Promise<Response> {
  return answerRoute(async () => {
    const { ctx, actor } = await signedIn();
    requireRole(actor, 'administrator');
    const params = new URL(request.url).searchParams;
    const format = params.get('format') === 'jsonl' ? 'jsonl' : 'csv';
    const filter = filterFrom(Object.fromEntries(params) as Search, ctx.now());
    const type = format === 'csv' ? 'text/csv; charset=utf-8' : 'application/jsonl; charset=utf-8';
    return streamed(exportMessages(ctx, actor, { ...filter, format }), type, `messages.${format}`);
  });
}
