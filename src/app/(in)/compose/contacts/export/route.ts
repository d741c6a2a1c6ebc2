/** Contacts as a file, sent while it is read. */
import { EXPORT_FORMATS } from '../../../../../core/contacts/exporting';
import { exportConsents, exportContacts } from '../../../../../operations/contacts';
import { requireRole } from '../../../../../operations/context';
import { answerRoute } from '../../../../_server/answerRoute';
import { signedIn } from '../../../../_server/session';
import { attached, streamed } from '../../../../_server/streamed';
import { readListQuery } from '../query';

const TYPES = {
  csv: 'text/csv; charset=utf-8',
  vcf: 'text/vcard; charset=utf-8',
  jsonl: 'application/jsonl; charset=utf-8',
};

export function GET(request: Request): Promise<Response> {
  return answerRoute(async () => {
    const { ctx, actor } = await signedIn();
    requireRole(actor, 'administrator');
    const given = Object.fromEntries(new URL(request.url).searchParams);
    if (given.consents)
      return attached(
        await exportConsents(ctx, actor, given.consents),
        TYPES.jsonl,
        `consents-${given.consents}.jsonl`,
      );
    const format = EXPORT_FORMATS.find((each) => each === given.format) ?? 'csv';
    const { search, audience } = await readListQuery(ctx, actor, given);
    const pieces = exportContacts(ctx, actor, { format, search, audience: audience?.conditions });
    return streamed(pieces, TYPES[format], `contacts.${format}`);
  });
}
