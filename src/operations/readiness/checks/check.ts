/** What a check of the set-up is, and how its findings are written. */
import { type CauseCode, cause } from '../../../core/delivery/causes';
import type { Severity } from '../../../core/finding';
import { explainProof, HOP_WORDS } from '../../../core/proof/wording';
import type { Examined, ReadinessSubject } from '../../../core/readiness/readiness';
import type { ChannelRow, ProviderAccountRow } from '../../../store/schema/rows';
import type { Topic } from '../../context';
import type { HopProof } from '../../proofs';
import type { SetUp } from './setUp';

/** One examination of the set-up as a whole. Its findings are kept under its name. */
export interface ReadinessCheck {
  name: string;
  /** It is made again when something of these topics changed, and all are made again every few minutes. */
  topics: readonly Topic[];
  examine: (setUp: SetUp) => Promise<Examined[]>;
}

export interface AccountScope extends SetUp {
  accounts: readonly ProviderAccountRow[];
  /** Of these accounts. */
  channels: readonly ChannelRow[];
}

/** One examination of provider accounts, each with its channels; made again when one of them changed. */
export interface AccountCheck {
  name: string;
  /** Looks up what it needs of all accounts at once; the answer says what is found of one of them. */
  prepare: (scope: AccountScope) => Promise<(account: ProviderAccountRow, own: readonly ChannelRow[]) => Examined[]>;
}

/** A finding in the words of the causes catalogue. */
export function finding(
  code: CauseCode,
  severity: Severity,
  subject: ReadinessSubject,
  context: Parameters<ReturnType<typeof cause>['explain']>[0],
  more: Partial<Examined> = {},
): Examined {
  const { explain, remedy } = cause(code);
  return { code, severity, problem: explain(context), remedy, subject, affects: [subject.id], ...more };
}

export function accountSubject({ id, name }: ProviderAccountRow): ReadinessSubject {
  return { kind: 'account', id, name, href: `/connect/providers/${id}` };
}

export function channelSubject({ id, name }: ChannelRow): ReadinessSubject {
  return { kind: 'channel', id, name, href: `/connect/channels/${id}` };
}

export function appSubject({ id, name }: { id: string; name: string }): ReadinessSubject {
  return { kind: 'app', id, name, href: `/apps/${id}` };
}

/** What is found of the engine itself; its queues are shown beside what was set aside. */
export const ENGINE: ReadinessSubject = { kind: 'engine', id: 'engine', name: 'The engine', href: '/watch/set-aside' };

/** A broken hop is an error; one that nothing has exercised is said without alarm. */
export function ofProof(proof: HopProof, subject: ReadinessSubject, affects: readonly string[]): Examined[] {
  const { why, remedy } = explainProof(proof.hop, proof);
  if (!why || !remedy) return [];
  const broken = proof.state === 'broken';
  return [
    {
      code: broken ? (proof.cause ?? 'broken') : 'unproven',
      severity: broken ? 'error' : 'notice',
      problem: `${HOP_WORDS[proof.hop]}: ${why.charAt(0).toLowerCase()}${why.slice(1)}.`,
      remedy,
      subject,
      about: proof.hop,
      since: proof.since,
      affects,
    },
  ];
}

/** A check that fails says so in its place: what it would have found is not known, and no other check is held up. */
export function checkFailed(name: string, error: unknown): Examined {
  return finding(
    'loop-failing',
    'error',
    ENGINE,
    { subject: `The check “${name}”`, said: error instanceof Error ? error.message : String(error) },
    { about: `check ${name}` },
  );
}
