/** Drills on the bench: begun, guessed at, helped along and ended. One at a time. */

import { cause } from '../../core/delivery/causes';
import { ANSWERS, DRILLS, type Drill, type DrillLevel, drillOf, scoreOf } from '../../core/drill/drills';
import { newId } from '../../store/ids';
import type { DrillRow } from '../../store/schema/rows';
import { hasBench, setFault } from '../bench';
import {
  type Actor,
  type AppContext,
  found,
  noteChanges,
  OperationError,
  recordAudit,
  requireRole,
  SYSTEM,
} from '../context';

export interface DrillView {
  id: string;
  level: DrillLevel;
  complaint: string;
  startedAt: number;
  by: string;
  hints: string[];
  hintsLeft: number;
  /** Titles of the causes that were guessed wrongly. */
  wrong: string[];
  /** Only after it has ended. */
  cause?: { title: string; remedy: string };
  endedAt?: number;
  ending?: 'found' | 'given-up';
  score?: number;
}

export interface DrillsView {
  running?: DrillView;
  past: DrillView[];
  answers: [string, string][];
}

export async function listDrills(ctx: AppContext, actor: Actor): Promise<DrillsView> {
  requireRole(actor, 'viewer');
  const rows = await ctx.store.drills.all(undefined, { order: [['id', 'DESC']], limit: 40 });
  const running = rows.find(({ ended_at }) => ended_at === null);
  return {
    ...(running ? { running: viewOf(running) } : {}),
    past: rows.filter(({ ended_at }) => ended_at !== null).map(viewOf),
    answers: ANSWERS.map((code): [string, string] => [code, cause(code).title]).sort((a, b) =>
      a[1].localeCompare(b[1]),
    ),
  };
}

function viewOf(row: DrillRow): DrillView {
  const drill = drillOf(row.fault);
  const ended = row.ended_at !== null;
  const [code] = drill?.causes ?? [];
  return {
    id: row.id,
    level: (drill?.level ?? row.level) as DrillLevel,
    complaint: drill?.complaint ?? '',
    startedAt: row.started_at,
    by: row.by,
    hints: drill?.hints.slice(0, row.hints) ?? [],
    hintsLeft: (drill?.hints.length ?? 0) - row.hints,
    wrong: row.guesses
      .filter((guess) => !drill?.causes.some((right) => right === guess.code))
      .map((guess) => cause(guess.code as (typeof ANSWERS)[number]).title),
    ...(ended && code ? { cause: { title: cause(code).title, remedy: cause(code).remedy } } : {}),
    ...(row.ended_at === null ? {} : { endedAt: row.ended_at }),
    ...(row.ending ? { ending: row.ending } : {}),
    ...(row.score === null ? {} : { score: row.score }),
  };
}

/** Sets a fault nobody sees. Those done least come first, so that a drill is seldom the same twice. */
export async function beginDrill(ctx: AppContext, actor: Actor, level: DrillLevel): Promise<void> {
  requireRole(actor, 'administrator');
  if (!hasBench(ctx)) throw new OperationError('invalid', 'Drills need a bench.');
  const chosen = await choose(
    ctx,
    DRILLS.filter((drill) => drill.level === level),
    await ctx.store.drills.all(),
  );
  const at = ctx.now();
  const id = newId('drl', at);
  await ctx.store.write(async (unit) => {
    if ((await unit.drills.count({ ended_at: null })) > 0)
      throw new OperationError('conflict', 'A drill is running already.');
    await unit.drills.insert([
      {
        id,
        fault: chosen.id,
        level,
        started_at: at,
        by: actor.name,
        guesses: [],
        hints: 0,
        ended_at: null,
        ending: null,
        score: null,
      },
    ]);
  });
  try {
    await setFault(ctx, SYSTEM, { ...chosen.fault, value: true });
  } catch (error) {
    await ctx.store.write((unit) => unit.drills.remove({ id }));
    throw error;
  }
  await ctx.store.write(async (unit) => {
    await recordAudit(unit, actor, at, { action: 'test.drill', subject: id, summary: 'Began a drill' });
    await noteChanges(unit, at, [['drill', 'running']]);
  });
}

/** Without a trunk there is nothing to complain of on one. */
async function choose(ctx: AppContext, drills: readonly Drill[], past: readonly DrillRow[]): Promise<Drill> {
  const trunks = await ctx.store.channels.count({ kind: 'sms-trunk' });
  const times = (id: string) => past.filter(({ fault }) => fault === id).length;
  const fitting = drills.filter(({ fault }) => fault.service !== 'ostrel' || trunks > 0);
  const least = Math.min(...fitting.map(({ id }) => times(id)));
  const rare = fitting.filter(({ id }) => times(id) === least);
  return found(rare[ctx.now() % rare.length], 'drill');
}

async function runningDrill(ctx: AppContext): Promise<{ row: DrillRow; drill: Drill }> {
  const row = found(await ctx.store.drills.one({ ended_at: null }), 'running drill');
  return { row, drill: found(drillOf(row.fault), 'drill') };
}

export async function guess(ctx: AppContext, actor: Actor, code: string): Promise<{ right: boolean; score?: number }> {
  requireRole(actor, 'administrator');
  const { row, drill } = await runningDrill(ctx);
  if (!ANSWERS.some((answer) => answer === code)) throw new OperationError('invalid', 'Choose a cause.');
  const at = ctx.now();
  const right = drill.causes.some((each) => each === code);
  const guesses = [...row.guesses, { code, at }];
  if (!right) {
    await change(ctx, row.id, { guesses });
    return { right };
  }
  const score = scoreOf({ ms: at - row.started_at, hints: row.hints, wrong: row.guesses.length });
  await end(ctx, row, drill, { guesses, ended_at: at, ending: 'found', score });
  return { right, score };
}

export async function takeHint(ctx: AppContext, actor: Actor): Promise<void> {
  requireRole(actor, 'administrator');
  const { row, drill } = await runningDrill(ctx);
  if (row.hints >= drill.hints.length) throw new OperationError('invalid', 'There is no further hint.');
  await change(ctx, row.id, { hints: row.hints + 1 });
}

export async function giveUp(ctx: AppContext, actor: Actor): Promise<void> {
  requireRole(actor, 'administrator');
  const { row, drill } = await runningDrill(ctx);
  await end(ctx, row, drill, { ended_at: ctx.now(), ending: 'given-up', score: 0 });
}

/** A bench that is away is no reason to go on: its switches are in sight again once the drill has ended. */
async function end(ctx: AppContext, row: DrillRow, { fault }: Drill, values: Partial<DrillRow>): Promise<void> {
  await setFault(ctx, SYSTEM, { ...fault, value: false }).catch((error: unknown) =>
    ctx.log.warn({ err: error, ...fault }, 'the fault of a drill could not be switched off'),
  );
  await change(ctx, row.id, values);
}

async function change(ctx: AppContext, id: string, values: Partial<DrillRow>): Promise<void> {
  await ctx.store.write(async (unit) => {
    await unit.drills.change({ id }, values);
    await noteChanges(unit, ctx.now(), [['drill', 'running']]);
  });
}
