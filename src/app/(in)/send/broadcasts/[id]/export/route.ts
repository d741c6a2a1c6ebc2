/** The recipients of a broadcast as a file, sent while it is read. */
import { EXPORTED_AS, exportRecipients } from '../../../../../../operations/broadcasts';
import { requireRole } from '../../../../../../operations/context';
import { answerRoute } from '../../../../../_server/answerRoute';
import { signedIn } from '../../../../../_server/session';
import { streamed } from '../../../../../_server/streamed';
import { readRecipientFilter } from '../filter';

const TYPES = { csv: 'text/csv; charset=utf-8', jsonl: 'application/jsonl; charset=utf-8' };

export function GET(request: Request, { params }: { params: Promise<{ id: string }> }): Promise<Response> {
  return answerRoute(async () => {
    const { ctx, actor } = await signedIn();
    requireRole(actor, 'administrator');
    const { id } = await params;
    const given = Object.fromEntries(new URL(request.url).searchParams);
    const format = EXPORTED_AS.find((each) => each === given.format) ?? 'csv';
    const pieces = exportRecipients(ctx, actor, id, { format, filter: readRecipientFilter(given) });
    return streamed(pieces, TYPES[format], `broadcast-${id}.${format}`);
  });
}
