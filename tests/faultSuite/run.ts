/** Runs the cases of one house one after another: broken, looked at, complained of, fixed. */

import { checkAccount } from '../../src/operations/accounts/accounts';
import { SYSTEM } from '../../src/operations/context/actor';
import { type Answer, type DiagnosisView, diagnoseComplaint } from '../../src/operations/diagnosis/diagnose';
import { probe } from '../../src/operations/diagnosis/probe';
import { createSender } from '../../src/operations/outbound/sendMessage';
import { examineNow } from '../../src/operations/readiness/readiness';
import { record } from '../calibration/record';
import type { Installation } from '../harness/processes';
import { passTime } from '../harness/rest';
import type { Case, Result } from './case';

export interface House {
  installation: Installation;
  cases: Case[];
  /** Good traffic on every path, so that each case begins from what is proven. */
  wellAgain(): Promise<void>;
}

const above = async (house: House) =>
  (await examineNow(house.installation.ctx)).open.filter(({ code }) => code !== 'unproven');

export async function runCases(house: House): Promise<Result[]> {
  const results: Result[] = [];
  await house.wellAgain();
  const wanted = process.env.WINDGAP_SUITE_CASE ?? '';
  const cases = house.cases.filter(({ name }) => name.includes(wanted));
  for (const each of cases) results.push(await runCase(house, each));
  if (process.env.WINDGAP_SUITE_VERBOSE === '1') console.log(summary(results));
  return results;
}

async function runCase(house: House, each: Case): Promise<Result> {
  const usual = new Set((await above(house)).map(({ key }) => key));
  await each.breakIt();
  await askProviders(house);
  const before = (await above(house)).some(({ key, code }) => !usual.has(key) && each.causes.includes(code));
  await each.traffic?.();
  const view = await complain(house, each);
  const named = view.verdict === 'determined' || view.verdict === 'likely';
  const said = view.cause?.code ?? view.remaining.map(({ code }) => code).join(', ');
  const right = named && each.causes.includes(view.cause?.code ?? '');
  const outcome =
    right || (each.honest && !named) || (!named && isThere(each, view))
      ? 'right'
      : view.verdict === 'determined'
        ? 'wrong'
        : 'undetermined';
  if (process.env.WINDGAP_SUITE_VERBOSE === '1' && outcome !== 'right')
    console.log(
      each.name,
      JSON.stringify(
        {
          view: { ...view, ruledOut: undefined },
          open: (await above(house)).map(({ code, subject, severity }) => `${severity} ${code} ${subject.name}`),
        },
        null,
        1,
      ),
    );
  await each.repair();
  await askProviders(house);
  await passTime(house.installation, house.wellAgain()).catch((error: Error) => {
    throw new Error(`After “${each.name}”: ${error.message}`);
  });
  const { asked: questions, tested: tests } = view;
  return {
    name: each.name,
    symptom: each.symptom,
    expected: each.causes[0] ?? '',
    before,
    outcome,
    said: `${view.verdict} ${said} (${view.where.said})`,
    questions,
    tests,
  };
}

/** Windgap names no cause, and the place where it is. */
function isThere({ place }: Case, { where: { segment } }: DiagnosisView): boolean {
  return place !== undefined && (segment.from ?? '') === place[0] && segment.to === place[1];
}

/** Returns what is asked as the person would, and lets Windgap test, until it has an opinion. */
async function complain(house: House, each: Case): Promise<DiagnosisView> {
  const { ctx } = house.installation;
  const answers: Partial<Record<string, Answer>> = {};
  let scope = each.about;
  for (let turn = 0; turn < 10; turn++) {
    const view = await diagnoseComplaint(ctx, SYSTEM, { symptom: each.symptom, scope, answers });
    if (view.verdict !== 'open') {
      await record(
        house.installation,
        { symptom: each.symptom, scope, answers },
        {
          name: each.name,
          causes: each.causes,
          where: each.place ? [each.place.join('>')] : [],
        },
      );
      return view;
    }
    if (view.which) scope = { ...scope, message: view.where.message?.id ?? 'none' };
    else if (view.test)
      answers[view.test.id] = (
        await passTime(
          house.installation,
          probe(ctx, SYSTEM, createSender(ctx), view.test.id, { ...scope, message: view.test.like }),
        )
      ).answer;
    else if (view.question) answers[view.question.id] = each.knows?.[view.question.id] ?? 'unknown';
    else return view;
  }
  throw new Error(`“${each.name}” asks without end`);
}

async function askProviders({ installation: { ctx } }: House): Promise<void> {
  const accounts = await ctx.store.select<{ id: string }>('SELECT id FROM provider_accounts WHERE disabled_at IS NULL');
  await Promise.all(accounts.map(({ id }) => checkAccount(ctx, SYSTEM, id).catch(() => undefined)));
}

export function summary(results: readonly Result[]): string {
  const count = (outcome: Result['outcome']) => results.filter((result) => result.outcome === outcome).length;
  const asked = results.reduce((sum, { questions }) => sum + questions, 0);
  const tests = results.reduce((sum, { tests }) => sum + tests, 0);
  const lines = results
    .filter(({ outcome }) => outcome !== 'right')
    .map(({ name, expected, outcome, said }) => `  ${outcome}: ${name}: ${expected}, ${said}`);
  return [
    `${results.length} faults: ${results.filter(({ before }) => before).length} found before any message, ${count('right')} named rightly after one (${((100 * count('right')) / results.length).toFixed(0)} %), ${count('wrong')} wrongly, ${count('undetermined')} not determined; ${asked} questions (${(asked / results.length).toFixed(2)} a fault), ${tests} tests`,
    ...lines,
  ].join('\n');
}
