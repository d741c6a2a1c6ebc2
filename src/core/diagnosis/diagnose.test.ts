import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { isCauseCode } from '../delivery/causes';
import { diagnose, type Evidence, MOST_QUESTIONS, type Named, type Observed, whatWouldTell } from './diagnose';
import { OBSERVATIONS, type ObservationId, observation } from './observations';
import { POSSIBILITIES } from './possibilities';
import { SYMPTOMS, type Symptom } from './symptoms';

const none: Evidence = { named: [], observed: [], traffic: false, canTest: false };
const named = (code: string, by: Named['by'], at?: number): Named => ({ code, by, said: code, ...(at ? { at } : {}) });
const saw = (id: ObservationId, value: boolean, from: Observed['from'] = 'evidence'): Observed => ({ id, value, from });

describe('what evidence names', () => {
  test('is the cause, with what spoke for it first', () => {
    const { verdict, cause } = diagnose('nothing-arrives', {
      ...none,
      traffic: true,
      named: [named('credit-gone', 'told'), named('credit-gone', 'set-up')],
      observed: [saw('out-asked', true), saw('out-taken', false)],
    });
    expect(verdict).toBe('determined');
    expect(cause?.code).toBe('credit-gone');
    expect(cause?.reasons[0]?.factor).toBeGreaterThan(50);
  });

  test('of several, what a message met last comes before what was found beforehand', () => {
    const evidence = {
      ...none,
      traffic: true,
      named: [named('credit-gone', 'set-up'), named('country-off', 'told', 5), named('trial-unverified', 'told', 9)],
    };
    const { cause, also } = diagnose('only-some', evidence);
    expect(cause?.code).toBe('trial-unverified');
    expect(also.map(({ code }) => code)).toContain('country-off');
  });

  test('by a hop that broke needs no second witness; by a straggler that the settings contradict, it is no cause', () => {
    const observed = [saw('in-arrived', false), saw('bench-in', false, 'test')];
    const met = (code: string, stands?: true) =>
      diagnose('replies-missing', {
        ...none,
        traffic: true,
        observed,
        named: [
          { ...named(code, 'told', 9), ...(stands ? { stands } : {}) },
          named('address-on-another-number', 'set-up'),
        ],
      });
    expect(met('inbound-method', true).cause?.code).toBe('inbound-method');
    expect(met('inbound-method').cause?.code).toBe('address-on-another-number');
  });

  test('of another symptom is left alone', () => {
    const { verdict, remaining } = diagnose('replies-missing', { ...none, named: [named('credit-gone', 'set-up')] });
    expect(verdict).not.toBe('determined');
    expect(remaining.map(({ code }) => code)).not.toContain('credit-gone');
  });
});

describe('what nothing names', () => {
  const silent = { ...none, traffic: false, canTest: true };

  test('is tested before it is asked about, and asked about before it is concluded', () => {
    const first = diagnose('replies-missing', silent);
    expect(first).toMatchObject({ verdict: 'open', next: { kind: 'test', id: 'bench-in' } });
    const second = diagnose('replies-missing', { ...silent, observed: [saw('bench-in', false, 'test')] });
    expect(second).toMatchObject({ verdict: 'open', next: { kind: 'ask', id: 'provider-log-has-it' } });
    const third = diagnose('replies-missing', {
      ...silent,
      observed: [saw('bench-in', false, 'test'), saw('provider-log-has-it', false, 'answer')],
    });
    expect(third.remaining[0]?.code).toBe('number-moved');
  });

  test('a path that the test shows to be whole leaves what the person did', () => {
    const whole = [saw('bench-in', true, 'test'), saw('in-routed', true), saw('wrote-here', false, 'answer')];
    expect(diagnose('replies-missing', { ...silent, observed: whole })).toMatchObject({
      verdict: 'determined',
      cause: { code: 'wrote-elsewhere' },
    });
  });

  test('is left open when people do not know, with what would tell', () => {
    const unknown = Object.keys(OBSERVATIONS) as ObservationId[];
    const { verdict, remaining, next } = diagnose('nothing-arrives', { ...none, unknown });
    expect([verdict, next]).toEqual(['undetermined', undefined]);
    expect(remaining.length).toBeGreaterThan(1);
    expect(whatWouldTell('nothing-arrives', none).length).toBeGreaterThan(0);
  });
});

test('whatever is known: shares are shares, nobody is asked twice, and never too much', () => {
  const evidence = fc.record({
    named: fc.array(
      fc.record({
        code: fc.constantFrom(...POSSIBILITIES.map(({ code }) => code)),
        by: fc.constantFrom<Named['by']>('told', 'set-up'),
        said: fc.constant('x'),
      }),
      { maxLength: 3 },
    ),
    observed: fc.uniqueArray(
      fc.record({
        id: fc.constantFrom(...(Object.keys(OBSERVATIONS) as ObservationId[])),
        value: fc.boolean(),
        from: fc.constantFrom<Observed['from']>('evidence', 'answer', 'test'),
      }),
      { selector: ({ id }) => id, maxLength: 8 },
    ),
    traffic: fc.boolean(),
    canTest: fc.boolean(),
  });
  fc.assert(
    fc.property(fc.constantFrom(...(Object.keys(SYMPTOMS) as Symptom[])), evidence, (symptom, given) => {
      const { verdict, cause, next, remaining, ruledOut, asked } = diagnose(symptom, given);
      for (const { share } of [...remaining, ...ruledOut]) expect(share).toBeLessThanOrEqual(1);
      expect([...remaining, ...ruledOut].reduce((sum, { share }) => sum + share, 0)).toBeLessThanOrEqual(1 + 1e-9);
      if (verdict === 'determined' || verdict === 'likely') expect(cause).toBeDefined();
      // Nothing is sure that nothing particular shows.
      if (verdict === 'determined') expect(cause?.particular).toBe(true);
      if (verdict === 'likely') expect(cause?.share).toBeLessThan(1);
      if (next && next.kind !== 'which') {
        expect(given.observed.map(({ id }) => id)).not.toContain(next.id);
        expect(observation(next.id)[next.kind === 'ask' ? 'ask' : 'test']?.of).toContain(symptom);
        if (next.kind === 'ask') expect(asked).toBeLessThan(MOST_QUESTIONS);
      }
    }),
    { numRuns: 150 },
  );
});

describe('the table', () => {
  test('has words for every cause, behind some symptom, with shares between 0 and 1', () => {
    for (const { code, behind, setUp, told, signs } of POSSIBILITIES) {
      expect(isCauseCode(code), code).toBe(true);
      expect(Object.keys(behind).length, code).toBeGreaterThan(0);
      for (const [so, otherwise] of [setUp, told]) expect(so > otherwise || so === 0, code).toBe(true);
      for (const share of Object.values(signs)) expect(share > 0 && share < 1, code).toBe(true);
    }
  });

  test('every symptom has causes, and every question and test a use', () => {
    for (const symptom of Object.keys(SYMPTOMS) as Symptom[])
      expect(POSSIBILITIES.filter(({ behind }) => behind[symptom]).length, symptom).toBeGreaterThan(1);
    for (const id of Object.keys(OBSERVATIONS) as ObservationId[])
      expect(
        POSSIBILITIES.some(({ signs }) => signs[id] !== undefined),
        id,
      ).toBe(true);
  });
});
