'use client';

import { useState } from 'react';
import type { ProofState } from '../../core/proof/proofs';
import { ProofMark, proofWord } from '../domain/ProofMark';
import { Link } from '../primitives/Link';
import { condense } from './condense';
import { layPass, type PassInput, pathThrough } from './layout';

export interface Trouble {
  nodes: string[];
  state: 'broken' | 'unproven';
  text: string;
  remedy: string;
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
  const [open, setOpen] = useState<ReadonlySet<string>>(new Set());
  const [search, setSearch] = useState('');
  const large = [input.accounts, input.channels, input.routes, input.apps].some(({ length }) => length > MOST_DRAWN);
  const wanted = named(input, search);
  const { input: drawn, members } = condense(input, MOST_DRAWN, { open, wanted });
  const picture = layPass(drawn);
  // Paths are those of the whole set-up; what stands together is lit with any of its own.
  const reached = chosen ? pathThrough(chosen, members.has(chosen) ? drawn.lines : input.lines) : undefined;
  const lit =
    reached &&
    new Set([...reached, ...[...members].flatMap(([id, own]) => (own.some((each) => reached.has(each)) ? [id] : []))]);
  const own = chosen ? (members.get(chosen) ?? []) : [];
  const shown = lit
    ? troubles.filter(({ nodes }) => nodes.some((node) => lit.has(node) || own.includes(node)))
    : troubles;
  const strength = ({ from, to }: { from: string; to: string }) =>
    lit && !(lit.has(from) && lit.has(to)) ? 0.16 : 0.92;
  const chosenNode = picture.nodes.find((node) => node.id === chosen);

  function choose(id: string) {
    const column = id.startsWith('other ') && members.has(id) ? id.slice('other '.length) : undefined;
    if (column) setOpen(new Set([...open, column]));
    else setChosen(chosen === id ? undefined : id);
  }

  return (
    <div className="rounded-md border border-line bg-panel">
      {large && (
        <div className="flex flex-wrap items-center gap-3 border-b border-line px-4 py-2 text-[13px]">
          <input
            aria-label="Find in the paths"
            placeholder="Find a name or number"
            className="w-56 rounded border border-line-strong bg-panel px-2 py-0.5"
            value={search}
            onChange={(event) => setSearch(event.target.value)}
          />
          <span className="text-soft">
            Shown separately: what is broken, then what carries most.
            {search && ` ${wanted.size === 1 ? 'One fits' : `${wanted.size} fit`} “${search}”.`}
          </span>
          {open.size > 0 && (
            <button
              type="button"
              className="text-ridge underline underline-offset-4"
              onClick={() => setOpen(new Set())}
            >
              Collapse again
            </button>
          )}
        </div>
      )}
      <section
        className="overflow-x-auto bg-[color-mix(inSrgb,var(--bank)_75%,var(--panel))]"
        aria-label="Paths"
        tabIndex={0}
      >
        <div className="relative mx-auto" style={{ width: picture.width, height: picture.height }}>
          <svg width={picture.width} height={picture.height} className="absolute inset-0" aria-hidden>
            <Banks width={picture.width} height={picture.height} />
            {picture.lines.map((line) => (
              <g key={`${line.from} ${line.to}`} opacity={strength(line)}>
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
              </g>
            ))}
            {/* Figures lie over all lines, each on a ground of its own. */}
            {picture.lines
              .filter(({ traffic }) => traffic > 0)
              .map((line) => (
                <text
                  key={`${line.from} ${line.to}`}
                  x={line.figure.x}
                  y={line.figure.y + 4}
                  textAnchor="middle"
                  opacity={strength(line)}
                  stroke="var(--panel)"
                  strokeWidth="4"
                  paintOrder="stroke"
                  className="fill-soft font-mono text-[11px]"
                >
                  {line.traffic}
                </text>
              ))}
          </svg>
          {picture.nodes.map((node) => (
            <button
              key={node.id}
              type="button"
              aria-pressed={chosen === node.id}
              data-node={node.id}
              onClick={() => choose(node.id)}
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
              'All paths; select anything above to see its own'
            )}
          </span>
          <span>Thickness and figures: messages in the last 24 hours</span>
        </p>
        {shown.length === 0 ? (
          <AllClear
            nodes={lit ? picture.nodes.filter(({ id }) => lit.has(id)) : picture.nodes}
            channels={input.channels.length}
          />
        ) : (
          <ul className="grid gap-1.5">
            {shown.slice(0, MOST_TROUBLES).map((trouble) => (
              <li key={trouble.text} className="flex items-baseline gap-2">
                <span className="translate-y-0.5">
                  <ProofMark state={trouble.state} />
                </span>
                <span>
                  <Link href={trouble.href}>{trouble.text}</Link>. <span className="text-soft">{trouble.remedy}</span>
                </span>
              </li>
            ))}
            {shown.length > MOST_TROUBLES && (
              <li>
                and {shown.length - MOST_TROUBLES} more, all in <Link href="/prove/readiness">Readiness</Link>
              </li>
            )}
          </ul>
        )}
      </div>
    </div>
  );
}

const MOST_DRAWN = 10;
const MOST_TROUBLES = 10;

/** What is said where nothing is wrong: no more than is so of what is there. */
function AllClear({ nodes, channels }: { nodes: readonly { state: ProofState }[]; channels: number }) {
  if (channels === 0) return <p>Nothing is connected yet, so there is no hop to prove.</p>;
  const proven = nodes.every(({ state }) => state === 'proven' || state === 'not-applicable');
  return (
    <p className="flex items-center gap-2">
      <ProofMark state={proven ? 'proven' : 'unproven'} label="" />
      {proven ? 'Every hop here is proven.' : 'Nothing here is known to be broken; not every hop is proven.'}
    </p>
  );
}

/** Nodes whose name or number has these letters. */
function named({ accounts, channels, routes, apps }: PassInput, search: string): Set<string> {
  const words = search.trim().toLowerCase();
  if (!words) return new Set();
  return new Set(
    [accounts, channels, routes, apps].flatMap((nodes) =>
      nodes
        .filter(({ name, detail }) => `${name} ${detail}`.toLowerCase().includes(words))
        .slice(0, MOST_DRAWN)
        .map(({ id }) => id),
    ),
  );
}

/** The gap between two slopes; the slopes are the ground it is cut into. */
function Banks({ width, height }: { width: number; height: number }) {
  return (
    <>
      <path
        d={`M512 0 C496 ${height * 0.3} 532 ${height * 0.6} 498 ${height} H798 C774 ${height * 0.7} 812 ${height * 0.35} 792 0 Z`}
        fill="var(--panel)"
      />
      <text x="14" y="16" className="fill-soft font-mono text-[11px]">
        providers
      </text>
      <text x={width - 14} y="16" textAnchor="end" className="fill-soft font-mono text-[11px]">
        your apps and people
      </text>
    </>
  );
}
