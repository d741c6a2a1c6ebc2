/**
 * Runs delivery tests, many at a time. A phone belongs to one run at a time, so that what
 * appears on it has one explanation; runs that need the same phone wait for each other.
 */
import { channelKind } from '../../core/connect/channelKinds';
import { isCauseCode } from '../../core/delivery/causes';
import { type DeliveryTest, phonesOf, withRun, wordOf } from '../../core/deliveryTest/deliveryTest';
import { judgeRound, type Round } from '../../core/deliveryTest/judge';
import { passed } from '../../core/deliveryTest/outcome';
import { namesFrom, type TestNames } from '../../core/deliveryTest/wording';
import type { DeliveryTestRunRow } from '../../store/schema/rows';
import { syncNow } from '../apps/feeds';
import { postHeaders, takeHookPost } from '../apps/hooks';
import { takeCall } from '../apps/phone';
import {
  addCalendarEvent,
  type HandsetSight,
  hasBench,
  seeHandsets,
  type TestPhone,
  testPhones,
  typeOnHandset,
} from '../bench';
import { type Actor, type AppContext, isOperationError, noteChanges, SYSTEM } from '../context';
import type { Sender } from '../outbound';
import { namesInUse, newRun, spendingCap, spentOnTests, writesToPeople } from './deliveryTests';
import { openWith, tidyAfter } from './testCleanup';
import {
  asRound,
  countRecords,
  leftByBrokenRounds,
  lookAt,
  type RoundUnderWay,
  recordKey,
  unexplained,
} from './testObservations';

const MOST_AT_ONCE = 50;
const LOOK_EVERY = 250;
/** So many runs at once are looked at that often; more share the same number of looks. */
const AT_FULL_PACE = 8;
/** A round ends by itself when the longest of its expectations is over, and this later. */
const GRACE = 2000;
/** So far back it is looked whether the like of what is awaited comes by itself. */
const LOOKED_BEFORE = 15_000;
/** So long after it was put into the calendar an event is reminded of; it has to be read first. */
const REMINDED_AFTER = 12_000;

export interface TestRunner {
  /** Begins what waits; answers when to be called again, in milliseconds. */
  round(): Promise<number | undefined>;
  /** Lets rounds under way be written as they stand. */
  stop(): Promise<void>;
}

/** Says why a run failed, as far as that is known. */
export type WhyFailed = (
  ctx: AppContext,
  run: DeliveryTestRunRow,
  rounds: readonly Round[],
) => Promise<string | undefined>;

export function createTestRunner(
  ctx: AppContext,
  send: Sender,
  ring: () => void,
  whyFailed: WhyFailed = async () => undefined,
): TestRunner {
  const phones = new Set<string>();
  const active = new Map<string, Promise<void>>();
  let stopping = false;
  let recovered = false;

  return {
    async round() {
      if (!recovered) await recover(ctx);
      recovered = true;
      await askBySchedule(ctx);
      const waiting = await ctx.store.testRuns.all({ state: 'waiting' }, { order: [['id', 'ASC']], limit: 200 });
      for (const run of waiting) {
        if (active.size >= MOST_AT_ONCE || stopping) break;
        const own = phonesOf(run.content);
        if (active.has(run.id) || [...own].some((phone) => phones.has(phone))) continue;
        for (const phone of own) phones.add(phone);
        const work = runTest(ctx, send, run, {
          stopping: () => stopping,
          whyFailed,
          lookEvery: () => LOOK_EVERY * Math.max(1, active.size / AT_FULL_PACE),
        })
          .catch((error: unknown) => {
            ctx.log.error({ err: error, run: run.id }, 'a delivery test could not be run');
            return stopRun(ctx, run, `It could not be run: ${(error as Error).message}`);
          })
          .finally(() => {
            for (const phone of own) phones.delete(phone);
            active.delete(run.id);
            ring();
          });
        active.set(run.id, work);
      }
      return undefined;
    },
    async stop() {
      stopping = true;
      await Promise.all(active.values());
    },
  };
}

const NOT_BEGUN = { state: 'waiting' as const, started_at: null, rounds: [] };

/** What an engine left in the middle begins again: half a round proves nothing. */
async function recover(ctx: AppContext): Promise<void> {
  await ctx.store.write((unit) => unit.testRuns.change({ state: 'running' }, NOT_BEGUN));
}

async function askBySchedule(ctx: AppContext): Promise<void> {
  const now = ctx.now();
  const due = ctx.store.deliveryTests.read(
    await ctx.store.select<Parameters<typeof newRun>[0]>(
      `SELECT t.* FROM delivery_tests t WHERE t.archived_at IS NULL AND t.every_minutes IS NOT NULL
          AND coalesce((SELECT asked_at FROM delivery_test_runs r WHERE r.test_id = t.id ORDER BY r.id DESC LIMIT 1), 0) <= :now - t.every_minutes * 60000`,
      { now },
    ),
  );
  if (due.length === 0) return;
  await ctx.store.write(async (unit) => {
    const rows = due.map((test) => newRun(test, { why: 'schedule', by: SYSTEM.name, at: now }));
    await unit.testRuns.insert(rows);
    await noteChanges(
      unit,
      now,
      rows.map(({ id }) => ['test', id] as const),
    );
  });
}

/** What a run has to know of the runner. */
interface Conduct {
  whyFailed: WhyFailed;
  stopping(): boolean;
  /** Milliseconds. Times are those of the events, so looking seldom makes no verdict less exact. */
  lookEvery(): number;
}

async function runTest(ctx: AppContext, send: Sender, run: DeliveryTestRunRow, conduct: Conduct): Promise<void> {
  const known = await testPhones(ctx);
  const forbids = await forbidden(ctx, run.content);
  if (forbids) return stopRun(ctx, run, forbids);
  const names = namesFrom(await namesInUse(ctx));
  const started_at = ctx.now();
  const tidying = run.tidying ?? { since: started_at, open: [...(await openWith(ctx, phonesOf(run.content)))] };
  const rounds: Round[] = [];
  await keep(ctx, run, { state: 'running', started_at, rounds, tidying });
  for (let index = 0; index < run.content.times; index++) {
    const round = await doRound(ctx, send, run, index, known, names, conduct, (sofar) =>
      keep(ctx, run, { rounds: [...rounds, sofar] }),
    );
    if (!round) return keep(ctx, run, NOT_BEGUN);
    rounds.push(round);
  }
  const well = passed(run.content, rounds);
  // Before what it left is tidied up: it is evidence.
  const problem = well ? undefined : await conduct.whyFailed(ctx, run, rounds).catch(() => undefined);
  const messages = rounds.flatMap((round) => round.messages);
  if (run.tidying) messages.push(...(await leftByBrokenRounds(ctx, run, run.tidying.since)));
  await tidyAfter(
    ctx,
    { test: `the delivery test “${run.name}”`, since: tidying.since },
    messages,
    new Set(tidying.open),
  );
  await keep(ctx, run, {
    state: well ? 'passed' : 'failed',
    ended_at: ctx.now(),
    rounds,
    ...(problem ? { problem } : {}),
  });
}

async function stopRun(ctx: AppContext, run: DeliveryTestRunRow, problem: string): Promise<void> {
  await keep(ctx, run, { state: 'stopped', problem, ended_at: ctx.now() });
}

async function keep(ctx: AppContext, run: DeliveryTestRunRow, values: Partial<DeliveryTestRunRow>): Promise<void> {
  await ctx.store.write(async (unit) => {
    await unit.testRuns.change({ id: run.id }, values);
    await noteChanges(unit, ctx.now(), [['test', run.id]]);
  });
}

/** Why a test may not run now; undefined when it may. */
async function forbidden(ctx: AppContext, test: DeliveryTest): Promise<string | undefined> {
  const stranger = await writesToPeople(ctx, test);
  if (stranger) return stranger;
  if (test.stimulus.kind === 'text' && !hasBench(ctx)) return 'A handset that writes needs a bench.';
  const cap = await spendingCap(ctx);
  const spent = cap && (await spentOnTests(ctx)).get(cap.currency);
  if (cap && spent !== undefined && spent >= cap.micros)
    return `Tests have cost ${(spent / 1e6).toFixed(2)} ${cap.currency} in a day, and ${(cap.micros / 1e6).toFixed(2)} is the cap.`;
  return undefined;
}

/** Undefined where it was broken off: half a round proves nothing. */
async function doRound(
  ctx: AppContext,
  send: Sender,
  run: DeliveryTestRunRow,
  index: number,
  known: readonly TestPhone[],
  names: TestNames,
  { stopping, lookEvery }: Conduct,
  show: (round: Round) => Promise<void>,
): Promise<Round | undefined> {
  const test = run.content;
  const visible = [...phonesOf(test)].filter((phone) =>
    known.some(({ number, visible }) => number === phone && visible),
  );
  const looksAt = (since: number) => seeHandsets(ctx, visible, since);
  const underWay = await prepare(ctx, run, index, looksAt);
  await stimulate(ctx, send, underWay);
  let shown = '';
  for (;;) {
    const { seen, messages } = await lookAt(ctx, underWay, await looksAt(underWay.began));
    const verdicts = judgeRound(test.expectations, seen, names);
    const settled = verdicts.every(({ holds }) => holds !== undefined);
    const state = verdicts.map(({ holds }) => holds).join();
    if (settled || ctx.now() - underWay.began > longest(test) + GRACE)
      return asRound(underWay, verdicts, messages, ctx.now());
    if (stopping()) return undefined;
    if (state !== shown) await show(asRound(underWay, verdicts, messages));
    shown = state;
    await ctx.clock.pause(lookEvery());
  }
}

function longest({ expectations }: DeliveryTest): number {
  return (
    1000 *
    Math.max(30, ...expectations.map((each) => ('within' in each ? each.within : 'during' in each ? each.during : 0)))
  );
}

function writtenIn(stimulus: DeliveryTest['stimulus']): string {
  if ('text' in stimulus) return stimulus.text;
  if ('record' in stimulus) return stimulus.record;
  return 'title' in stimulus ? stimulus.title : '';
}

/** Looks at the other ends before anything is done: what is there already proves nothing. */
async function prepare(
  ctx: AppContext,
  run: DeliveryTestRunRow,
  index: number,
  looksAt: (since: number) => Promise<ReadonlyMap<string, HandsetSight>>,
): Promise<RoundUnderWay> {
  const test = run.content;
  const written = writtenIn(test.stimulus);
  const word = wordOf(run.id, index, ctx.now());
  const text = withRun(written, word);
  const records = new Map<string, number>();
  for (const each of test.expectations) {
    if (each.expect !== 'record') continue;
    const count = await countRecords(ctx, each);
    if (count !== undefined) records.set(recordKey(each), count);
  }
  const began = ctx.now();
  const present = await unexplained(ctx, await looksAt(began - LOOKED_BEFORE), began - LOOKED_BEFORE);
  return {
    test,
    began,
    text,
    word: text === written ? '' : word,
    ordered: [],
    runs: [],
    before: { records, present },
    looked: new Map(),
  };
}

/** Does what sets the test going. Only an order or a post can be refused; a bench that is away is no verdict. */
async function stimulate(ctx: AppContext, send: Sender, round: RoundUnderWay): Promise<void> {
  const { stimulus } = round.test;
  switch (stimulus.kind) {
    case 'text': {
      const channel = await ctx.store.channels.one({ id: stimulus.channel });
      if (!channel) throw new Error('The channel is gone');
      const way = channelKind(channel.kind).handset;
      await typeOnHandset(ctx, SYSTEM, {
        number: stimulus.phone,
        to: channel.address,
        text: round.text,
        way: way ?? 'text',
      });
      return;
    }
    case 'order': {
      const input = {
        to: stimulus.phone,
        from: stimulus.channel,
        text: round.text,
        tags: ['delivery test'],
        onlyThisWay: true,
      };
      try {
        const answer = await send(await orderer(ctx, stimulus.app), input);
        round.ordered.push(answer.message.id);
      } catch (error) {
        if (!isOperationError(error)) throw error;
        const code = error.findings[0]?.finding.code;
        round.refused = { ...(isCauseCode(code) ? { cause: code } : {}), said: error.message };
      }
      return;
    }
    case 'hook': {
      const hook = await ctx.store.hooks.one({ id: stimulus.hook });
      if (!hook) throw new Error('The send hook is gone');
      const answer = await takeHookPost(ctx, {
        address: `${hook.slug}-${hook.token}`,
        method: 'POST',
        headers: postHeaders(ctx, hook, round.text),
        body: Buffer.from(round.text),
        remoteAddress: null,
        asTest: true,
      });
      const post = answer.postId ? await ctx.store.hookPosts.one({ id: answer.postId }) : undefined;
      if (post?.run_id) round.runs.push(post.run_id);
      else round.refused = { cause: post?.cause ?? undefined, said: answer.reason };
      return;
    }
    case 'event': {
      const feed = await ctx.store.feeds.one({ id: stimulus.feed });
      if (!feed) throw new Error('The calendar feed is gone');
      const offset = Math.min(...feed.offsets) * 60_000;
      round.event = await addCalendarEvent(ctx, SYSTEM, {
        title: round.text,
        notes: stimulus.phone,
        at: round.began + offset + REMINDED_AFTER,
      });
      await syncNow(ctx, SYSTEM, feed.id);
      return;
    }
    case 'call': {
      const system = await ctx.store.phoneSystems.one({ id: stimulus.system });
      if (!system) throw new Error('The telephone system is gone');
      const answer = await takeCall(ctx, {
        address: `${system.slug}-${system.token}`,
        method: 'POST',
        headers: { 'content-type': 'application/json' },
        body: Buffer.from(JSON.stringify({ event: stimulus.event, caller: stimulus.phone, called: '' })),
        remoteAddress: null,
        asTest: true,
      });
      const call = answer.id ? await ctx.store.phoneCalls.one({ id: answer.id }) : undefined;
      round.runs.push(...(call?.run_ids ?? []));
      if (round.runs.length === 0) round.refused = { said: answer.reason };
      return;
    }
  }
}

async function orderer(ctx: AppContext, appId: string | undefined): Promise<Actor> {
  const app = appId ? await ctx.store.apps.one({ id: appId }) : undefined;
  if (!appId) return SYSTEM;
  if (!app) throw new Error('The app is gone');
  return { kind: 'app', id: app.id, name: app.name, keyId: 'delivery test', scopes: ['messages:send'] };
}
