/** What is said of the organisation once and used wherever nothing nearer is known: its zone, its countries, its language, whom to ask. */
import { countryChoices, countryName } from '../../core/addresses/display';
import { isZone } from '../../core/schedule/clock';
import type { Tables } from '../../store/schema/tables';
import { type Actor, type AppContext, invalidText, recordAudit, requireRole } from '../context';

const SETTING = 'organisation';
/** HELP is answered in one text, with how to opt out. */
const LONGEST_HELP = 100;

export interface Organisation {
  /** IANA time zone; absent where nobody has said one. */
  zone?: string;
  /** ISO 3166-1 alpha-2: where it works, beside the countries of its numbers. */
  countries: string[];
  /** BCP 47, of people of whom no language is known. */
  language?: string;
  /** Who it is and where help is had, as HELP is answered; without it HELP is a message like any other. */
  help?: string;
}

export async function readOrganisation(from: Pick<Tables, 'settings'>): Promise<Organisation> {
  const saved = (await from.settings.one({ name: SETTING }))?.value as Partial<Organisation> | undefined;
  return { ...saved, countries: saved?.countries ?? [] };
}

/** Fields as people write them; an empty one is as if nobody had said it. */
export async function saveOrganisation(
  ctx: AppContext,
  actor: Actor,
  input: { zone: string; countries: readonly string[]; language: string; help: string },
): Promise<void> {
  requireRole(actor, 'administrator');
  const zone = input.zone.trim();
  if (zone && !isZone(zone)) throw invalidText('zone', `There is no time zone “${zone}”.`, 'Such as Europe/London.');
  const help = input.help.trim();
  if (help.length > LONGEST_HELP)
    throw invalidText(
      'help',
      'This does not fit into one text with how to opt out.',
      `Use ${LONGEST_HELP} characters at most.`,
    );
  const saved: Organisation = {
    ...(zone ? { zone } : {}),
    countries: [...new Set(input.countries.map(countryCodeOf))].sort(),
    ...(input.language.trim() ? { language: languageOf(input.language) } : {}),
    ...(help ? { help } : {}),
  };
  await ctx.store.write(async (unit) => {
    await unit.settings.put({ name: SETTING, value: saved });
    await recordAudit(unit, actor, ctx.now(), {
      action: 'installation.organisation',
      subject: SETTING,
      summary: `Said of the organisation: ${[saved.zone, saved.countries.map((code) => countryName(code)).join(', '), saved.language, saved.help && 'whom to ask'].filter(Boolean).join('; ') || 'nothing'}`,
    });
  });
}

function languageOf(written: string): string {
  try {
    const [language = ''] = Intl.getCanonicalLocales(written.trim());
    if (new Intl.DisplayNames(['en'], { type: 'language', fallback: 'none' }).of(language)) return language;
  } catch {
    // Said below.
  }
  throw invalidText('language', `“${written.slice(0, 40)}” is no language.`, 'Give a code, such as en or sv.');
}

/** A country as a code or an English name. Throws at the field `countries`. */
export function countryCodeOf(written: string): string {
  const wanted = written.trim().toUpperCase();
  const known = countryChoices().find(([code, name]) => code === wanted || name.toUpperCase() === wanted);
  if (known) return known[0];
  throw invalidText('countries', `“${written.slice(0, 40)}” is no country.`, 'Give names or codes, such as SE.');
}

/** Every country as a choice of a form, first those the organisation has to do with: the one of most of its numbers before the others. */
export async function countriesOursFirst(
  from: Pick<Tables, 'settings' | 'numbers'>,
): Promise<[code: string, name: string][]> {
  const [{ countries }, numbers] = await Promise.all([readOrganisation(from), from.numbers.all({ gone_at: null })]);
  const held = new Map(countries.map((code) => [code, 0]));
  for (const { country } of numbers) if (country) held.set(country, (held.get(country) ?? 0) + 1);
  // The sort is stable, so those of which there is nothing to tell stay in the order of their names.
  return countryChoices().sort(([a], [b]) => (held.get(b) ?? -1) - (held.get(a) ?? -1));
}
