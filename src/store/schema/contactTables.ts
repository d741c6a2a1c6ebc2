import type * as rows from './contactRows';
import { type Source, table } from './model';

export function contactTables(s: Source) {
  return {
    contactAttributes: table<rows.ContactAttributeRow>(s, 'contact_attributes', ['contact_id', 'name'], {
      contact_id: 'text',
      name: 'text',
      value: 'text',
      number: 'real',
    }),
    contactTags: table<rows.ContactTagRow>(s, 'contact_tags', ['contact_id', 'tag'], {
      contact_id: 'text',
      tag: 'text',
    }),
    consentEntries: table<rows.ConsentEntryRow>(s, 'consent_entries', ['id'], {
      id: 'text',
      contact_id: 'text',
      way: 'text',
      what: 'text',
      at: 'whole',
      how: 'text',
      wording: 'text',
      by: 'text',
      ref: 'text',
    }),
    contactConsents: table<rows.ContactConsentRow>(s, 'contact_consents', ['contact_id', 'way'], {
      contact_id: 'text',
      way: 'text',
      state: 'text',
      since: 'whole',
      entry_id: 'text',
    }),
    audiences: table<rows.AudienceRow>(s, 'audiences', ['id'], {
      id: 'text',
      name: 'text',
      conditions: 'json',
      created_at: 'whole',
      changed_at: 'whole',
    }),
    imports: table<rows.ImportRow>(s, 'imports', ['id'], {
      id: 'text',
      name: 'text',
      file: 'text',
      plan: 'json',
      state: 'text',
      lines: 'whole',
      done: 'whole',
      created: 'whole',
      merged: 'whole',
      unchanged: 'whole',
      refused: 'whole',
      created_at: 'whole',
      by: 'text',
      ended_at: 'whole',
      problem: 'text',
    }),
    importLines: table<rows.ImportLineRow>(s, 'import_lines', ['import_id', 'line'], {
      import_id: 'text',
      line: 'whole',
      outcome: 'text',
      reason: 'text',
      contact_id: 'text',
      before: 'json',
    }),
    contactMerges: table<rows.ContactMergeRow>(s, 'contact_merges', ['id'], {
      id: 'text',
      kept_id: 'text',
      gone_id: 'text',
      at: 'whole',
      by: 'text',
      why: 'text',
      moved: 'json',
      undone_at: 'whole',
    }),
    contactsApart: table<rows.ContactsApartRow>(s, 'contacts_apart', ['one_id', 'other_id'], {
      one_id: 'text',
      other_id: 'text',
      at: 'whole',
      by: 'text',
    }),
  };
}
