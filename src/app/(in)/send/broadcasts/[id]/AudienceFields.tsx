'use client';

import { useEffect, useState } from 'react';
import { systemClock } from '../../../../../clock/clock';
import type { AudiencePart, BroadcastDefinition } from '../../../../../core/broadcast/definition';
import { throughAsking } from '../../../../../ui/forms/throughAsking';
import { PeopleSearch } from '../../_parts/PeopleSearch';
import { countBroadcastAction } from '../actions';
import { SMALL } from './fields';
import { partWords } from './sentence';

/** Parts of an audience, taken together. */
export function Parts({
  label,
  parts,
  audiences,
  tags,
  listLines,
  people,
  onParts,
}: {
  label: string;
  parts: AudiencePart[];
  onParts: (parts: AudiencePart[]) => void;
  audiences: [string, string][];
  tags: string[];
  listLines: number;
  /** Names of contacts that are chosen by hand. */
  people: [string, string][];
}) {
  const [found, setFound] = useState<[string, string][]>([]);
  const names = new Map([...people, ...found]);
  const chosen = parts.find((part) => part.by === 'people')?.ids ?? [];
  const choose = (ids: string[]) => {
    const others = parts.filter((part) => part.by !== 'people');
    onParts(ids.length > 0 ? [...others, { by: 'people', ids }] : others);
  };
  const has = (part: AudiencePart) => parts.some((each) => JSON.stringify(each) === JSON.stringify(part));
  const offers: [string, AudiencePart][] = [
    ['everybody', { by: 'everybody' }],
    ...(listLines > 0 ? ([[`the list (${listLines})`, { by: 'list' }]] as [string, AudiencePart][]) : []),
    ...audiences.map(([id, name]): [string, AudiencePart] => [`audience ${name}`, { by: 'saved', id }]),
    ...tags.map((tag): [string, AudiencePart] => [
      `tag ${tag}`,
      { by: 'filter', conditions: { match: 'all', of: [{ on: 'tag', is: 'has', tag }] } },
    ]),
  ];
  const free = offers.filter(([, part]) => !has(part));
  return (
    <div>
      <span className="mb-1 block font-medium">{label}</span>
      <div className="flex flex-wrap items-center gap-2">
        {chosen.map((id) => (
          <Chosen
            key={id}
            words={names.get(id) ?? 'a contact that is gone'}
            onOut={() => choose(chosen.filter((each) => each !== id))}
          />
        ))}
        {parts.map((part) => {
          if (part.by === 'people') return null;
          const words = partWords(part, audiences, listLines);
          return (
            <Chosen
              key={JSON.stringify(part)}
              words={words}
              onOut={() => onParts(parts.filter((each) => each !== part))}
            />
          );
        })}
        <select
          aria-label={`${label}: add`}
          className={SMALL}
          value=""
          onChange={(event) => {
            const chosen = free[Number(event.target.value)];
            if (event.target.value !== '' && chosen) onParts([...parts, chosen[1]]);
          }}
        >
          <option value="">Add …</option>
          {free.map(([words], index) => (
            <option key={words} value={index}>
              {words}
            </option>
          ))}
        </select>
        <PeopleSearch
          label={`${label}: find`}
          taken={chosen}
          onFound={(person) => {
            setFound([...found, person]);
            choose([...chosen, person[0]]);
          }}
        />
      </div>
    </div>
  );
}

function Chosen({ words, onOut }: { words: string; onOut: () => void }) {
  return (
    <span className="flex items-center gap-1 rounded border border-line-strong px-2 py-1 text-[13px]">
      {words}
      <button type="button" aria-label={`Take out ${words}`} className="px-1 text-clay" onClick={onOut}>
        ×
      </button>
    </span>
  );
}

/** Counted while it is written, a moment after the last change. */
export function Counted({ id, definition }: { id: string; definition: BroadcastDefinition }) {
  const [counted, setCounted] = useState<Awaited<ReturnType<typeof countBroadcastAction>>>();
  const { audience } = definition;
  const written = JSON.stringify(audience);
  // biome-ignore lint/correctness/useExhaustiveDependencies: only the audience is counted
  useEffect(() => {
    if (audience.include.length === 0) return setCounted(undefined);
    const timer = systemClock.after(300, async () =>
      setCounted(await throughAsking(() => countBroadcastAction(id, definition))),
    );
    return timer.cancel;
  }, [written, id]);
  if (counted === undefined) return null;
  if ('problem' in counted) return <p className="text-[13px] text-clay">{counted.problem}</p>;
  if (!('contacts' in counted)) return null;
  const parts = [
    counted.contacts > 0 || counted.list === 0 ? `${counted.contacts.toLocaleString('en')} contacts` : undefined,
    counted.list > 0 ? `${counted.list.toLocaleString('en')} lines of the list` : undefined,
  ].filter(Boolean);
  return (
    <p className="text-[13px] text-soft" aria-live="polite" data-counted={counted.contacts + counted.list}>
      {parts.join(' and ')} as things stand; who of them is counted again when it is planned.
    </p>
  );
}
