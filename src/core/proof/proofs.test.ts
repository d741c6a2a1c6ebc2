import { describe, expect, test } from 'vitest';
import type { HopName } from './hops';
import { agedProof, applyFact, type Proof, type ProofFact, unproven, worstOf } from './proofs';
import { explainProof } from './wording';

const proofAfter = (hop: HopName, ...facts: ProofFact[]): Proof =>
  facts.reduce((proof, fact) => applyFact(hop, proof, fact), unproven(0));
const evidence = (kind: 'delivered' | 'undelivered' | 'inbound-arrived', at: number, began = at): ProofFact => ({
  kind,
  began,
  at,
  ref: 'x',
});
const fault = (cause: Extract<ProofFact, { kind: 'fault' }>['cause'], at: number): ProofFact => ({
  kind: 'fault',
  cause,
  began: at,
  at,
  ref: 'x',
});
const changed = (touches: HopName[], at: number): ProofFact => ({
  kind: 'changed',
  touches,
  at,
  note: 'the secret was replaced',
});

describe('a hop', () => {
  test('is hollow until traffic proves it', () => {
    expect(proofAfter('inbound').state).toBe('unproven');
    expect(proofAfter('inbound', evidence('inbound-arrived', 5)).state).toBe('proven');
    expect(proofAfter('inbound', evidence('delivered', 5)).state).toBe('unproven');
  });

  test('a delivered message proves outbound and receipt; a lost one only that receipts come', () => {
    expect(proofAfter('outbound', evidence('delivered', 5)).state).toBe('proven');
    expect(proofAfter('receipt', evidence('delivered', 5)).state).toBe('proven');
    expect(proofAfter('outbound', evidence('undelivered', 5)).state).toBe('unproven');
    expect(proofAfter('receipt', evidence('undelivered', 5)).state).toBe('proven');
  });

  test('a change makes it hollow, and evidence that began before the change does not count', () => {
    const proven = [evidence('delivered', 5)];
    expect(proofAfter('receipt', ...proven, changed(['receipt'], 10))).toMatchObject({
      state: 'unproven',
      note: 'the secret was replaced',
    });
    expect(proofAfter('receipt', ...proven, changed(['receipt'], 10), evidence('delivered', 12, 8)).state).toBe(
      'unproven',
    );
    expect(proofAfter('receipt', ...proven, changed(['receipt'], 10), evidence('delivered', 12, 11)).state).toBe(
      'proven',
    );
    expect(proofAfter('credential', ...proven, changed(['receipt'], 10)).state).toBe('proven');
  });

  test('only a fault that the set-up is to blame for breaks it', () => {
    expect(proofAfter('inbound', fault('signature-wrong', 5))).toMatchObject({
      state: 'broken',
      cause: 'signature-wrong',
    });
    expect(proofAfter('outbound', fault('address-malformed', 5)).state).toBe('unproven');
    expect(proofAfter('outbound', fault('provider-unreachable', 5)).state).toBe('unproven');
    expect(proofAfter('inbound', fault('signature-wrong', 5), evidence('inbound-arrived', 6)).state).toBe('proven');
  });

  test('older evidence learned later does not undo newer', () => {
    expect(proofAfter('inbound', fault('signature-wrong', 9), evidence('inbound-arrived', 6)).state).toBe('broken');
  });

  test('keeps the time since which it is proven, and the age of the latest evidence', () => {
    expect(proofAfter('inbound', evidence('inbound-arrived', 5), evidence('inbound-arrived', 9))).toMatchObject({
      since: 5,
      evidenceAt: 9,
    });
  });

  test('one that does not apply stays so', () => {
    const none: Proof = { ...unproven(0), state: 'not-applicable' };
    expect(applyFact('inbound', none, evidence('inbound-arrived', 5))).toBe(none);
  });
});

test('evidence that is too old proves nothing any more, until something is seen again', () => {
  const day = 24 * 3_600_000;
  const proof = proofAfter('outbound', evidence('delivered', 5 * day));
  expect(agedProof(proof, 34 * day).state).toBe('proven');
  const old = agedProof(proof, 36 * day);
  expect(old.state).toBe('unproven');
  expect(explainProof('outbound', old).why).toBe(
    'Not exercised since the latest evidence, which is more than 30 days old',
  );
  expect(agedProof(applyFact('outbound', proof, evidence('delivered', 35 * day)), 36 * day).state).toBe('proven');
  // What is broken or unproven does not mend by waiting.
  const broken = proofAfter('inbound', fault('signature-wrong', 5));
  expect(agedProof(broken, 400 * day)).toBe(broken);
});

test('the worst decides a summary', () => {
  expect(worstOf(['proven', 'unproven', 'broken'])).toBe('broken');
  expect(worstOf(['proven', 'unproven', 'not-applicable'])).toBe('unproven');
  expect(worstOf(['proven', 'not-applicable'])).toBe('proven');
  expect(worstOf([])).toBe('not-applicable');
});

test('what is not proven is explained with a next step', () => {
  expect(explainProof('inbound', unproven(0))).toMatchObject({
    why: 'Never exercised',
    remedy: expect.stringContaining('send a message to it from a handset'),
  });
  expect(explainProof('inbound', proofAfter('inbound', changed(['inbound'], 4))).why).toBe(
    'Not exercised since the secret was replaced',
  );
  expect(explainProof('inbound', proofAfter('inbound', fault('signature-wrong', 5))).why).toContain('signature');
  expect(explainProof('inbound', proofAfter('inbound', evidence('inbound-arrived', 5)))).toEqual({});
});
