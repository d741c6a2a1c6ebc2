/** What a line of a file becomes: a contact, a change of one, nothing new, or a refusal with its reason. */
import { normaliseAddress } from '../addresses/address';
import { CONSENT_WAYS, type ConsentWay } from '../consent/ways';

/** What a column holds. */
export type ColumnUse =
  | 'ignore'
  | 'phone'
  | 'name'
  | 'first name'
  | 'last name'
  | 'language'
  | 'zone'
  | 'tags'
  | { attribute: string };

export interface ImportPlan {
  /** By header. */
  columns: Record<string, ColumnUse>;
  /** ISO 3166-1 alpha-2, for numbers without a country code. */
  country: string | null;
  /** Tags everybody of this file gets. */
  tags: string[];
  /** What these people agreed to, and where that can be shown; null when nothing is claimed. */
  consent: { ways: ConsentWay[]; source: string } | null;
}

export type ReadLine =
  | {
      ok: true;
      contact: {
        phone: string;
        name: string | null;
        language: string | null;
        zone: string | null;
        tags: string[];
        attributes: Record<string, string>;
      };
    }
  | { ok: false; reason: string };

const GUESSES: [Exclude<ColumnUse, { attribute: string }>, RegExp][] = [
  [
    'phone',
    /^(mobile|phone|cell|tel|telephone|msisdn|number|phonenumber|mobilephone|telefon|mobil|téléphone|handy|celular|móvil)/,
  ],
  ['first name', /^(firstname|givenname|forename|vorname|prénom|förnamn|voornaam)$/],
  ['last name', /^(lastname|surname|familyname|nachname|nom|efternamn|achternaam)$/],
  ['name', /^(name|fullname|contact|skipper|namn|naam|nombre)$/],
  ['language', /^(language|lang|locale|sprache|språk|langue|taal|idioma)$/],
  ['zone', /^(timezone|zone|tz)$/],
  ['tags', /^(tags?|labels?|groups?)$/],
];

/** What each column probably holds, by its header and by what is in it. A column nobody knows becomes an attribute. */
export function guessColumns(
  headers: readonly string[],
  samples: readonly Record<string, string>[],
  country: string | null,
): Record<string, ColumnUse> {
  const taken = new Set<ColumnUse>();
  const uses: Record<string, ColumnUse> = {};
  for (const header of headers) {
    const bare = header.toLowerCase().replace(/[^\p{L}\p{N}]/gu, '');
    const guess = GUESSES.find(([use, pattern]) => !taken.has(use) && pattern.test(bare))?.[0];
    if (guess) taken.add(guess);
    uses[header] = guess ?? (bare === '' ? 'ignore' : { attribute: header.trim().toLowerCase() });
  }
  if (!taken.has('phone')) {
    const phones = headers.find((header) => {
      const filled = samples.map((sample) => sample[header] ?? '').filter(Boolean);
      return (
        filled.length > 0 &&
        filled.every((value) => normaliseAddress(value, { defaultCountry: country ?? undefined }).ok)
      );
    });
    if (phones !== undefined) uses[phones] = 'phone';
  }
  return uses;
}

export function readLine(line: Readonly<Record<string, string>>, plan: ImportPlan): ReadLine {
  const of = (wanted: ColumnUse) => Object.keys(plan.columns).filter((header) => plan.columns[header] === wanted);
  const value = (wanted: ColumnUse) =>
    of(wanted)
      .map((header) => (line[header] ?? '').trim())
      .find(Boolean) ?? '';
  const written = value('phone');
  if (written === '') return { ok: false, reason: 'There is no phone number.' };
  const normalised = normaliseAddress(written, { defaultCountry: plan.country ?? undefined });
  if (!normalised.ok) return { ok: false, reason: `${normalised.finding.problem} ${normalised.finding.remedy}` };
  const language = value('language');
  if (language && !/^[a-z]{2,3}(-[A-Za-z0-9]{2,8})*$/i.test(language))
    return { ok: false, reason: `“${language}” is no language tag such as en or sv.` };
  const name = value('name') || [value('first name'), value('last name')].filter(Boolean).join(' ');
  const attributes: Record<string, string> = {};
  for (const [header, use] of Object.entries(plan.columns)) {
    const text = (line[header] ?? '').trim();
    if (typeof use === 'object' && text !== '') attributes[use.attribute] = text.slice(0, 1000);
  }
  return {
    ok: true,
    contact: {
      phone: normalised.address.value,
      name: name.slice(0, 200) || null,
      language: language || null,
      zone: value('zone') || null,
      tags: [
        ...new Set(
          [...plan.tags, ...value('tags').split(/[;,|]/)].map((tag) => tag.trim().toLowerCase()).filter(Boolean),
        ),
      ],
      attributes,
    },
  };
}

/** What keeps a plan from being carried out; undefined when nothing does. */
export function planProblem({ columns, consent }: ImportPlan): string | undefined {
  const uses = Object.values(columns);
  if (!uses.includes('phone')) return 'No column is said to hold the phone number.';
  const twice = uses.find((use, index) => typeof use === 'string' && use !== 'ignore' && uses.indexOf(use) < index);
  if (twice) return `Two columns are said to hold the ${String(twice)}.`;
  if (consent && (consent.ways.length === 0 || consent.ways.some((way) => !CONSENT_WAYS.includes(way))))
    return 'It is not set which messages these people opted in to.';
  if (consent && !consent.source.trim()) return 'The evidence of the opt-in is missing: say where these people agreed.';
  return undefined;
}
