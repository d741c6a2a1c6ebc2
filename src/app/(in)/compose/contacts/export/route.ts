/** Contacts as a file, sent while it is read. */
import { EXPORT_FORMATS } from '../../../../../core/contacts/exporting';
import { hasRole } from '../../../../../operations/actor';
import { exportConsents, exportContacts } from '../../../../../operations/exportingContacts';
import { signedIn } from '../../../../_server/session';
import { readListQuery } from '../query';

const TYPES = {
  csv: 'text/csv; charset=utf-8',
  vcf: 'text/vcard; charset=utf-8',
  jsonl: 'application/jsonl; charset=utf-8',
};

export async function GET(request: Request): Promise<Response> {
  const { w, actor } = await signedIn();
  if (!hasRole(actor, 'administrator')) return new Response('This needs the role administrator.', { status: 403 });
  const given = Object.fromEntries(new URL(request.url).searchParams);
  const sent = (body: BodyInit, type: string, name: string) =>
    new Response(body, { headers: { 'content-type': type, 'content-disposition': `attachment; filename="${name}"` } });
  if (given.consents)
    return sent(await exportConsents(w, actor, given.consents), TYPES.jsonl, `consents-${given.consents}.jsonl`);
  const format = EXPORT_FORMATS.find((each) => each === given.format) ?? 'csv';
  const { search, audience } = await readListQuery(w, actor, given);
  const pieces = exportContacts(w, actor, { format, search, audience: audience?.conditions });
  const encoder = new TextEncoder();
  const stream = new ReadableStream<Uint8Array>({
    async pull(controller) {
      const { value, done } = await pieces.next();
      if (done) controller.close();
      else controller.enqueue(encoder.encode(value));
    },
    async cancel() {
      await pieces.return(undefined);
    },
  });
  return sent(stream, TYPES[format], `contacts.${format}`);
}
