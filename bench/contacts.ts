/** Contacts in numbers: looking through 200,000 of them, and importing a file of 100,000 lines while somebody works. */
import { EVERYBODY, type Group } from '../src/core/contacts/audience';
import { countAudience, whereOf } from '../src/operations/contacts/audiences';
import { beginImport, getImport, planImport, runImport } from '../src/operations/contacts/contactImport';
import { browseContacts } from '../src/operations/contacts/contactPages';
import { undoImport } from '../src/operations/contacts/importRollback';
import { SYSTEM } from '../src/operations/context/actor';
import type { AppContext } from '../src/operations/context/appContext';
import { addIdentities } from '../src/operations/identities';
import { newId } from '../src/store/ids';
import { startInstallation } from '../tests/harness/processes';
import { until } from '../tests/harness/until';
import { peakMiB } from './sheets';

const CONTACTS = Number(process.env.BENCH_CONTACTS ?? 200_000);
const LINES = Number(process.env.BENCH_IMPORT_LINES ?? 100_000);
const BAD_EVERY = 33;

export async function contacts(): Promise<void> {
  const installation = await startInstallation({ web: true });
  try {
    await importing(installation);
    await fill(installation.ctx);
    await browsing(installation.ctx);
  } finally {
    await installation.stop();
  }
}

/** Numbers of a made-up plan, as many as are wanted: 7700 900 and six digits are too few. */
const phone = (n: number) => `+4477009${String(n).padStart(5, '0').slice(-5)}`;
const swedish = (n: number) => `+4670174${String(n).padStart(4, '0').slice(-4)}`;

async function importing({ ctx, engine, origin }: Awaited<ReturnType<typeof startInstallation>>): Promise<void> {
  const lines = Array.from({ length: LINES }, (_, n) => {
    const number = n % BAD_EVERY === 0 ? ['', 'not a number', '12', '+44'][n % 4] : `+447${String(100_000_000 + n)}`;
    return `Skipper ${n},${number},Boat ${n % 500},${n % 2 ? 'moorings' : 'passages'},${n % 90}`;
  });
  const content = Buffer.from(['Name,Mobile,Boat,Tags,Nights', ...lines].join('\n'));
  for (const time of ['first', 'second'] as const) {
    const before = peakMiB(engine?.pid);
    const { id } = await beginImport(ctx, SYSTEM, { name: 'skippers.csv', content, country: 'GB' });
    const examinedIn = await timed(() =>
      until('it is examined', async () => (await ctx.store.imports.one({ id }))?.state === 'preview'),
    );
    const { row } = await getImport(ctx, SYSTEM, id);
    await planImport(ctx, SYSTEM, id, { ...row.plan, consent: { ways: ['text'], source: 'Mooring form, spring' } });
    await until('it is examined again', async () => (await ctx.store.imports.one({ id }))?.state === 'preview');
    await runImport(ctx, SYSTEM, id);
    const waits: number[] = [];
    const carriedOutIn = await timed(() =>
      until('it is carried out', async () => {
        const began = performance.now();
        await fetch(`${origin}/sign-in`);
        waits.push(performance.now() - began);
        return (await ctx.store.imports.one({ id }))?.state === 'done';
      }),
    );
    const done = await ctx.store.imports.one({ id });
    const listed = await ctx.store.importLines.count({ import_id: id, outcome: 'refused' });
    const unexplained = await ctx.store.importLines.count({ import_id: id, outcome: 'refused', reason: null });
    console.log(
      `Import of ${LINES} lines, ${time} time: examined in ${examinedIn.toFixed(0)} s, carried out in ${carriedOutIn.toFixed(0)} s; ${done?.created} created, ${done?.merged} merged, ${done?.unchanged} unchanged, ${done?.refused} refused (${listed} listed, ${unexplained} without a reason); engine at most ${peakMiB(engine?.pid)} MiB, before it ${before} MiB; a page meanwhile p95 ${p95(waits).toFixed(0)} ms`,
    );
    if (time === 'second') continue;
    const people = await ctx.store.contacts.count();
    if (people !== done?.created) throw new Error(`${people} contacts of ${done?.created}`);
  }
  const [first] = await ctx.store.imports.all(undefined, { order: [['id', 'ASC']], limit: 1 });
  const undoneIn = await timed(() => undoImport(ctx, SYSTEM, first?.id ?? ''));
  console.log(`Undone in ${undoneIn.toFixed(0)} s; ${await ctx.store.contacts.count()} contacts are left`);
}

async function timed(work: () => Promise<unknown>): Promise<number> {
  const began = performance.now();
  await work();
  return (performance.now() - began) / 1000;
}

async function fill(ctx: AppContext): Promise<void> {
  const now = Date.now();
  for (let from = 0; from < CONTACTS; from += 20_000) {
    await ctx.store.write(async (unit) => {
      const rows = Array.from({ length: Math.min(20_000, CONTACTS - from) }, (_, index) => {
        const n = from + index;
        return {
          id: newId('con', now + n),
          name: `Skipper ${n} ${['Calder', 'Wherry', 'Lockhart', 'Finch'][n % 4]}`,
          country: ['GB', 'SE', 'FR', 'DE'][n % 4] as string,
          created_at: now + n,
          carrier: null,
          carrier_at: null,
          language: ['en', 'sv', 'fr', 'de'][n % 4] as string,
          language_from: 'number',
          zone: null,
          zone_from: null,
          merged_into: null,
          seen_at: n % 3 === 0 ? now - (n % 200) * 86_400_000 : null,
        };
      });
      await unit.contacts.insert(rows);
      await addIdentities(
        unit,
        rows.map(({ id }, index) => ({
          kind: 'phone' as const,
          scope: '',
          value: from + index < 100_000 ? phone(from + index) : `${swedish(from + index)}${from + index}`,
          contactId: id,
        })),
        { at: now, source: 'import', why: 'bench', by: 'bench' },
      );
      await unit.contactTags.insert(
        rows.flatMap(({ id }, index) => [
          { contact_id: id, tag: `club ${index % 20}` },
          ...(index % 5 === 0 ? [{ contact_id: id, tag: 'moorings' }] : []),
        ]),
      );
      await unit.contactAttributes.insert(
        rows.flatMap(({ id }, index) => [
          { contact_id: id, name: 'boat', value: `Boat ${index % 900}`, number: null },
          { contact_id: id, name: 'nights', value: String(index % 90), number: index % 90 },
        ]),
      );
      await unit.contactConsents.insert(
        rows.map(({ id, created_at }, index) => ({
          contact_id: id,
          way: 'text' as const,
          state: index % 10 === 0 ? ('withdrawn' as const) : ('given' as const),
          since: created_at,
          entry_id: `cns_${id}`,
        })),
      );
    });
  }
  await ctx.store.write((unit) => unit.execute('ANALYZE'));
}

const AUDIENCES: [string, Group][] = [
  ['everybody', EVERYBODY],
  ['a tag', { match: 'all', of: [{ on: 'tag', is: 'has', tag: 'moorings' }] }],
  [
    'agreed, in Sweden',
    {
      match: 'all',
      of: [
        { on: 'consent', way: 'text', is: 'given' },
        { on: 'country', is: 'one of', values: ['SE'] },
      ],
    },
  ],
  [
    'either of two groups',
    {
      match: 'any',
      of: [
        {
          match: 'all',
          of: [
            { on: 'tag', is: 'has', tag: 'moorings' },
            { on: 'attribute', name: 'nights', is: 'above', value: '60' },
          ],
        },
        {
          match: 'all',
          of: [
            { on: 'attribute', name: 'boat', is: 'equals', value: 'Boat 17' },
            { on: 'wrote', is: 'within', days: 30 },
          ],
        },
      ],
    },
  ],
  [
    'not this and not that',
    {
      match: 'all',
      of: [
        { on: 'tag', is: 'lacks', tag: 'club 3' },
        { on: 'consent', way: 'text', is: 'withdrawn' },
      ],
    },
  ],
];

async function browsing(ctx: AppContext): Promise<void> {
  console.log(`${await ctx.store.contacts.count()} contacts`);
  for (const [name, audience] of AUDIENCES) {
    const { sql, values } = whereOf(audience, Date.now());
    const plan = await ctx.store.select<{ detail: string }>(
      `EXPLAIN QUERY PLAN SELECT count(*) FROM contacts c WHERE c.merged_into IS NULL AND ${sql}`,
      values,
    );
    const counts = await measure(() => countAudience(ctx, SYSTEM, audience));
    const pages = await measure(() => browseContacts(ctx, SYSTEM, { audience, limit: 50 }));
    console.log(
      `  ${name}: count p95 ${counts.toFixed(0)} ms, page p95 ${pages.toFixed(0)} ms (${plan.map(({ detail }) => detail).join('; ')})`,
    );
  }
  for (const search of ['Wherry', 'Skipper 19999', '0912345', 'nobody of this name'])
    console.log(
      `  looking for “${search}”: p95 ${(await measure(() => browseContacts(ctx, SYSTEM, { search, limit: 50 }))).toFixed(0)} ms`,
    );
}

export async function measure(work: () => Promise<unknown>): Promise<number> {
  const times: number[] = [];
  for (let round = 0; round < 25; round++) times.push((await timed(work)) * 1000);
  return p95(times.slice(3));
}

function p95(times: readonly number[]): number {
  const sorted = [...times].sort((a, b) => a - b);
  return sorted[Math.floor(sorted.length * 0.95)] ?? 0;
}
