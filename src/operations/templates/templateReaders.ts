/** For whom a template is written: the languages people read, what a text to them costs, and some of them to look at. */
import { countryName, displayAddress } from '../../core/addresses/display';
import { recordIn } from '../../core/hooks/postedRecord';
import { listFields } from '../../core/text/fields';
import { knownOf } from '../contacts';
import { type Actor, type AppContext, requireRole } from '../context';

/** Prices are those of this many days: providers change them. */
const PRICE_DAYS = 90;
const SHOWN = 6;

export interface CountryPrice {
  country: string;
  /** Micro-units a part, as charged lately. */
  micros: number;
  currency: string;
  /** Messages it is taken from. */
  messages: number;
}

export interface TemplateReaders {
  /** Contacts by BCP 47 tag, most first. */
  languages: { language: string; contacts: number }[];
  prices: CountryPrice[];
  /** What the preview can be filled with: somebody lately written with, or a record lately posted. */
  examples: {
    label: string;
    language?: string;
    attributes?: Record<string, string>;
    record?: Record<string, string>;
  }[];
}

export async function templateReaders(ctx: AppContext, actor: Actor): Promise<TemplateReaders> {
  requireRole(actor, 'viewer');
  const [languages, prices, people, records] = await Promise.all([
    ctx.store.select<TemplateReaders['languages'][number]>(
      `SELECT language, count(*) AS contacts FROM contacts WHERE merged_into IS NULL AND language IS NOT NULL
        GROUP BY language ORDER BY contacts DESC LIMIT 40`,
    ),
    chargedPrices(ctx),
    recentPeople(ctx),
    recentRecords(ctx),
  ]);
  return { languages, prices, examples: [...people, ...records] };
}

/** What a part cost lately, by country, dearest currency apart. Nothing where nothing was charged yet. */
export async function chargedPrices(ctx: AppContext): Promise<CountryPrice[]> {
  return ctx.store.select<CountryPrice>(
    `SELECT c.country, m.price_currency AS currency, CAST(round(sum(m.price_micros) * 1.0 / sum(m.parts)) AS INTEGER) AS micros, count(*) AS messages
       FROM (SELECT contact_id, price_micros, price_currency, parts FROM messages
              WHERE direction = 'out' AND price_micros IS NOT NULL AND created_at > :since ORDER BY id DESC LIMIT 5000) m
       JOIN contacts c ON c.id = m.contact_id WHERE c.country IS NOT NULL
      GROUP BY c.country, m.price_currency ORDER BY messages DESC LIMIT 8`,
    { since: ctx.now() - PRICE_DAYS * 86_400_000 },
  );
}

async function recentPeople(ctx: AppContext): Promise<TemplateReaders['examples']> {
  const rows = await ctx.store.conversations.all(undefined, { order: [['last_message_at', 'DESC']], limit: SHOWN });
  const known = await knownOf(
    ctx.store,
    rows.map(({ contact_id }) => contact_id),
  );
  return rows.flatMap(({ contact_id }) => {
    const attributes = known.get(contact_id);
    if (!attributes) return [];
    const where = attributes.country ? `, ${countryName(attributes.country)}` : '';
    const label = `${attributes.name || displayAddress(attributes.phone || 'a visitor')}${where}`;
    return [{ label, language: attributes.language || undefined, attributes }];
  });
}

async function recentRecords(ctx: AppContext): Promise<TemplateReaders['examples']> {
  const posts = await ctx.store.hookPosts.all({ state: 'taken' }, { order: [['id', 'DESC']], limit: SHOWN });
  const hooks = new Map(
    (
      await ctx.store.hooks.allBy(
        'id',
        posts.map(({ hook_id }) => hook_id),
      )
    ).map((hook) => [hook.id, hook.name]),
  );
  return posts.flatMap((post) => {
    const posted = recordIn(post);
    if (!posted) return [];
    const fields = listFields(posted);
    const record = Object.fromEntries(fields.map(({ name, value }) => [name, value]));
    const telling = fields.find(({ value }) => /\p{L}{3}/u.test(value))?.value.slice(0, 30) ?? '';
    return [{ label: `${hooks.get(post.hook_id) ?? 'A post'}: ${telling}`, record }];
  });
}
