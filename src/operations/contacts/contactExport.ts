/** Contacts out of Windgap, a page at a time, so that any number of them costs the same memory. */
import { stringify } from 'csv-stringify/sync';
import type { Group } from '../../core/contacts/audience';
import { csvHeader, csvRow, type ExportedContact, type ExportFormat, vcard } from '../../core/contacts/exporting';
import { type Actor, type AppContext, recordAudit, requireRole } from '../context';
import { browseContacts } from './contactPages';

const PAGE = 1000;

/** Pieces of the file. What is exported, and by whom, is in the audit log. */
export async function* exportContacts(
  ctx: AppContext,
  actor: Actor,
  { format, audience, search }: { format: ExportFormat; audience?: Group; search?: string },
): AsyncGenerator<string> {
  requireRole(actor, 'administrator');
  await ctx.store.write((unit) =>
    recordAudit(unit, actor, ctx.now(), {
      action: 'contacts.exported',
      subject: 'contacts',
      summary: `Exported contacts as ${format}`,
    }),
  );
  const names = await ctx.store.select<{ name: string }>(
    'SELECT DISTINCT name FROM contact_attributes ORDER BY name LIMIT 200',
  );
  const attributes = names.map(({ name }) => name);
  // A byte-order mark, without which spreadsheets take UTF-8 for something else.
  if (format === 'csv') yield `\ufeff${stringify([csvHeader(attributes)], { record_delimiter: '\r\n' })}`;
  for (let before: string | undefined; ; ) {
    const { lines, next } = await browseContacts(ctx, actor, { audience, search, before, limit: PAGE });
    const rows = await ctx.store.contactAttributes.allBy(
      'contact_id',
      lines.map(({ id }) => id),
    );
    const zones = new Map(
      (
        await ctx.store.contacts.allBy(
          'id',
          lines.map(({ id }) => id),
          ['id', 'zone'],
        )
      ).map(({ id, zone }) => [id, zone]),
    );
    const of = new Map<string, Record<string, string>>();
    for (const { contact_id, name, value } of rows) of.set(contact_id, { ...of.get(contact_id), [name]: value });
    const contacts = lines.map(
      (line): ExportedContact => ({
        id: line.id,
        name: line.name,
        phones: line.phones,
        mails: line.mails,
        country: line.country,
        language: line.language,
        zone: zones.get(line.id) ?? null,
        tags: line.tags,
        attributes: of.get(line.id) ?? {},
        consents: Object.fromEntries(line.consents.map(({ way, state }) => [way, state])),
      }),
    );
    if (format === 'csv')
      yield stringify(
        contacts.map((contact) => csvRow(contact, attributes)),
        { record_delimiter: '\r\n' },
      );
    else
      yield contacts
        .map(
          (contact) =>
            `${format === 'vcf' ? vcard(contact) : JSON.stringify(contact)}${format === 'vcf' ? '\r\n' : '\n'}`,
        )
        .join('');
    if (next === undefined) return;
    before = next;
  }
}

/** Everything a person ever agreed to or declined, as evidence: one JSON object a line. */
export async function exportConsents(ctx: AppContext, actor: Actor, contactId: string): Promise<string> {
  requireRole(actor, 'administrator');
  const entries = await ctx.store.consentEntries.all({ contact_id: contactId }, { order: [['id', 'ASC']] });
  await ctx.store.write((unit) =>
    recordAudit(unit, actor, ctx.now(), {
      action: 'consents.exported',
      subject: contactId,
      summary: 'Exported the consent evidence of a contact',
    }),
  );
  return entries
    .map(({ at, ...entry }) => `${JSON.stringify({ at: new Date(at).toISOString(), ...entry })}\n`)
    .join('');
}
