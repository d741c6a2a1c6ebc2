'use client';

import { type KeyboardEvent, type ReactNode, useState } from 'react';
import type { TrailHop } from '../../core/trail/hop';
import { ClockTime } from '../primitives/Time';
import { type Evidence, EvidenceBlock } from './EvidenceBlock';
import { elapsedWords } from './elapsed';
import { ProofMark, proofWord } from './ProofMark';

/** A leg of a trail: hops side by side, on a phone one below the other, with the real time between them; the failing one is open. */
export function HopStrip({
  hops,
  evidence,
  label,
  again,
}: {
  hops: readonly TrailHop[];
  evidence: Record<string, Evidence>;
  label: string;
  /** Buttons by which a hop is done again, by what it can be done from. */
  again?: Readonly<Record<string, ReactNode>>;
}) {
  const failing = hops.findIndex((hop) => hop.failure);
  const [open, setOpen] = useState<number | undefined>(failing >= 0 ? failing : undefined);
  const hop = open === undefined ? undefined : hops[open];
  /** Left and right go from hop to hop, Home and End to the ends. */
  function walk(event: KeyboardEvent<HTMLElement>) {
    const buttons = [...event.currentTarget.querySelectorAll<HTMLButtonElement>('button[data-hop]')];
    const at = buttons.indexOf(document.activeElement as HTMLButtonElement);
    const to = {
      ArrowLeft: at - 1,
      ArrowRight: at + 1,
      ArrowUp: at - 1,
      ArrowDown: at + 1,
      Home: 0,
      End: buttons.length - 1,
    }[event.key];
    if (at < 0 || to === undefined || !buttons[to]) return;
    event.preventDefault();
    buttons[to].focus();
  }
  return (
    <div className="rounded-md border border-line bg-panel">
      <section className="overflow-x-auto" aria-label={label} tabIndex={0} onKeyDown={walk}>
        <ol className="flex flex-col items-stretch sm:flex-row">
          {hops.map((entry, index) => (
            <li
              key={`${entry.place} ${entry.what}`}
              className="flex min-w-[124px] flex-1 items-stretch border-t border-line first:border-t-0 sm:border-t-0"
              data-hop-state={entry.state}
            >
              {index > 0 && <Gap elapsed={entry.elapsed} state={entry.state} />}
              <button
                type="button"
                data-hop={entry.place}
                aria-expanded={open === index}
                onClick={() => setOpen(open === index ? undefined : index)}
                className={`flex min-w-0 flex-1 flex-col gap-0.5 border-t-2 px-2.5 py-2.5 text-left hover:bg-hover ${open === index ? 'border-heather bg-hover' : 'border-transparent'}`}
              >
                <span className="flex items-center gap-2 font-medium">
                  <ProofMark state={entry.state} label={proofWord(entry.state)} />
                  <span className="min-w-0 leading-tight break-words">{entry.place}</span>
                </span>
                <span className="text-[13px] leading-snug text-soft">{entry.what}</span>
                <span className="mt-auto pt-1 font-mono text-xs text-soft">
                  {entry.at ? <ClockTime at={entry.at} millis /> : '—'}
                  {index > 0 && entry.elapsed !== undefined && (
                    <span className="sm:hidden"> · after {elapsedWords(entry.elapsed)}</span>
                  )}
                </span>
              </button>
            </li>
          ))}
        </ol>
      </section>
      {hop && <HopDetail hop={hop} evidence={evidence} again={hop.again ? again?.[hop.again] : undefined} />}
    </div>
  );
}

function Gap({ elapsed, state }: { elapsed?: number; state: TrailHop['state'] }) {
  const colour =
    state === 'broken' ? 'border-clay' : state === 'proven' ? 'border-moss' : 'border-line-strong border-dashed';
  return (
    <span
      className="hidden w-10 shrink-0 flex-col items-center justify-start pt-3.5 sm:flex"
      aria-hidden={elapsed === undefined}
    >
      <span className={`w-full border-t-2 ${colour}`} />
      <span className="mt-1 font-mono text-[11px] tracking-tight whitespace-nowrap text-soft">
        {elapsed === undefined ? '' : elapsedWords(elapsed)}
      </span>
    </span>
  );
}

function HopDetail({ hop, evidence, again }: { hop: TrailHop; evidence: Record<string, Evidence>; again?: ReactNode }) {
  const blocks = hop.evidence.map((ref) => evidence[ref.id]).filter((block) => block !== undefined);
  return (
    <div className="border-t border-line px-4 py-3">
      {hop.failure && (
        <div className="mb-3 border-l-4 border-clay pl-3" data-cause={hop.failure.code}>
          <p className="font-semibold text-clay">{hop.failure.title}</p>
          <p>{hop.failure.explanation}</p>
          <p className="mt-1">
            <span className="font-medium">How to fix it: </span>
            {hop.failure.remedy}
          </p>
        </div>
      )}
      {again && <div className="mb-3">{again}</div>}
      {hop.notes.length > 0 && (
        <ul className="mb-2 list-inside list-[square] text-[13px] text-soft">
          {hop.notes.map((note) => (
            <li key={note}>{note}</li>
          ))}
        </ul>
      )}
      {blocks.map((block) => (
        <EvidenceBlock key={block.id} evidence={block} />
      ))}
      {blocks.length === 0 && hop.notes.length === 0 && !hop.failure && (
        <p className="text-[13px] text-soft">Nothing more is known of this hop.</p>
      )}
    </div>
  );
}
