/** What to say of a hop that is not proven: why, and what to do about it. */
import { cause } from '../delivery/causes';
import type { HopName } from './hops';
import type { Proof } from './proofs';

/** What a hop is called. */
export const HOP_WORDS: Record<HopName, string> = {
  credential: 'Credential',
  outbound: 'Outbound',
  receipt: 'Receipt',
  inbound: 'Inbound',
  'call-in': 'Call in',
  'call-out': 'Call out',
};

/** What would prove a hop that nothing has exercised yet. */
const PROVE_BY: Record<HopName, string> = {
  credential: 'Check the account.',
  outbound: 'Send a text to a handset you can see.',
  receipt: 'Send a text and wait for its receipt.',
  inbound: 'Set the inbound URL at the provider, then send a message to it from a handset.',
  'call-in': 'Let the app call the API with its key.',
  'call-out': 'Send a message that is routed to the app.',
};

/** Nothing for a hop that is proven or does not apply. */
export function explainProof(
  hop: HopName,
  proof: Pick<Proof, 'state' | 'cause' | 'note'>,
): { why?: string; remedy?: string } {
  if (proof.state === 'broken' && proof.cause)
    return { why: cause(proof.cause).title, remedy: cause(proof.cause).remedy };
  if (proof.state === 'unproven') {
    return { why: proof.note ? `Not exercised since ${proof.note}` : 'Never exercised', remedy: PROVE_BY[hop] };
  }
  return {};
}
