'use client';

import type { ReactNode } from 'react';
import type { HopName } from '../../core/proof/hops';
import type { ProofState } from '../../core/proof/proofs';
import { HOP_WORDS } from '../../core/proof/wording';
import { Age } from '../primitives/Time';
import { Tooltip } from '../primitives/Tooltip';
import { ProofMark, proofWord } from './ProofMark';

/** What a proof looks like to a page: plain values, worded where the catalogue is at hand. */
export interface ProofView {
  hop: HopName;
  state: ProofState;
  since: number;
  evidenceAt?: number;
  /** Why it is broken or unproven. */
  why?: string;
  remedy?: string;
  href?: string;
  /** Why there is no such hop here. */
  note?: string;
}

export const HOP_MEANINGS: Record<HopName, string> = {
  credential: 'The provider accepts us',
  outbound: 'A message we sent reached a handset',
  receipt: 'Its delivery report came back',
  inbound: 'A message from outside reached the right place',
  'call-in': 'The app reached us with its key or at a send hook',
  'call-out': 'Our event reached the app and it accepted',
};

/** The marks alone, for tables: shape, and everything else in the tooltip and for screen readers. */
export function ProofRow({ proofs }: { proofs: readonly ProofView[] }) {
  return (
    <span className="inline-flex gap-1.5">
      {proofs.map((proof) => (
        <Tooltip key={proof.hop} text={<ProofWords proof={proof} />}>
          <button
            type="button"
            className="rounded-sm p-0.5"
            aria-label={`${HOP_WORDS[proof.hop]}: ${proofWord(proof.state).toLowerCase()}`}
          >
            <ProofMark state={proof.state} label="" />
          </button>
        </Tooltip>
      ))}
    </span>
  );
}

function ProofWords({ proof }: { proof: ProofView }) {
  return (
    <span className="block">
      <span className="font-medium">
        {HOP_WORDS[proof.hop]}: {proofWord(proof.state).toLowerCase()}
      </span>
      <span className="block text-soft">{proof.why ?? HOP_MEANINGS[proof.hop]}</span>
      {proof.evidenceAt && (
        <span className="block text-soft">
          Last evidence <Age at={proof.evidenceAt} past />
        </span>
      )}
    </span>
  );
}

/** By how many there are. */
const GRID = ['', '', 'max-w-[620px] sm:grid-cols-2', 'sm:grid-cols-2 lg:grid-cols-4'];

/** The hops written out, with what proved or broke each and what to do next. */
export function ProofPanel({
  proofs,
  evidenceLink,
  actions = {},
  meanings = {},
}: {
  proofs: readonly ProofView[];
  evidenceLink?: string;
  /** What exercises a hop on purpose. */
  actions?: Partial<Record<HopName, ReactNode>>;
  /** What a hop means here, where it is not what it means for a whole app or channel. */
  meanings?: Partial<Record<HopName, string>>;
}) {
  return (
    <ol
      className={`grid gap-px overflow-hidden rounded-md border border-line bg-line ${GRID[Math.min(proofs.length, 3)]}`}
    >
      {proofs.map((proof) => (
        <li
          key={proof.hop}
          className="flex flex-col items-start bg-panel p-3"
          data-hop={proof.hop}
          data-state={proof.state}
        >
          <div className="flex w-full items-center gap-2">
            <ProofMark state={proof.state} label="" />
            <span className="font-medium">{HOP_WORDS[proof.hop]}</span>
            <span className="ml-auto text-[13px] text-soft">{proofWord(proof.state)}</span>
          </div>
          <p className="mt-1 text-[13px] text-soft">{meanings[proof.hop] ?? HOP_MEANINGS[proof.hop]}.</p>
          {proof.evidenceAt && (
            <p className="mt-1 text-[13px]">
              {proof.href ? <a href={proof.href}>Evidence</a> : (evidenceLink ?? 'Evidence')}{' '}
              <Age at={proof.evidenceAt} past />
            </p>
          )}
          {proof.why && (
            <p className={`mt-1 text-[13px] ${proof.state === 'broken' ? 'text-clay' : 'text-ochre-ink'}`}>
              {proof.why}
            </p>
          )}
          {proof.remedy && proof.state !== 'proven' && <p className="mt-1 text-[13px]">{proof.remedy}</p>}
          {proof.state === 'not-applicable' && (
            <p className="mt-1 text-[13px]">{proof.note ?? 'This channel has no such hop.'}</p>
          )}
          {proof.state !== 'not-applicable' && actions[proof.hop] && <div className="mt-2">{actions[proof.hop]}</div>}
        </li>
      ))}
    </ol>
  );
}
