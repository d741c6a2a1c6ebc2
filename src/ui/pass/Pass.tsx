'use client';

import { useState } from 'react';
import type { ProofState } from '../../core/proof/proofs';
import { ProofMark, proofWord } from '../domain/ProofMark';
import { Link } from '../primitives/Link';
import { layPass, type PassInput, pathThrough } from './layout';

export interface Trouble {
  nodes: string[];
  state: 'broken' | 'unproven';
  text: string;
  mend: string;
  href: string;
}

const STROKES: Record<ProofState, string> = {
  proven: 'var(--moss)',
  unproven: 'var(--line-strong)',
  broken: 'var(--clay)',
  'not-applicable': 'var(--line-strong)',
};

/** The set-up as lanes across a gap. Choosing anything lights its whole path and lists what is wrong on it. */
export function Pass({ input, troubles }: { input: PassInput; troubles: Trouble[] }) {
  const [chosen, setChosen] = useState<string>();
  const picture = layPass(input);
  const lit = chosen ? pathThrough(chosen, input.lines) : undefined;
  const shown = lit ? troubles.filter((trouble) => trouble.nodes.some((node) => lit.has(node))) : troubles;
  const chosenNode = picture.nodes.find((node) => node.id === chosen);
  return (
    <div className="rounded-md border border-line bg-panel">
      <section className="overflow-x-auto" aria-label="The pass" tabIndex={0}>
        <div className="relative mx-auto" style={{ width: picture.width, height: picture.height }}>
          <svg width={picture.width} height={picture.height} className="absolute inset-0" aria-hidden>
            <Banks width={picture.width} height={picture.height} />
            {picture.lines.map((line) => {
              const dim = lit && !(lit.has(line.from) && lit.has(line.to));
              return (
                <g key={`${line.from} ${line.to}`} opacity={dim ? 0.16 : 0.92}>
                  <path
                    d={line.path}
                    fill="none"
                    stroke={STROKES[line.state]}
                    strokeWidth={line.thickness}
                    strokeDasharray={line.state === 'unproven' ? '5 5' : undefined}
                  />
                  {line.state === 'broken' && (
                    <path
                      d={`M${line.middle.x - 5} ${line.middle.y - 13} l10 26`}
                      stroke="var(--panel)"
                      strokeWidth="9"
                    />
                  )}
                  {line.traffic > 0 && (
                    <text
                      x={line.middle.x}
                      y={line.middle.y - line.thickness / 2 - 4}
                      textAnchor="middle"
                      className="fill-soft font-mono text-[11px]"
                    >
                      {line.traffic}
                    </text>
                  )}
                </g>
              );
            })}
          </svg>
          {picture.nodes.map((node) => (
            <button
              key={node.id}
              type="button"
              aria-pressed={chosen === node.id}
              onClick={() => setChosen(chosen === node.id ? undefined : node.id)}
              className={`absolute -translate-y-1/2 rounded border bg-panel px-2.5 py-1 text-left ${chosen === node.id ? 'border-heather ring-1 ring-heather' : 'border-line'} ${lit && !lit.has(node.id) ? 'opacity-45' : ''}`}
              style={{ left: node.x, top: node.y, width: node.width }}
            >
              <span className="flex items-center gap-2 font-medium">
                {node.state !== 'not-applicable' && <ProofMark state={node.state} label={proofWord(node.state)} />}
                <span className="truncate">{node.name}</span>
              </span>
              <span className="block truncate text-xs text-soft">{node.detail}</span>
            </button>
          ))}
        </div>
      </section>
      <div className="border-t border-line px-4 py-3">
        <p className="mb-1.5 flex flex-wrap justify-between gap-2 text-[13px] text-soft">
          <span>
            {chosenNode ? (
              <>
                On the path through <Link href={chosenNode.href}>{chosenNode.name}</Link>
              </>
            ) : (
              'On every path; choose anything above to see its own'
            )}
          </span>
          <span>Thickness and figures: messages in the last 24 hours</span>
        </p>
        {shown.length === 0 ? (
          <p className="flex items-center gap-2">
            <ProofMark state="proven" label="" /> Every hop here is proven.
          </p>
        ) : (
          <ul className="grid gap-1.5">
            {shown.map((trouble) => (
              <li key={trouble.text} className="flex items-baseline gap-2">
                <span className="translate-y-0.5">
                  <ProofMark state={trouble.state} />
                </span>
                <span>
                  <Link href={trouble.href}>{trouble.text}</Link>. <span className="text-soft">{trouble.mend}</span>
                </span>
              </li>
            ))}
          </ul>
        )}
      </div>
    </div>
  );
}

/** Two slopes with the gap between them. */
function Banks({ width, height }: { width: number; height: number }) {
  return (
    <>
      <path
        d={`M0 0 H512 C496 ${height * 0.3} 532 ${height * 0.6} 498 ${height} H0 Z`}
        fill="var(--bank)"
        opacity=".75"
      />
      <path
        d={`M${width} 0 H792 C812 ${height * 0.35} 774 ${height * 0.7} 798 ${height} H${width} Z`}
        fill="var(--bank)"
        opacity=".75"
      />
      <text x="14" y="16" className="fill-soft font-mono text-[11px]">
        outside
      </text>
      <text x={width - 14} y="16" textAnchor="end" className="fill-soft font-mono text-[11px]">
        your apps and people
      </text>
    </>
  );
}
