/** Diagnosis of a complaint: evidence, answers and tests brought together, and what they come to. */
import { channelKind, HOSTED_KINDS } from '../../core/connect/channelKinds';
import { isCauseCode, cause as known } from '../../core/delivery/causes';
import { type Diagnosis, diagnose, type Observed, type Ranked, whatWouldTell } from '../../core/diagnosis/diagnose';
import { OBSERVATIONS, type ObservationId, observation } from '../../core/diagnosis/observations';
import type { Symptom } from '../../core/diagnosis/symptoms';
import { checkAccount } from '../accounts';
import { hasBench, seeHandsets, testPhones, typeOnHandset } from '../bench';
import {
  type Actor,
  type AppContext,
  OperationError,
  reachOf,
  recordAudit,
  requireReached,
  requireRole,
  SYSTEM,
  seesEverything,
} from '../context';
import { openWith, tidyAfter } from '../deliveryTests';
import type { Sender } from '../outbound';
import type { Scope } from './complaintEvidence';
import { gatherEvidence } from './diagnosisEvidence';

export type Answer = 'yes' | 'no' | 'unknown';

export interface Complaint {
  symptom: Symptom;
  scope: Scope;
  /** What people answered and tests showed. */
  answers: Partial<Record<ObservationId, Answer>>;
}

export interface DiagnosisView extends Omit<Diagnosis, 'cause' | 'also' | 'remaining' | 'ruledOut'> {
  cause?: CauseView;
  also: CauseView[];
  remaining: CauseView[];
  ruledOut: CauseView[];
  question?: { id: ObservationId; question: string; help: string };
  test?: { id: ObservationId; offer: string };
  wouldTell: string[];
}

export interface CauseView {
  code: string;
  title: string;
  explanation: string;
  remedy: string;
  share: number;
  reasons: Ranked['reasons'];
  href?: string;
  subject?: string;
  action?: NonNullable<Ranked['named']>['action'];
}

/** Providers are asked anew at most so often: a complaint is looked at several times. */
const CHECK_AGAIN = 20_000;

export async function diagnoseComplaint(ctx: AppContext, actor: Actor, complaint: Complaint): Promise<DiagnosisView> {
  requireRole(actor, 'viewer');
  const { symptom, scope, answers } = complaint;
  await requireWithinReach(ctx, actor, scope);
  await askProviders(ctx, scope);
  const gathered = await gatherEvidence(ctx, symptom, scope);
  const given = (Object.entries(answers) as [ObservationId, Answer][]).filter(([id]) => id in OBSERVATIONS);
  const answered = given.flatMap(([id, answer]): Observed[] =>
    answer === 'unknown' ? [] : [{ id, value: answer === 'yes', from: observation(id).test ? 'test' : 'answer' }],
  );
  const evidence = {
    ...gathered,
    observed: [...gathered.observed.filter(({ id }) => !overtaken(id, answered)), ...answered],
    canTest: await canTest(ctx, scope),
    unknown: given.flatMap(([id, answer]) => (answer === 'unknown' ? [id] : [])),
  };
  const { cause, also, remaining, ruledOut, ...rest } = diagnose(symptom, evidence);
  const { next } = rest;
  return {
    ...rest,
    ...(cause ? { cause: viewOf(cause) } : {}),
    also: also.map(viewOf),
    remaining: remaining.slice(0, 6).map(viewOf),
    ruledOut: ruledOut
      .filter(({ reasons }) => reasons.length > 0)
      .slice(0, 12)
      .map(viewOf),
    ...(next?.kind === 'ask' ? { question: { id: next.id, ...asked(next.id) } } : {}),
    ...(next?.kind === 'test' ? { test: { id: next.id, offer: observation(next.id).test?.offer ?? '' } } : {}),
    wouldTell: whatWouldTell(symptom, evidence).map(
      (id) => observation(id).ask?.question ?? observation(id).test?.offer ?? observation(id).yes,
    ),
  };
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

function viewOf({ code, share, reasons, named }: Ranked): CauseView {
  const words = isCauseCode(code) ? known(code) : undefined;
  return {
    code,
    title: words?.title ?? named?.said ?? code,
    explanation: named?.said ?? words?.explain({}) ?? '',
    remedy: named?.remedy ?? words?.remedy ?? '',
    share,
    reasons,
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

const PATIENCE = 12_000;

/** Does the test that tells causes apart, with a handset of the bench; somebody agreed to it by pressing the button. */
/** Evidence is gathered where whoever asks may look: on a channel that their teams reach. */
async function requireWithinReach(ctx: AppContext, actor: Actor, { channel, app }: Scope): Promise<void> {
  if (seesEverything(await reachOf(ctx.store, actor))) return;
  if (app) await requireReached(ctx.store, actor, 'app', app);
  if (!channel) throw new OperationError('invalid', 'Choose the channel: your teams do not reach all of them.');
  await requireReached(ctx.store, actor, 'channel', channel);
}

export async function probe(
  ctx: AppContext,
  actor: Actor,
  send: Sender,
  id: ObservationId,
  scope: Scope,
): Promise<{ answer: Answer }> {
  requireRole(actor, 'administrator');
  const channel = scope.channel ? await ctx.store.channels.one({ id: scope.channel }) : undefined;
  const [phone] = (await testPhones(ctx)).filter(({ visible }) => visible);
  if (!channel || !phone) throw new OperationError('invalid', 'The test needs a channel and a handset of the bench.');
  const began = ctx.now();
  const open = await openWith(ctx, [phone.number]);
  const word = `Windgap test ${began.toString(36).slice(-5).toUpperCase()}`;
  await ctx.store.write((unit) =>
    recordAudit(unit, actor, began, {
      action: 'test.probe',
      subject: channel.id,
      summary: `${observation(id).test?.offer ?? 'A test'} on ${channel.name}`,
    }),
  );
  const written = async () => {
    const came = { channel_id: channel.id, direction: 'in' as const, sender: phone.number, text: word };
    return (await ctx.store.messages.all(came)).map((message) => message.id);
  };
  if (id === 'bench-in')
    await typeOnHandset(ctx, SYSTEM, {
      number: phone.number,
      to: channel.address,
      text: word,
      way: channelKind(channel.kind).handset ?? 'text',
    });
  else {
    const refused = await send(SYSTEM, {
      to: phone.number,
      from: channel.id,
      text: word,
      tags: ['delivery test'],
      onlyThisWay: true,
    }).then(
      () => false,
      () => true,
    );
    if (refused) return { answer: 'no' };
  }
  const shown = async () =>
    [...(await seeHandsets(ctx, [phone.number], began)).values()].flatMap(({ entries }) =>
      entries.filter(({ text }) => text === word),
    );
  while (ctx.now() - began < PATIENCE) {
    if (id !== 'bench-in' && (await shown()).length > 0) return { answer: 'yes' };
    const came = id === 'bench-in' ? await written() : [];
    if (came.length > 0) {
      await tidyAfter(ctx, { test: 'the test of a diagnosis', since: began }, came, open);
      return { answer: 'yes' };
    }
    await ctx.clock.pause(300);
  }
  return { answer: 'no' };
}
