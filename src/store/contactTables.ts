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
  };
}
