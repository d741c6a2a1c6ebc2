/** Broadcasts as pages show them: the list, one of them, its recipients, and a message as somebody would get it. */
import type { Hold } from '../../core/broadcast/course';
import type { BroadcastAudience } from '../../core/broadcast/definition';
import { LEFT_OUT_CODES, leftOutReason } from '../../core/broadcast/leftOut';
import { type Judged, judge } from '../../core/broadcast/plan';
import type { BroadcastPlan } from '../../core/broadcast/summary';
import { STANDARD_ATTRIBUTES } from '../../core/contacts/attributes';
import { cause, isCauseCode } from '../../core/delivery/causes';
import type { BroadcastRow, RecipientState } from '../../store/schema/rows';
import { browseContacts } from '../contacts';
import {
  type Actor,
  type AppContext,
  asView,
  narrowedApp,
  reachesContent,
  reachOf,
  requireAccess,
  type View,
} from '../context';
import { knownBy, readKnownBy } from '../identities';
import { syncProfiles } from '../profiles';
import { countMembers, passingCauses } from './audience';
import { pathProblem } from './course';
import { readFacts } from './facts';
import { asMergeField, readPeople } from './people';
import { type BroadcastRoles, mayDo, needsApproval, readBroadcastRules } from './settings';
import { type CourseBar, courseOf, type Waiting, waitingOf } from './watching';
import { readDefinition } from './writing/drafts';
import { describeList } from './writing/lists';
import { reachedBroadcast } from './writing/reached';

export interface Progress {
  people: number;
  leftOut: number;
  planned: number;
  waiting: number;
  sent: number;
  delivered: number;
  failed: number;
  uncertain: number;
  replied: number;
  optedOut: number;
  /** Answers that were pressed, the most pressed first. */
  pressed: { label: string; n: number }[];
}

const NOTHING: Progress = {
  people: 0,
  leftOut: 0,
  planned: 0,
  waiting: 0,
  sent: 0,
  delivered: 0,
  failed: 0,
  uncertain: 0,
  replied: 0,
  optedOut: 0,
  pressed: [],
};

const PLACE: Record<RecipientState, Exclude<keyof Progress, 'pressed' | 'people' | 'replied' | 'optedOut'>> = {
  'left-out': 'leftOut',
  planned: 'planned',
  queued: 'waiting',
  sending: 'waiting',
  uncertain: 'uncertain',
  sent: 'sent',
  delivered: 'delivered',
  read: 'delivered',
  failed: 'failed',
};

export interface BroadcastLine {
  broadcast: View<Omit<BroadcastRow, 'definition' | 'plan'>>;
  going: number | undefined;
  progress: Progress;
}

/** The latest first; what belongs to a channel that is not for them is not among them. */
export async function listBroadcasts(ctx: AppContext, actor: Actor, most = 200): Promise<BroadcastLine[]> {
  requireAccess(actor, 'viewer', 'broadcasts:read');
  const reach = await reachOf(ctx.store, actor);
  const rows = await ctx.store.broadcasts.all(undefined, { order: [['id', 'DESC']], limit: most });
  const own = narrowedApp(actor) === undefined ? undefined : actor.id;
  const shown = rows.filter(
    ({ definition, created_by }) => reachesContent(reach, definition) && (own === undefined || created_by === own),
  );
  const progress = await progressOf(
    ctx,
    shown.map(({ id }) => id),
  );
  return shown.map(({ definition: _, plan, ...row }) => ({
    broadcast: asView(row),
    going: plan?.going,
    progress: progress.get(row.id) ?? NOTHING,
  }));
}

async function progressOf(ctx: AppContext, ids: readonly string[]): Promise<Map<string, Progress>> {
  const [counts, answers] = await Promise.all([
    ctx.store.broadcastCounts.allBy('broadcast_id', ids),
    ctx.store.broadcastAnswers.allBy('broadcast_id', ids),
  ]);
  const found = new Map(ids.map((id) => [id, { ...NOTHING, pressed: [] as Progress['pressed'] }]));
  for (const { broadcast_id, state, n } of counts) {
    const progress = found.get(broadcast_id);
    if (!progress) continue;
    progress[PLACE[state]] += n;
    progress.people += n;
  }
  for (const { broadcast_id, what, label, n } of answers) {
    const progress = found.get(broadcast_id);
    if (what === 'pressed') progress?.pressed.push({ label, n });
    else if (progress) progress[what === 'replied_at' ? 'replied' : 'optedOut'] += n;
  }
  for (const { pressed } of found.values()) pressed.sort((a, b) => b.n - a.n);
  return found;
}

export interface ReasonLine {
  code: string;
  title: string;
  remedy: string;
  /** Of those who are left out, where it is dealt with. */
  at?: ReturnType<typeof leftOutReason>['at'];
  n: number;
}

export interface BroadcastPageView {
  now: number;
  broadcast: View<BroadcastRow>;
  plan?: BroadcastPlan;
  /** The plan is of what it says now. */
  planned: boolean;
  progress: Progress;
  leftOut: ReasonLine[];
  failed: ReasonLine[];
  countries: { country: string; going: number; delivered: number; failed: number }[];
  /** What providers charged by now, and for how many messages they told it. */
  spent: { currency: string; micros: number; n: number }[];
  /** What it waits for while nothing of it leaves. */
  waiting?: Waiting;
  course: { bars: CourseBar[]; step: number };
  /** How many failed for a cause that passes. */
  passing: number;
  /** Why its path is not proven. */
  path?: { state: 'broken' | 'unproven'; words: string };
  /** What whoever looks at it may do. */
  may: Record<keyof BroadcastRoles, boolean>;
  /** A second person would have to approve it. */
  wantsApproval: boolean;
  /** Ids and names of contacts that are chosen one by one. */
  people: [string, string][];
  /** People of the list it was given. */
  listLines: number;
  /** What merge fields may name: attributes of contacts, then columns of the list. */
  fields: string[];
  held?: {
    problem: string;
    remedy: string;
    at: number;
    underWay: number;
    by?: string;
    code: Hold['code'] | 'by-hand' | 'limit';
  };
}

export async function getBroadcastPage(ctx: AppContext, actor: Actor, id: string): Promise<BroadcastPageView> {
  requireAccess(actor, 'viewer', 'broadcasts:read');
  const row = await reachedBroadcast(ctx.store, actor, id);
  const [counts, progress, path, rule, attributes, list, waiting, course, people, spent] = await Promise.all([
    ctx.store.broadcastCounts.all({ broadcast_id: id }),
    progressOf(ctx, [id]),
    pathProblem(ctx.store, row, ctx.now()),
    readBroadcastRules(ctx.store),
    ctx.store.select<{ name: string }>('SELECT DISTINCT name FROM contact_attributes ORDER BY name LIMIT 100'),
    describeList(ctx.store, row.list_id),
    waitingOf(ctx, row, ctx.now()),
    courseOf(ctx.store, id),
    namesOf(ctx, row.definition.audience),
    ctx.store.broadcastSpend.all({ broadcast_id: id }),
  ]);
  const byReason = (state: RecipientState) => {
    const sums = new Map<string, number>();
    for (const each of counts)
      if (each.state === state && each.n > 0) sums.set(each.reason, (sums.get(each.reason) ?? 0) + each.n);
    return [...sums].sort(([, a], [, b]) => b - a);
  };
  const passing = new Set(passingCauses());
  const countries = new Map<string, { country: string; going: number; delivered: number; failed: number }>();
  for (const { state, country, n } of counts) {
    if (state === 'left-out' || n === 0) continue;
    const entry = countries.get(country) ?? { country, going: 0, delivered: 0, failed: 0 };
    countries.set(country, entry);
    entry.going += n;
    if (PLACE[state] === 'delivered') entry.delivered += n;
    if (state === 'failed') entry.failed += n;
  }
  return {
    now: ctx.now(),
    broadcast: asView(row),
    plan: row.plan ?? undefined,
    planned: row.plan?.version === row.version,
    progress: progress.get(id) ?? NOTHING,
    leftOut: byReason('left-out').map(([code, n]) => ({ ...wordsOf(code), n })),
    failed: byReason('failed').map(([code, n]) => ({ ...failureWords(code), n })),
    countries: [...countries.values()].sort((a, b) => b.going - a.going),
    waiting,
    spent: spent.map(({ currency, micros, n }) => ({ currency, micros, n })),
    course,
    passing: byReason('failed').reduce((sum, [code, n]) => sum + (passing.has(code) ? n : 0), 0),
    path,
    may: {
      prepare: await mayDo(ctx.store, actor, 'prepare'),
      start: await mayDo(ctx.store, actor, 'start'),
      approve: await mayDo(ctx.store, actor, 'approve'),
    },
    wantsApproval: row.plan ? needsApproval(rule, row.plan) : false,
    people,
    listLines: list.lines,
    fields: [
      ...new Set([
        ...[...STANDARD_ATTRIBUTES, ...attributes.map(({ name }) => name)].map(asMergeField),
        ...list.fields,
      ]),
    ],
    held: row.held ?? undefined,
  };
}

function wordsOf(code: string): Omit<ReasonLine, 'n'> {
  const known = LEFT_OUT_CODES.find((each) => each === code) ?? 'refused';
  const { title, remedy, at } = leftOutReason(known);
  return { code, title, remedy, at };
}

function failureWords(code: string): Omit<ReasonLine, 'n'> {
  if (!isCauseCode(code))
    return { code, title: 'Failed, and no cause was told', remedy: 'Read the trail of one of them.' };
  const { title, remedy } = cause(code);
  return { code, title, remedy };
}

export interface RecipientView {
  seq: number;
  contactId?: string;
  name?: string;
  /** Their address, or what a list gave as one. */
  value?: string;
  state: RecipientState;
  reason?: { title: string; said?: string };
  channelId?: string;
  country?: string;
  dueAt?: number;
  parts?: number;
  messageId?: string;
  repliedAt?: number;
  pressed?: string;
  optedOut: boolean;
}

export interface RecipientFilter {
  /** States, a reason, or what they answered. */
  show?: string;
  reason?: string;
  country?: string;
  channel?: string;
  /** The answer they pressed. */
  pressed?: string;
  find?: string;
}

const SHOWN: Record<string, string> = {
  going: `r.state <> 'left-out'`,
  'left-out': `r.state = 'left-out'`,
  planned: `r.state = 'planned'`,
  waiting: `r.state IN ('queued', 'sending')`,
  sent: `r.state = 'sent'`,
  delivered: `r.state IN ('delivered', 'read')`,
  failed: `r.state = 'failed'`,
  uncertain: `r.state = 'uncertain'`,
  replied: 'r.replied_at IS NOT NULL',
  'opted-out': 'r.opted_out_at IS NOT NULL',
};

/** A page of recipients after a place, in the order of the plan. */
export async function listRecipients(
  ctx: AppContext,
  actor: Actor,
  id: string,
  filter: RecipientFilter,
  { after = 0, most = 100 }: { after?: number; most?: number } = {},
): Promise<{ recipients: RecipientView[]; next?: number }> {
  requireAccess(actor, 'viewer', 'broadcasts:read');
  await reachedBroadcast(ctx.store, actor, id);
  const conditions = [
    filter.show && SHOWN[filter.show],
    filter.reason && 'r.reason = :reason',
    filter.country && 'r.country = :country',
    filter.channel && 'r.channel_id = :channel',
    filter.pressed && 'r.pressed = :pressed',
    filter.find && `(r.value LIKE :find ESCAPE '!' OR c.name LIKE :find ESCAPE '!')`,
  ].filter(Boolean);
  const rows = await ctx.store.select<{
    seq: number;
    contact_id: string | null;
    name: string | null;
    value: string | null;
    address: string | null;
    state: RecipientState;
    reason: string;
    said: string | null;
    channel_id: string;
    country: string;
    due_at: number | null;
    parts: number | null;
    message_id: string | null;
    replied_at: number | null;
    pressed: string | null;
    opted_out_at: number | null;
  }>(
    `SELECT r.seq, r.contact_id, c.name, r.value, r.state, r.reason, r.said, r.channel_id, r.country, r.due_at, r.parts,
            r.message_id, r.replied_at, r.pressed, r.opted_out_at,
            (SELECT value FROM contact_identities i WHERE i.contact_id = r.contact_id ORDER BY since LIMIT 1) AS address
       FROM broadcast_recipients r LEFT JOIN contacts c ON c.id = r.contact_id
      WHERE r.broadcast_id = :id AND r.seq > :after ${conditions.map((each) => `AND ${each}`).join(' ')}
      ORDER BY r.seq LIMIT :most`,
    {
      id,
      after,
      most: most + 1,
      reason: filter.reason,
      country: filter.country,
      channel: filter.channel,
      pressed: filter.pressed,
      find: `%${(filter.find ?? '').replace(/[!%_]/g, (sign) => `!${sign}`)}%`,
    },
  );
  const recipients = rows.slice(0, most).map(
    (row): RecipientView => ({
      seq: row.seq,
      contactId: row.contact_id ?? undefined,
      name: row.name ?? undefined,
      value: row.value ?? row.address ?? undefined,
      state: row.state,
      ...(row.reason === '' ? {} : { reason: { title: titleOf(row.state, row.reason), said: row.said ?? undefined } }),
      channelId: row.channel_id || undefined,
      country: row.country || undefined,
      dueAt: row.due_at ?? undefined,
      parts: row.parts ?? undefined,
      messageId: row.message_id ?? undefined,
      repliedAt: row.replied_at ?? undefined,
      pressed: row.pressed ?? undefined,
      optedOut: row.opted_out_at !== null,
    }),
  );
  return { recipients, ...(rows.length > most ? { next: recipients.at(-1)?.seq } : {}) };
}

function titleOf(state: RecipientState, reason: string): string {
  if (state === 'left-out') return wordsOf(reason).title;
  return isCauseCode(reason) ? cause(reason).title : reason;
}

export interface PreviewView {
  seq: number;
  name?: string;
  judged: Judged;
  channelName?: string;
  /** Why it is among those that are shown. */
  why: string;
}

/** Real recipients with the message each would get, as things stand now: the longest and the strangest first. */
export async function previewBroadcast(ctx: AppContext, actor: Actor, id: string): Promise<PreviewView[]> {
  requireAccess(actor, 'viewer', 'broadcasts:read');
  const row = await reachedBroadcast(ctx.store, actor, id);
  await syncProfiles(ctx);
  const chosen = new Map((row.plan?.samples ?? []).map(({ seq, why }) => [seq, why]));
  const rows = await ctx.store.broadcastRecipients.all({ broadcast_id: id, seq: [...chosen.keys(), -1] });
  const { facts, capSince } = await readFacts(ctx, ctx.store, row.definition, ctx.now());
  const read = await readPeople(
    ctx.store,
    rows.map(({ contact_id, fields, value }) =>
      fields
        ? { contactId: null, heldOut: false, line: { address: value ?? '', fields } }
        : { contactId: contact_id, heldOut: false },
    ),
    { country: facts.country, capSince },
  );
  return rows
    .map((recipient, index): PreviewView => {
      const person = read[index]?.person;
      const judged: Judged = person ? judge(facts, person) : { goes: false, why: { code: 'no-address' } };
      return {
        seq: recipient.seq,
        name: person?.name ?? recipient.value ?? undefined,
        judged,
        channelName: judged.goes
          ? facts.channels.find(({ id: channel }) => channel === judged.message.channelId)?.name
          : undefined,
        why: chosen.get(recipient.seq) ?? '',
      };
    })
    .sort((a, b) => [...chosen.keys()].indexOf(a.seq) - [...chosen.keys()].indexOf(b.seq));
}

/** How many people an audience has now, while it is being written. */
export async function countBroadcast(
  ctx: AppContext,
  actor: Actor,
  id: string,
  written: unknown,
): Promise<{ contacts: number; list: number }> {
  requireAccess(actor, 'viewer', 'broadcasts:read');
  const { list_id } = await reachedBroadcast(ctx.store, actor, id);
  return countMembers(ctx.store, list_id, readDefinition(written).audience, ctx.now());
}

/** At most so many are offered for what is typed. */
const OFFERED = 8;

/** Contacts with a name or an address like it: their ids, and who they are in words. */
export async function findPeople(ctx: AppContext, actor: Actor, typed: string): Promise<[string, string][]> {
  const { lines } = await browseContacts(ctx, actor, { search: typed.trim().slice(0, 100), limit: OFFERED });
  return lines.map(({ id, name, addresses }) => [id, [name, addresses[0]].filter(Boolean).join(', ')]);
}

/** Names of contacts that are chosen one by one. */
async function namesOf(ctx: AppContext, { include, exclude }: BroadcastAudience): Promise<[string, string][]> {
  const ids = [...include, ...exclude].flatMap((part) => (part.by === 'people' ? part.ids : []));
  const rows = await ctx.store.select<{ id: string; name: string | null; known_by: string | null }>(
    `SELECT c.id, c.name, ${knownBy('c.id')} AS known_by FROM contacts c WHERE c.id IN (:ids)`,
    { ids },
  );
  return rows.map(({ id, name, known_by }) => [id, name ?? readKnownBy(known_by).name]);
}

/** Tags that contacts have, to choose an audience by. */
export async function listTags(ctx: AppContext, actor: Actor): Promise<string[]> {
  requireAccess(actor, 'viewer', 'broadcasts:read');
  const rows = await ctx.store.select<{ tag: string }>('SELECT DISTINCT tag FROM contact_tags ORDER BY tag LIMIT 200');
  return rows.map(({ tag }) => tag);
}
