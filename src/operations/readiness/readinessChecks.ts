/** The examinations of each part of the set-up. A part is what can change without the others. */
import { cause } from '../../core/delivery/causes';
import { explainProof, HOP_WORDS } from '../../core/proof/wording';
import { examineHouse, type HouseFacts } from '../../core/readiness/house';
import type { Examined, ReadinessSubject } from '../../core/readiness/readiness';
import type { ChannelRow, ProviderAccountRow } from '../../store/schema/rows';
import { findingsOf } from '../accounts/connectionFindings';
import { syncProfiles } from '../accounts/connectorProfiles';
import { stateOfKey } from '../apps/apiKeys';
import { type AppSummary, automationPage, listApps } from '../apps/apps';
import { groupProofs, type HopProof } from '../channels/proofs';
import { SYSTEM } from '../context/actor';
import type { AppContext } from '../context/appContext';
import { examineSet } from '../routing/routePages';
import { appsTold, publishedSet } from '../routing/routes';
import { problemsOf } from '../templates/templateTexts';
import { houseTraffic } from './readinessTraffic';

/** Such as `account acc_1`; `apps`, `routes`, `templates` and `house` are one each. */
export type Part = string;

export const FIXED_PARTS: readonly Part[] = ['apps', 'routes', 'templates', 'house'];
const ACCOUNT = 'account ';
export const accountPart = (id: string): Part => `${ACCOUNT}${id}`;

const DAY = 86_400_000;

/** Every part there is now. */
export async function allParts(ctx: AppContext): Promise<Part[]> {
  const accounts = await ctx.store.select<{ id: string }>('SELECT id FROM provider_accounts');
  return [...FIXED_PARTS, ...accounts.map(({ id }) => accountPart(id))];
}

/** What the examination of some parts says now. A part that is gone says nothing. */
export async function examineParts(ctx: AppContext, parts: Iterable<Part>): Promise<Map<Part, Examined[]>> {
  const wanted = [...parts];
  const found = new Map<Part, Examined[]>(wanted.map((part) => [part, []]));
  const ids = wanted.flatMap((part) => (part.startsWith(ACCOUNT) ? [part.slice(ACCOUNT.length)] : []));
  if (ids.length > 0) for (const [part, findings] of await ofAccounts(ctx, ids)) found.set(part, findings);
  if (found.has('apps')) found.set('apps', (await listApps(ctx, SYSTEM)).flatMap(ofApp));
  if (found.has('routes')) found.set('routes', await ofRoutes(ctx));
  if (found.has('templates')) found.set('templates', await ofTemplates(ctx));
  if (found.has('house')) found.set('house', examineHouse(await houseFacts(ctx)));
  return found;
}

async function ofAccounts(ctx: AppContext, ids: readonly string[]): Promise<Map<Part, Examined[]>> {
  await syncProfiles(ctx);
  const accounts = await ctx.store.accounts.all({ id: [...ids] });
  const [channels, findings, aside] = await Promise.all([
    ctx.store.channels.all({ account_id: [...ids] }),
    findingsOf(ctx, accounts),
    setAsideRequests(ctx),
  ]);
  const proofRows = await ctx.store.proofs.allBy(
    'subject_id',
    channels.map(({ id }) => id),
  );
  const proofs = groupProofs(proofRows, ctx.now());
  return new Map(
    accounts.map((account) => {
      const own = channels.filter(({ account_id }) => account_id === account.id);
      const subjects = new Set([account.id, ...own.map(({ id }) => id)]);
      return [
        accountPart(account.id),
        [
          ...ofCredential(account, own),
          ...ofSetAside(own, aside),
          ...findings
            .filter(({ subject }) => subjects.has(subject))
            .map(({ hop, action, subject: id, about, ...finding }): Examined => {
              const channel = own.find((each) => each.id === id);
              return {
                ...finding,
                subject: channel ? ofChannel(channel) : ofAccount(account),
                about: [hop, about].filter(Boolean).join(' '),
                affects: channel ? [channel.id] : own.map((each) => each.id),
                ...(action ? { action: { kind: action, id } } : {}),
              };
            }),
          ...own.flatMap((channel) =>
            (proofs.get(channel.id) ?? []).flatMap((proof) => ofProof(proof, ofChannel(channel), [channel.id])),
          ),
        ],
      ];
    }),
  );
}

interface SetAside {
  channel: string;
  n: number;
  reason: string | null;
}

const SET_ASIDE_DAYS = 7;

/** Stored requests that could not be worked through, by channel, with what the latest failed of. */
function setAsideRequests(ctx: AppContext): Promise<SetAside[]> {
  return ctx.store.select<SetAside>(
    `SELECT channel_id AS channel, count(*) AS n, max(id), outcome->>'reason' AS reason FROM inbound_requests
      WHERE state = 'unreadable' AND cause = 'inbound-not-processed' AND received_at > :since GROUP BY channel_id`,
    { since: ctx.now() - SET_ASIDE_DAYS * 24 * 3_600_000 },
  );
}

function ofSetAside(own: readonly ChannelRow[], aside: readonly SetAside[]): Examined[] {
  return own.flatMap((channel): Examined[] => {
    const found = aside.find((each) => each.channel === channel.id);
    if (!found) return [];
    const requests = found.n === 1 ? 'A stored request' : `${found.n} stored requests`;
    return [
      {
        code: 'inbound-not-processed',
        severity: 'error',
        problem: `${requests} could not be processed${found.reason ? `: ${found.reason}` : ''}`,
        mend: cause('inbound-not-processed').mend,
        subject: ofChannel(channel),
        about: 'set aside',
        affects: [channel.id],
      },
    ];
  });
}

function ofCredential(account: ProviderAccountRow, own: readonly ChannelRow[]): Examined[] {
  if (account.state === 'accepted' || !account.cause) return [];
  return [
    {
      code: account.cause,
      severity: account.state === 'refused' ? 'error' : 'attention',
      problem: cause(account.cause).explain({ who: account.name }),
      mend: cause(account.cause).mend,
      subject: ofAccount(account),
      about: 'credential',
      affects: own.map(({ id }) => id),
      action: { kind: 'check-account', id: account.id },
    },
  ];
}

function ofAccount({ id, name }: ProviderAccountRow): ReadinessSubject {
  return { kind: 'account', id, name, href: `/connect/providers/${id}` };
}

function ofChannel({ id, name }: ChannelRow): ReadinessSubject {
  return { kind: 'channel', id, name, href: `/connect/channels/${id}` };
}

/** A broken hop is an error; one that nothing has exercised is said without alarm. */
function ofProof(proof: HopProof, subject: ReadinessSubject, affects: readonly string[]): Examined[] {
  const { why, mend } = explainProof(proof.hop, proof);
  if (!why || !mend) return [];
  const broken = proof.state === 'broken';
  return [
    {
      code: broken ? (proof.cause ?? 'broken') : 'unproven',
      severity: broken ? 'error' : 'notice',
      problem: `${HOP_WORDS[proof.hop]}: ${why.charAt(0).toLowerCase()}${why.slice(1)}.`,
      mend,
      subject,
      about: proof.hop,
      since: proof.since,
      affects,
    },
  ];
}

function ofApp({ app, proofs, findings, automations }: AppSummary): Examined[] {
  const subject: ReadinessSubject = { kind: 'app', id: app.id, name: app.name, href: `/apps/${app.id}` };
  const affects = [app.id];
  return [
    ...proofs.flatMap((proof) => ofProof(proof, subject, affects)),
    // An automation that is broken speaks for itself below.
    ...findings.filter(({ of }) => of !== 'automation').map((finding): Examined => ({ ...finding, subject, affects })),
    ...automations.flatMap((automation) =>
      automation.disabledAt === null
        ? automation.proofs.flatMap((proof) =>
            ofProof(
              proof,
              {
                kind: 'automation',
                id: automation.id,
                name: `${automation.name}, ${automation.what} of ${app.name}`,
                href: automationPage(automation),
              },
              [],
            ),
          )
        : [],
    ),
  ];
}

async function ofRoutes(ctx: AppContext): Promise<Examined[]> {
  const { number, set } = await publishedSet(ctx);
  if (number === 0) return [];
  const name = (id: string) => set.routes.find((route) => route.id === id)?.name ?? 'a route';
  return (await examineSet(ctx, SYSTEM, set)).map((finding) => ({
    ...finding,
    subject: finding.route
      ? { kind: 'route', id: finding.route, name: name(finding.route), href: '/route/routes' }
      : { kind: 'routes', id: `revision ${number}`, name: 'The routes', href: '/route/routes' },
    about: finding.because?.join(' '),
    affects: finding.route ? [] : ['*'],
  }));
}

/** Templates that something sends and that may not be sent now. */
async function ofTemplates(ctx: AppContext): Promise<Examined[]> {
  const [hooks, sheets] = await Promise.all([
    ctx.store.hooks.all({ disabled_at: null }),
    ctx.store.sheets.all({ disabled_at: null }),
  ]);
  const used = [...hooks, ...sheets].flatMap(({ template }) => (template ? [template.id] : []));
  const problems = await problemsOf(ctx.store, [...new Set(used)]);
  const examined: Examined[] = [];
  for (const [what, page, rows] of [
    ['send hook', 'hooks', hooks],
    ['sheet', 'sheets', sheets],
  ] as const)
    for (const { id, name, app_id, template } of rows) {
      const problem = template && problems.get(template.id);
      if (!problem) continue;
      const href = page === 'hooks' ? `/apps/${app_id}/hooks/${id}` : `/apps/${app_id}/sheets`;
      examined.push({
        ...problem,
        subject: { kind: 'automation', id, name: `${name}, ${what}`, href },
        about: 'template',
        affects: [],
      });
    }
  return examined;
}

/** What the checks over the whole house look at. */
async function houseFacts(ctx: AppContext): Promise<HouseFacts> {
  const now = ctx.now();
  const [
    channels,
    accounts,
    numbers,
    apps,
    keys,
    subscriptions,
    appAccounts,
    { people, spent },
    waiting,
    hits,
    { set },
    draft,
  ] = await Promise.all([
    ctx.store.channels.all(),
    ctx.store.accounts.all(),
    ctx.store.numbers.all(),
    ctx.store.apps.all(),
    ctx.store.apiKeys.all({ revoked_at: null }),
    ctx.store.subscriptions.all({ disabled_at: null }),
    ctx.store.appAccounts.all(),
    houseTraffic(ctx),
    ctx.store.select<{ channel: string; since: number; n: number }>(
      `SELECT channel_id AS channel, min(due_at) AS since, count(*) AS n FROM outbox WHERE state = 'due' AND due_at <= :now GROUP BY 1`,
      { now },
    ),
    ctx.store.select<{ route: string; n: number }>(
      'SELECT route_id AS route, sum(hits) AS n FROM route_hits WHERE day > :since GROUP BY 1',
      { since: Math.floor(now / DAY) - 7 },
    ),
    publishedSet(ctx),
    ctx.store.routeDrafts.one({ id: 'draft' }),
  ]);
  const told = appsTold(set);
  return {
    now,
    channels: channels
      .filter(({ account_id }) => accounts.some(({ id, disabled_at }) => id === account_id && disabled_at === null))
      .map(({ id, name, address, account_id, number_id }) => {
        const account = accounts.find((row) => row.id === account_id);
        const number = numbers.find((row) => row.id === number_id);
        const wait = waiting.find(({ channel }) => channel === id);
        return {
          id,
          name,
          address,
          accountId: account_id,
          accountName: account?.name ?? 'The account',
          ...(number?.gone_at ? { goneAt: number.gone_at } : {}),
          ...(account?.facts.countries ? { allowed: account.facts.countries } : {}),
          people: Object.fromEntries(
            people.filter(({ channel }) => channel === id).map(({ country, n }) => [country, n]),
          ),
          ...(wait ? { waiting: { since: wait.since, count: wait.n } } : {}),
        };
      }),
    accounts: accounts.map(({ id, name, balance_micros, balance_currency }) => ({
      id,
      name,
      balanceMicros: balance_micros ?? undefined,
      currency: balance_currency ?? undefined,
      spentMicros: spent[id] ?? 0,
    })),
    apps: apps.map(({ id, name }) => {
      const records = appAccounts.find(({ app_id }) => app_id === id);
      return {
        id,
        name,
        told: told.has(id),
        subscribed: subscriptions.filter(({ app_id }) => app_id === id).map(({ events }) => events),
        // One that another key took over from has ended in peace.
        endedKeys: keys
          .filter((key) => key.app_id === id && stateOfKey(key, now) === 'expired')
          .filter(
            ({ last_used_at }) =>
              !keys.some((key) => key.app_id === id && (key.last_used_at ?? 0) > (last_used_at ?? 0)),
          )
          .filter(({ expires_at, last_used_at }) => (last_used_at ?? 0) > (expires_at ?? 0) - 2 * DAY)
          .map((key) => ({ name: key.name, endedAt: key.expires_at ?? now })),
        ...(records ? { records: { state: records.state, cause: records.cause ?? undefined } } : {}),
      };
    }),
    ...(draft && JSON.stringify(draft.content) !== JSON.stringify(set)
      ? { draft: { changedAt: draft.changed_at, by: draft.by } }
      : {}),
    off: set.routes
      .filter(({ off }) => off)
      .map(({ id, name }) => ({ id, name, hits: hits.find(({ route }) => route === id)?.n ?? 0 })),
    automations: await automationsOff(ctx),
  };
}

async function automationsOff(ctx: AppContext): Promise<HouseFacts['automations'][number][]> {
  const off = (await listApps(ctx, SYSTEM)).flatMap(({ automations }) =>
    automations.filter(({ disabledAt }) => disabledAt !== null),
  );
  if (off.length === 0) return [];
  const used = await ctx.store.select<{ id: string; at: number }>(
    `SELECT source_id AS id, max(created_at) AS at FROM runs
      WHERE source_id IN (SELECT value FROM json_each(:ids)) GROUP BY 1`,
    { ids: JSON.stringify(off.map(({ id }) => id)) },
  );
  return off.map((automation) => ({
    id: automation.id,
    name: automation.name,
    what: automation.what,
    href: automationPage(automation),
    offAt: automation.disabledAt ?? 0,
    usedAt: used.find(({ id }) => id === automation.id)?.at,
  }));
}
