/** Diagnosis of a complaint: where it is, evidence, answers and tests brought together, and what they come to. */
import { channelKind, HOSTED_KINDS } from '../../core/connect/channelKinds';
import { isCauseCode, cause as known } from '../../core/delivery/causes';
import {
  type Diagnosis,
  diagnose,
  type Evidence,
  type Healed,
  type Observed,
  type Ranked,
  whatWouldTell,
} from '../../core/diagnosis/diagnose';
import { OBSERVATIONS, type ObservationId, observation } from '../../core/diagnosis/observations';
import type { Symptom } from '../../core/diagnosis/symptoms';
import { isUnlisted } from '../../core/diagnosis/unlisted';
import { type Known, type Names, type Owner, ownerOf, placeName, segmentWords, WAYS } from '../../core/diagnosis/way';
import { checkAccount } from '../accounts';
import { hasBench } from '../bench';
import {
  type Actor,
  type AppContext,
  OperationError,
  reachOf,
  requireReached,
  requireReachedMessage,
  requireRole,
  SYSTEM,
  seesEverything,
} from '../context';
import { LOOKED_BACK, NONE_OF_THEM, type Scope } from './complaintEvidence';
import { contrastEvents, contrastRequests } from './contrast/inward';
import { type ContrastView, contrastMessages } from './contrast/messages';
import { gatherEvidence } from './diagnosisEvidence';
import { askedOfText } from './evidenceOfSending';
import { type Trace, type TracedMessage, traceComplaint } from './trace';

export type Answer = 'yes' | 'no' | 'unknown';

export interface Complaint {
  symptom: Symptom;
  scope: Scope;
  /** What people answered and tests showed. */
  answers: Partial<Record<ObservationId, Answer>>;
}

export interface WhereView {
  /** Where it is, as a sentence without a full stop. */
  said: string;
  segment: Trace['segment'];
  owner?: Owner;
  /** Whom to ask, by name. */
  ask?: string;
  known: (Known & { name: string })[];
  message?: TracedMessage;
  candidates: TracedMessage[];
  chosen: boolean;
}

export interface DiagnosisView extends Omit<Diagnosis, 'cause' | 'also' | 'remaining' | 'ruledOut'> {
  where: WhereView;
  /** When it was broken, where it was and is well. */
  healed?: Healed & { reasons: string[] };
  contrast?: ContrastView;
  cause?: CauseView;
  also: CauseView[];
  remaining: CauseView[];
  ruledOut: CauseView[];
  question?: { id: ObservationId; question: string; help: string };
  /** `like`: the message whose words it repeats, where they may be. */
  test?: { id: ObservationId; offer: string; like?: string };
  /** Which message is meant has to be said first. */
  which?: true;
  wouldTell: string[];
}

export interface CauseView {
  code: string;
  title: string;
  explanation: string;
  remedy: string;
  share: number;
  reasons: Ranked['reasons'];
  /** Something is known that is so of this cause and of no other. */
  particular: boolean;
  /** Why it may be another that says the same. */
  doubt?: string;
  /** How many messages met it, where several did. */
  messages?: number;
  href?: string;
  subject?: string;
  action?: NonNullable<Ranked['named']>['action'];
}

/** Providers are asked anew at most so often: a complaint is looked at several times. */
const CHECK_AGAIN = 20_000;

/** All that is known of a complaint before it is judged. */
export async function evidenceOf(ctx: AppContext, actor: Actor, complaint: Complaint): Promise<Evidence> {
  return (await lookAt(ctx, actor, complaint)).evidence;
}

async function lookAt(ctx: AppContext, actor: Actor, { symptom, scope, answers }: Complaint) {
  await requireWithinReach(ctx, actor, scope);
  if (scope.message && scope.message !== NONE_OF_THEM) await requireReachedMessage(ctx.store, actor, scope.message);
  await askProviders(ctx, scope);
  const given = (Object.entries(answers) as [ObservationId, Answer][]).filter(([id]) => id in OBSERVATIONS);
  const answered = given.flatMap(([id, answer]): Observed[] =>
    answer === 'unknown' ? [] : [{ id, value: answer === 'yes', from: observation(id).test ? 'test' : 'answer' }],
  );
  const since = ctx.now() - LOOKED_BACK;
  const [gathered, trace, contrast] = await Promise.all([
    gatherEvidence(ctx, symptom, scope),
    traceComplaint(ctx, symptom, scope, since, answered),
    inCommon(ctx, symptom, scope),
  ]);
  const ofProvider = await askedOfText(ctx, trace.message, trace.names.provider);
  const newer = [...ofProvider.observed, ...answered];
  const evidence: Evidence = {
    ...gathered,
    named: [...gathered.named, ...ofProvider.named],
    observed: [...gathered.observed.filter(({ id }) => !overtaken(id, newer)), ...newer],
    canTest: await canTest(ctx, scope),
    unknown: given.flatMap(([id, answer]) => (answer === 'unknown' ? [id] : [])),
    segment: trace.segment,
    unpinned: !trace.chosen && trace.candidates.length > 0,
  };
  return { evidence, gathered, trace, contrast };
}

export async function diagnoseComplaint(ctx: AppContext, actor: Actor, complaint: Complaint): Promise<DiagnosisView> {
  const { symptom, scope } = complaint;
  const { evidence, gathered, trace, contrast } = await lookAt(ctx, actor, complaint);
  const { cause, also, remaining, ruledOut, ...rest } = diagnose(symptom, evidence);
  const { next } = rest;
  const { healed } = gathered;
  return {
    ...rest,
    where: whereOf(cause?.named && trace.segment.whole ? atCause(trace, cause) : trace),
    ...(rest.verdict === 'healed' && healed ? { healed: { ...healed, reasons: healed.codes.map(titleOf) } } : {}),
    // That nothing splits them is worth saying only where something is wrong.
    ...(contrast?.contrast.found === 'split' || (contrast?.contrast.found === 'nothing' && !trace.segment.whole)
      ? { contrast }
      : {}),
    ...(cause ? { cause: viewOf(cause, trace) } : {}),
    also: also.map((each) => viewOf(each, trace)),
    remaining: withoutEqualTitles(remaining.map((each) => viewOf(each, trace))).slice(0, 6),
    ruledOut: ruledOut
      .filter(({ reasons }) => reasons.length > 0)
      .slice(0, 12)
      .map((each) => viewOf(each, trace)),
    ...(next?.kind === 'ask' ? { question: { id: next.id, ...asked(next.id) } } : {}),
    ...(next?.kind === 'test'
      ? {
          test: {
            id: next.id,
            offer: observation(next.id).test?.offer ?? '',
            like: scope.message ?? trace.message?.id,
          },
        }
      : {}),
    ...(next?.kind === 'which' ? { which: true as const } : {}),
    wouldTell: whatWouldTell(symptom, evidence).map(
      (id) => observation(id).ask?.question ?? observation(id).test?.offer ?? observation(id).yes,
    ),
  };
}

/** What nobody listed at two stages between the same two places is one thing to whoever reads it. */
function withoutEqualTitles(causes: readonly CauseView[]): CauseView[] {
  const merged = new Map<string, CauseView>();
  for (const each of causes) {
    const same = merged.get(each.title);
    merged.set(each.title, same ? { ...same, share: same.share + each.share } : each);
  }
  return [...merged.values()].sort((a, b) => b.share - a.share);
}

/** What failed is compared with what did not: what is sent, what comes in, or what an app is told. */
function inCommon(ctx: AppContext, symptom: Symptom, scope: Scope): Promise<ContrastView | undefined> {
  if (OUTWARD.has(symptom)) return contrastMessages(ctx, scope);
  if (symptom === 'app-silent') return contrastEvents(ctx, scope);
  return symptom === 'replies-missing' ? contrastRequests(ctx, scope) : Promise.resolve(undefined);
}

/** Complaints about what is sent. */
const OUTWARD: ReadonlySet<Symptom> = new Set([
  'nothing-arrives',
  'only-some',
  'arrives-wrong',
  'worked-before',
  'app-cannot-send',
]);

function titleOf(code: string): string {
  return isCauseCode(code) ? known(code).title : code;
}

/** The message that is looked at passed where the cause lies now, so that the place is the cause's. */
function atCause(trace: Trace, { between }: Ranked): Trace {
  if (!between) return trace;
  const [from, to] = between;
  const { way } = trace.segment;
  const places: readonly string[] = WAYS[way];
  if (!places.includes(from) || !places.includes(to)) return trace;
  return { ...trace, segment: { way, from, to, sure: false, whole: false } };
}

function whereOf({ segment, known: places, names, message, candidates, chosen }: Trace): WhereView {
  const owner = ownerOf(segment);
  const ask = owner && askedAbout(owner, names);
  return {
    said: segmentWords(segment, names),
    segment,
    ...(owner ? { owner } : {}),
    ...(ask ? { ask } : {}),
    known: places.map((each) => ({ ...each, name: placeName(each.place, names) })),
    ...(message ? { message } : {}),
    candidates,
    chosen,
  };
}

/** Who can look there. */
function askedAbout(owner: Owner, { provider, app }: Names): string {
  const whom: Record<Owner, string> = {
    asker: `the people who run ${app}`,
    windgap: 'whoever runs this installation',
    provider,
    network: `the person’s network, or ${provider}`,
    phone: 'the person',
    app: `the people who run ${app}`,
    'people between': `${provider === 'the provider' ? 'the other side' : provider}, and whoever runs the network between it and this server`,
  };
  return whom[owner];
}

/** What was answered or tested is newer than what was found: a text that came in before the test shows how it was before. */
function overtaken(id: ObservationId, answered: readonly Observed[]): boolean {
  const silent = answered.some((each) => each.id === 'bench-in' && !each.value);
  return answered.some((each) => each.id === id) || (silent && OF_WHAT_CAME_IN.has(id));
}

const OF_WHAT_CAME_IN = new Set<ObservationId>(['in-arrived', 'in-called', 'in-routed', 'app-told']);

function asked(id: ObservationId) {
  const { ask } = observation(id);
  return { question: ask?.question ?? '', help: ask?.help ?? '' };
}

function viewOf({ code, share, reasons, named, between, particular }: Ranked, { names }: Trace): CauseView {
  if (isUnlisted(code)) {
    const [from, to] = (between ?? ['asker', 'person']).map((place) => placeName(place, names));
    const title = `Something that is not listed, between ${from} and ${to}`;
    return { code, title, explanation: '', remedy: '', share, reasons, particular };
  }
  const words = isCauseCode(code) ? known(code) : undefined;
  return {
    code,
    title: words?.title ?? named?.said ?? code,
    explanation: named?.said ?? words?.explain({}) ?? '',
    remedy: named?.remedy ?? words?.remedy ?? '',
    share,
    reasons,
    particular,
    ...(named?.doubt ? { doubt: named.doubt } : {}),
    ...(named?.messages && named.messages > 1 ? { messages: named.messages } : {}),
    ...(named?.href ? { href: named.href } : {}),
    ...(named?.subject ? { subject: named.subject } : {}),
    ...(named?.action ? { action: named.action } : {}),
  };
}

/** What providers say may be old; a complaint is a reason to ask them now. */
async function askProviders(ctx: AppContext, { channel }: Scope): Promise<void> {
  const only = channel ? (await ctx.store.channels.one({ id: channel }))?.account_id : undefined;
  const accounts = await ctx.store.select<{ id: string }>(
    `SELECT id FROM provider_accounts WHERE disabled_at IS NULL AND connector NOT IN (:hosted) AND coalesce(checked_at, 0) < :before
        ${only ? 'AND id = :only' : ''} LIMIT 20`,
    { before: ctx.now() - CHECK_AGAIN, only: only ?? '', hosted: [...HOSTED_KINDS] },
  );
  await Promise.all(accounts.map(({ id }) => checkAccount(ctx, SYSTEM, id).catch(() => undefined)));
}

async function canTest(ctx: AppContext, { channel }: Scope): Promise<boolean> {
  if (!channel || !hasBench(ctx)) return false;
  const row = await ctx.store.channels.one({ id: channel });
  return row !== undefined && channelKind(row.kind).handset !== undefined;
}

/** Evidence is gathered where whoever asks may look: on a channel that their teams reach. */
export async function requireWithinReach(ctx: AppContext, actor: Actor, { channel, app }: Scope): Promise<void> {
  requireRole(actor, 'viewer');
  if (seesEverything(await reachOf(ctx.store, actor))) return;
  if (app) await requireReached(ctx.store, actor, 'app', app);
  if (!channel) throw new OperationError('invalid', 'Choose the channel: your teams do not reach all of them.');
  await requireReached(ctx.store, actor, 'channel', channel);
}
