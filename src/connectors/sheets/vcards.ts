/** Contacts as vCards (RFC 6350; version 3 and 2.1 are read as far as they agree), card by card. */
import { createReadStream } from 'node:fs';
import { createInterface } from 'node:readline';
import ICAL from 'ical.js';

/** What a card is read as: the same names a sheet's columns might have. */
export const CARD_COLUMNS = ['phone', 'name', 'email', 'organisation', 'role', 'language', 'time zone', 'tags', 'note'];

/** Longer than this a card holds a picture or is none. */
const LONGEST_CARD = 2_000_000;

/** Yields each card's values by `CARD_COLUMNS`, or what is wrong with it. A card that cannot be read does not end the file. */
export async function* readCards(
  path: string,
): AsyncGenerator<{ ok: true; record: Record<string, string> } | { ok: false; reason: string }> {
  let card: string[] | undefined;
  let size = 0;
  for await (const line of createInterface({
    input: createReadStream(path, 'utf8'),
    crlfDelay: Number.POSITIVE_INFINITY,
  })) {
    if (/^BEGIN:VCARD\s*$/i.test(line)) {
      card = [];
      size = 0;
    }
    if (!card) continue;
    size += line.length;
    if (size <= LONGEST_CARD) card.push(line);
    if (!/^END:VCARD\s*$/i.test(line)) continue;
    yield size > LONGEST_CARD ? { ok: false, reason: 'The card is over 2 MB.' } : readCard(card.join('\r\n'));
    card = undefined;
  }
  if (card) yield { ok: false, reason: 'The card has no end.' };
}

export function readCard(text: string): { ok: true; record: Record<string, string> } | { ok: false; reason: string } {
  try {
    const card = new ICAL.Component(ICAL.parse(text) as unknown[] as never);
    const first = (name: string) => flat(card.getFirstPropertyValue(name));
    const structured = card.getFirstPropertyValue('n');
    const parts = Array.isArray(structured) ? structured.map(flat) : [];
    const record = {
      phone: phoneOf(card),
      name: first('fn') || [parts[1], parts[0]].filter(Boolean).join(' '),
      email: first('email'),
      organisation: first('org'),
      role: first('title') || first('role'),
      language: first('lang'),
      'time zone': first('tz'),
      tags: card
        .getAllProperties('categories')
        .flatMap((property) => property.getValues().map(flat))
        .join(','),
      note: first('note'),
    };
    return { ok: true, record };
  } catch (error) {
    return { ok: false, reason: `The card cannot be read: ${(error as Error).message.split('\n')[0]}` };
  }
}

/** A mobile where one is marked so, else the first. */
function phoneOf(card: ICAL.Component): string {
  const all = card.getAllProperties('tel');
  const types = (property: ICAL.Property) => [property.getParameter('type') ?? []].flat().join(' ').toLowerCase();
  const best = all.find((property) => /cell|mobile|text/.test(types(property))) ?? all[0];
  return flat(best?.getFirstValue()).replace(/^tel:/i, '');
}

function flat(value: unknown): string {
  if (value === null || value === undefined) return '';
  return Array.isArray(value) ? value.map(flat).filter(Boolean).join(', ') : String(value).trim();
}
