/** Contacts as other programs read them: CSV (RFC 4180), vCard 4.0 (RFC 6350) and JSON Lines. */
import { neutralised } from '../sheets/rows';

export const EXPORT_FORMATS = ['csv', 'vcf', 'jsonl'] as const;
export type ExportFormat = (typeof EXPORT_FORMATS)[number];

export interface ExportedContact {
  id: string;
  name: string | null;
  phones: string[];
  mails: string[];
  country: string | null;
  language: string | null;
  zone: string | null;
  tags: string[];
  attributes: Record<string, string>;
  consents: Record<string, string>;
}

const HEADERS = [
  ...['name', 'phone', 'e-mail', 'country', 'language', 'time zone', 'tags'],
  // What they agreed to.
  ...['texts', 'business chat', 'mail'],
];

export function csvHeader(attributes: readonly string[]): string[] {
  return [...HEADERS, ...attributes];
}

export function csvRow(contact: ExportedContact, attributes: readonly string[]): string[] {
  const { name, phones, mails, country, language, zone, tags, consents } = contact;
  return [
    name ?? '',
    phones[0] ?? '',
    mails[0] ?? '',
    country ?? '',
    language ?? '',
    zone ?? '',
    tags.join(', '),
    consents.text ?? '',
    consents.chat ?? '',
    consents.mail ?? '',
    ...attributes.map((attribute) => contact.attributes[attribute] ?? ''),
  ].map(neutralised);
}

export function vcard(contact: ExportedContact): string {
  const { id, name, phones, mails, language, zone, tags } = contact;
  const lines = [
    'BEGIN:VCARD',
    'VERSION:4.0',
    `UID:${escaped(id)}`,
    `FN:${escaped(name ?? phones[0] ?? mails[0] ?? '')}`,
    ...phones.map((phone) => `TEL;VALUE=uri;TYPE=cell:tel:${phone}`),
    ...mails.map((mail) => `EMAIL:${escaped(mail)}`),
    ...(language ? [`LANG:${escaped(language)}`] : []),
    ...(zone ? [`TZ:${escaped(zone)}`] : []),
    ...(tags.length > 0 ? [`CATEGORIES:${tags.map(escaped).join(',')}`] : []),
    'END:VCARD',
  ];
  return lines.map(folded).join('\r\n');
}

function escaped(text: string): string {
  return text
    .replace(/\\/g, '\\\\')
    .replace(/\r?\n/g, '\\n')
    .replace(/([,;])/g, '\\$1');
}

/** Lines of at most 75 octets (RFC 6350 §3.2), never cut within a character. */
function folded(line: string): string {
  const encoder = new TextEncoder();
  let out = '';
  let size = 0;
  for (const char of line) {
    const length = encoder.encode(char).length;
    if (size + length > 75) {
      out += '\r\n ';
      size = 1;
    }
    out += char;
    size += length;
  }
  return out;
}
