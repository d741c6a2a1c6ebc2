/** Delivery tests: kept, asked to run, and looked at. The engine runs them. */
import { coverageOf, type DeliveryTest, deliveryTest, phonesOf, withRun } from '../../core/deliveryTest/deliveryTest';
import { isFlaky, paceVerdict, type Timing, timingOf } from '../../core/deliveryTest/outcome';
import { junitXml } from '../../core/deliveryTest/report';
import { namesFrom, testWords } from '../../core/deliveryTest/wording';
import { groupBy } from '../../core/groupBy';
import { orderFrom } from '../../core/hooks/order';
import { readPost } from '../../core/hooks/post';
import { newId, timeId } from '../../store/ids';
import type { DeliveryTestRow, DeliveryTestRunRow, TestOccasion } from '../../store/schema/rows';
import { definitionOf } from '../apps/hooks';
import { testPhones } from '../bench';
import {
  type Actor,
  type AppContext,
  asView,
  asViews,
  found,
  noteChanges,
  OperationError,
  reachesContent,
  reachOf,
  recordAudit,
  requireAccess,
  requireReach,
  requireRole,
  type View,
} from '../context';
import { publishedSet } from '../routes';

const DAY = 86_400_000;
const SHORTEST_PERIOD = 5;
const MOST_AT_ONCE = 200;

export interface TestInput {
  name: string;
  content: unknown;
  everyMinutes?: number;
  guardsPublishing: boolean;
}

export async function saveTest(ctx: AppContext, actor: Actor, input: TestInput, id?: string): Promise<{ id: string }> {
  requireRole(actor, 'administrator');
  const name = input.name.trim();
  if (!name) throw new OperationError('invalid', 'A test needs a name.');
  const read = deliveryTest.safeParse(input.content);
  if (!read.success) {
    const [issue] = read.error.issues;
    throw new OperationError('invalid', `The test cannot be kept: ${issue?.path.join('.')}: ${issue?.message}.`);
  }
  if (input.everyMinutes !== undefined && input.everyMinutes < SHORTEST_PERIOD)
    throw new OperationError('invalid', `A test runs every ${SHORTEST_PERIOD} minutes at most.`);
  await onlyTestPhones(ctx, read.data);
  const at = ctx.now();
  const values = {
    name: name.slice(0, 120),
    content: read.data,
    every_minutes: input.everyMinutes ?? null,
    guards_publishing: input.guardsPublishing ? 1 : 0,
    changed_at: at,
    changed_by: actor.name,
  };
  const own = id ?? newId('dtt', at);
  await ctx.store.write(async (unit) => {
    if (id === undefined) await unit.deliveryTests.insert([{ id: own, ...values, created_at: at, archived_at: null }]);
    else if ((await unit.deliveryTests.change({ id }, values)) === 0) found(undefined, 'test');
    await recordAudit(unit, actor, at, {
      action: id ? 'test.changed' : 'test.written',
      subject: own,
      summary: `${id ? 'Changed' : 'Wrote'} the delivery test “${values.name}”`,
    });
    await noteChanges(unit, at, [['test', own]]);
  });
  return { id: own };
}

export async function archiveTest(ctx: AppContext, actor: Actor, id: string): Promise<void> {
  requireRole(actor, 'administrator');
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    await unit.deliveryTests.change({ id }, { archived_at: at });
    await recordAudit(unit, actor, at, { action: 'test.archived', subject: id, summary: 'Archived a delivery test' });
    await noteChanges(unit, at, [['test', id]]);
  });
}

async function onlyTestPhones(ctx: AppContext, test: DeliveryTest): Promise<void> {
  const problem = await writesToPeople(ctx, test);
  if (problem) throw new OperationError('invalid', problem);
}

/** Tests never write to people: only to handsets of the bench and phones verified by code. Says who else would be written to. */
export async function writesToPeople(ctx: AppContext, test: DeliveryTest): Promise<string | undefined> {
  const allowed = new Set((await testPhones(ctx)).map(({ number }) => number));
  const stranger = [...phonesOf(test), ...(await phonesBehind(ctx, test))].find((number) => !allowed.has(number));
  return (
    stranger && `${stranger} is neither a handset of the bench nor a verified phone, and tests write to nobody else.`
  );
}

/** Phones that a posted record, or the alerts of a telephone system, would write to. */
async function phonesBehind(ctx: AppContext, { stimulus }: DeliveryTest): Promise<string[]> {
  if (stimulus.kind === 'call') return (await ctx.store.phoneSystems.one({ id: stimulus.system }))?.alert_phones ?? [];
  if (stimulus.kind !== 'hook') return [];
  const hook = await ctx.store.hooks.one({ id: stimulus.hook });
  const definition = hook && (await definitionOf(ctx.store, hook));
  const read = readPost('application/json', withRun(stimulus.record, 'X'));
  const result = definition && read.ok ? orderFrom(definition, read.record) : undefined;
  return result?.ok ? [result.order.to] : [];
}

export const CAP_SETTING = 'delivery-test-cap';

export interface SpendingCap {
  micros: number;
  currency: string;
}

export async function spendingCap(ctx: AppContext): Promise<SpendingCap | undefined> {
  return (await ctx.store.settings.one({ name: CAP_SETTING }))?.value as SpendingCap | undefined;
}

export async function setSpendingCap(ctx: AppContext, actor: Actor, cap: SpendingCap | undefined): Promise<void> {
  requireRole(actor, 'administrator');
  if (cap && !(cap.micros >= 0 && /^[A-Z]{3}$/.test(cap.currency)))
    throw new OperationError('invalid', 'The cap is an amount and a currency of three letters.');
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    if (cap) await unit.settings.put({ name: CAP_SETTING, value: cap });
    else await unit.settings.remove({ name: CAP_SETTING });
    await recordAudit(unit, actor, at, {
      action: 'tests.cap',
      subject: 'tests',
      summary: cap
        ? `Delivery tests may cost ${(cap.micros / 1e6).toFixed(2)} ${cap.currency} a day`
        : 'Delivery tests may cost what they cost',
    });
    await noteChanges(unit, at, [['test', '*']]);
  });
}

/** What the tests’ messages of the last 24 hours cost, by currency, in micro-units. */
export async function spentOnTests(ctx: AppContext): Promise<Map<string, number>> {
  const rows = await ctx.store.select<{ currency: string; micros: number }>(
    `SELECT m.price_currency AS currency, sum(m.price_micros) AS micros FROM delivery_test_runs r
       JOIN json_each(r.rounds) round JOIN json_each(round.value, '$.messages') told JOIN messages m ON m.id = told.value
      WHERE r.id > :since AND m.price_micros IS NOT NULL GROUP BY 1`,
    { since: timeId('dtr', ctx.now() - DAY) },
  );
  return new Map(rows.map(({ currency, micros }) => [currency, micros]));
}

/** Asks for runs, which the engine then does; answers their ids in the order of the tests. */
export async function askForRuns(
  ctx: AppContext,
  actor: Actor,
  ids: readonly string[],
  why: TestOccasion = 'by-hand',
): Promise<{ batch: string; runs: string[] }> {
  requireAccess(actor, 'administrator', 'tests:run');
  if (ids.length > MOST_AT_ONCE) throw new OperationError('invalid', `At most ${MOST_AT_ONCE} tests at once.`);
  const tests = await ctx.store.deliveryTests.all({ id: [...ids], archived_at: null });
  const at = ctx.now();
  const batch = newId('dtr', at);
  const rows = ids.map((id) =>
    newRun(
      found(
        tests.find((test) => test.id === id),
        'test',
      ),
      { why, by: actor.name, at, batch },
    ),
  );
  await ctx.store.write(async (unit) => {
    await unit.testRuns.insert(rows);
    await noteChanges(
      unit,
      at,
      rows.map(({ id }) => ['test', id] as const),
    );
  });
  ctx.engineWakeUp.ring('tests');
  return { batch, runs: rows.map(({ id }) => id) };
}

/** What guards publishing is proven again over the wires once it is published. Returns how many run. */
export async function runGuardingTests(ctx: AppContext, actor: Actor): Promise<number> {
  const guarding = await ctx.store.deliveryTests.all({ archived_at: null, guards_publishing: 1 });
  if (guarding.length > 0)
    await askForRuns(
      ctx,
      actor,
      guarding.map(({ id }) => id),
      'published',
    );
  return guarding.length;
}

export function newRun(
  test: DeliveryTestRow,
  { why, by, at, batch }: { why: TestOccasion; by: string; at: number; batch?: string },
): DeliveryTestRunRow {
  return {
    id: newId('dtr', at),
    test_id: test.id,
    name: test.name,
    content: test.content,
    why,
    batch: batch ?? null,
    asked_by: by,
    asked_at: at,
    state: 'waiting',
    started_at: null,
    ended_at: null,
    rounds: [],
    problem: null,
    tidying: null,
  };
}

export interface TestSummary {
  test: View<DeliveryTestRow>;
  words: string;
  last?: View<Pick<DeliveryTestRunRow, 'id' | 'state' | 'started_at' | 'ended_at' | 'why'>>;
  /** Newest first. */
  states: DeliveryTestRunRow['state'][];
  flaky: boolean;
  /** Something it goes through was changed after it last ran. */
  staleBy?: { at: number; summary: string; by: string };
}

/** So many runs of each test stand beside it. */
const SHOWN_RUNS = 12;

export async function listTests(ctx: AppContext, actor: Actor): Promise<TestSummary[]> {
  requireAccess(actor, 'viewer', 'tests:run');
  const [tests, runs, names, changes] = await Promise.all([
    ctx.store.deliveryTests.all({ archived_at: null }, { order: [['name', 'ASC']] }),
    ctx.store.select<Pick<DeliveryTestRunRow, 'id' | 'test_id' | 'state' | 'started_at' | 'ended_at' | 'why'>>(
      `SELECT id, test_id, state, started_at, ended_at, why FROM
         (SELECT *, row_number() OVER (PARTITION BY test_id ORDER BY id DESC) AS place FROM delivery_test_runs)
        WHERE place <= ${SHOWN_RUNS} ORDER BY id DESC`,
    ),
    namesInUse(ctx),
    recentChanges(ctx),
  ]);
  const reach = await reachOf(ctx.store, actor);
  const byTest = groupBy(runs, ({ test_id }) => test_id);
  return tests
    .filter(({ content }) => reachesContent(reach, content))
    .map((test): TestSummary => {
      const own = byTest.get(test.id) ?? [];
      const last = own[0];
      const staleBy = last && changeAfter(test.content, changes, last.started_at ?? 0);
      const lastChange = changeAfter(test.content, changes, 0)?.at ?? 0;
      const since = Math.max(lastChange, test.changed_at);
      return {
        test: asView(test),
        words: testWords(test.content, namesFrom(names)),
        ...(last ? { last: asView(last) } : {}),
        states: own.map(({ state }) => state),
        flaky: isFlaky(
          own.flatMap(({ state, started_at }) =>
            (state === 'passed' || state === 'failed') && (started_at ?? 0) > since ? [state] : [],
          ),
        ),
        ...(staleBy ? { staleBy } : {}),
      };
    });
}

interface RecentChange {
  subject: string;
  at: number;
  by: string;
  summary: string;
}

async function recentChanges(ctx: AppContext): Promise<RecentChange[]> {
  return ctx.store.select<RecentChange>(
    `SELECT subject_id AS subject, at, actor_name AS by, summary FROM audit_entries
      WHERE at > :since AND action NOT LIKE 'test%' AND action NOT LIKE 'finding%' AND action NOT LIKE 'sign%'
      ORDER BY id DESC LIMIT 1000`,
    { since: ctx.now() - 30 * DAY },
  );
}

/** The newest change of something the test goes through; publishing routes touches every test with a message that comes in. */
function changeAfter(test: DeliveryTest, changes: readonly RecentChange[], after: number): RecentChange | undefined {
  const covered = coverageOf(test);
  const routed = test.stimulus.kind === 'text';
  return changes.find(
    ({ subject, at }) => at > after && (covered.has(subject) || (routed && subject.startsWith('revision'))),
  );
}

/** What everything a test can name is called. */
export async function namesInUse(ctx: AppContext): Promise<Record<string, string>> {
  const [channels, apps, hooks, systems, feeds, { set }, phones, accounts] = await Promise.all([
    ctx.store.channels.all(),
    ctx.store.apps.all(),
    ctx.store.hooks.all(),
    ctx.store.phoneSystems.all(),
    ctx.store.feeds.all(),
    publishedSet(ctx),
    testPhones(ctx),
    ctx.store.appAccounts.all(),
  ]);
  const named = [...channels, ...apps, ...hooks, ...systems, ...feeds, ...set.routes].map(({ id, name }) => [id, name]);
  const records = accounts.flatMap(({ app_id, connector }) =>
    ctx.apps.get(connector).records.map(({ id, label }) => [`${app_id} ${id}`, label.toLowerCase()]),
  );
  return Object.fromEntries([
    ...named,
    ...records,
    ...phones.map(({ number, owner, visible }) => [number, visible ? owner : number]),
  ]);
}

export interface RunView {
  run: View<DeliveryTestRunRow>;
  words: string;
  timing?: Timing;
  pace?: ReturnType<typeof paceVerdict>;
  test?: View<DeliveryTestRow>;
  before?: Pick<DeliveryTestRunRow, 'id' | 'state'>;
}

export async function getRun(ctx: AppContext, actor: Actor, id: string): Promise<RunView> {
  requireRole(actor, 'viewer');
  const run = found(await ctx.store.testRuns.one({ id }), 'run');
  requireReach(reachesContent(await reachOf(ctx.store, actor), run.content), 'run');
  const [before] = await ctx.store.select<Pick<DeliveryTestRunRow, 'id' | 'state'>>(
    'SELECT id, state FROM delivery_test_runs WHERE test_id = :test AND id < :id ORDER BY id DESC LIMIT 1',
    { test: run.test_id, id },
  );
  const test = await ctx.store.deliveryTests.one({ id: run.test_id });
  return {
    run: asView(run),
    words: testWords(run.content, namesFrom(await namesInUse(ctx))),
    timing: timingOf(run.rounds),
    pace: run.ended_at === null ? undefined : paceVerdict(run.content, run.rounds),
    ...(test ? { test: asView(test) } : {}),
    before,
  };
}

export async function getTest(ctx: AppContext, actor: Actor, id: string) {
  requireRole(actor, 'viewer');
  const test = found(await ctx.store.deliveryTests.one({ id }), 'test');
  requireReach(reachesContent(await reachOf(ctx.store, actor), test.content), 'test');
  const runs = await ctx.store.testRuns.all({ test_id: id }, { order: [['id', 'DESC']], limit: 30 });
  return {
    test: asView(test),
    runs: asViews(runs),
    words: testWords(test.content, namesFrom(await namesInUse(ctx))),
  };
}

/** Runs asked for together, or the latest of every test, for another system to read. */
export async function reportRuns(
  ctx: AppContext,
  actor: Actor,
  which: { batch: string } | { run: string } | 'latest',
): Promise<{ runs: DeliveryTestRunRow[]; junit: string; done: boolean }> {
  requireAccess(actor, 'viewer', 'tests:run');
  const runs =
    which === 'latest'
      ? ctx.store.testRuns.read(
          await ctx.store.select<DeliveryTestRunRow>(
            `SELECT r.* FROM delivery_test_runs r JOIN delivery_tests t ON t.id = r.test_id AND t.archived_at IS NULL
              WHERE r.id = (SELECT max(id) FROM delivery_test_runs WHERE test_id = t.id AND ended_at IS NOT NULL) ORDER BY t.name`,
          ),
        )
      : await ctx.store.testRuns.all('batch' in which ? { batch: which.batch } : { id: which.run }, {
          order: [['id', 'ASC']],
        });
  const names = namesFrom(await namesInUse(ctx));
  const junit = junitXml(
    runs.map((run) => ({
      id: run.id,
      name: run.name,
      words: testWords(run.content, names),
      state: run.state,
      startedAt: run.started_at ?? undefined,
      endedAt: run.ended_at ?? undefined,
      rounds: run.rounds,
      problem: run.problem ?? undefined,
    })),
  );
  return { runs, junit, done: runs.every(({ ended_at }) => ended_at !== null) };
}
