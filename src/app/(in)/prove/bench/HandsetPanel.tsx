'use client';

import { type FormEvent, useEffect, useRef, useState } from 'react';
import { toast } from 'sonner';
import { countryName, displayAddress } from '../../../../core/addresses/display';
import { CARRIED_IN, isSlow } from '../../../../core/drill/handsets';
import type { BenchState } from '../../../../operations/bench';
import { MediaLink } from '../../../../ui/domain/MediaLink';
import { throughAsking } from '../../../../ui/forms/throughAsking';
import { Button } from '../../../../ui/primitives/Button';
import { handsetAction, typeAction } from './actions';

type Handset = BenchState['handsets'][number];

const WAYS: Record<Handset['entries'][number]['way'], string> = {
  text: '',
  chat: 'chat ',
  mail: 'mail ',
  talk: 'chat ',
};

interface Props {
  handset: Handset;
  numbers: BenchState['numbers'];
  changed: () => void;
}

export function HandsetPanel({ handset, numbers, changed }: Props) {
  const [text, setText] = useState('');
  const [picture, setPicture] = useState(false);
  const on = handset.power === 'on';
  const slow = isSlow(handset);
  const reached = numbers.filter(({ fromMailbox = false }) => fromMailbox === (handset.mailbox ?? false));

  async function type(event: FormEvent<HTMLFormElement>) {
    event.preventDefault();
    const answer = await throughAsking(() => typeAction(handset.number, new FormData(event.currentTarget)));
    if (answer.status === 'refused') toast.error(answer.message);
    else {
      setText('');
      setPicture(false);
    }
    changed();
  }

  async function set(settings: Parameters<typeof handsetAction>[1]) {
    await throughAsking(() => handsetAction(handset.number, settings));
    changed();
  }

  return (
    <article
      className={`flex min-w-0 flex-col rounded-md border bg-panel ${on ? 'border-line' : 'border-dashed border-line-strong'}`}
      aria-label={`${handset.mailbox ? 'Mailbox' : 'Handset'} of ${handset.owner}`}
    >
      <header className="border-b border-line px-3 py-2">
        <div className="flex items-baseline justify-between gap-2">
          <h3 className="truncate font-medium">{handset.owner}</h3>
          <span className="text-[13px] whitespace-nowrap text-soft">
            {handset.mailbox ? 'e-mail' : countryName(handset.country)}
          </span>
        </div>
        <p className="truncate text-[13px] text-soft">
          <span className="font-mono">{displayAddress(handset.number)}</span>
          {handset.forTests && ' · kept for tests'}
        </p>
        <div className="mt-1.5 flex gap-2">
          <Button aria-pressed={!on} onClick={() => set({ power: on ? 'off' : 'on' })}>
            {handset.mailbox ? (on ? 'Fill it up' : 'Make room') : on ? 'Switch off' : 'Switch on'}
          </Button>
          <Button aria-pressed={slow} onClick={() => set({ delayMs: slow ? CARRIED_IN.usual : CARRIED_IN.slow })}>
            {slow ? 'Make it quick' : 'Make it slow'}
          </Button>
        </div>
      </header>
      <Screen handset={handset} />
      <form onSubmit={type} className="grid grid-cols-[minmax(0,1fr)] gap-2 border-t border-line p-3">
        <label className="grid min-w-0 gap-0.5 text-[13px]">
          <span className="text-soft">{handset.mailbox ? 'Mail to' : 'Text to'}</span>
          <select
            name="to"
            disabled={!on}
            className="w-full min-w-0 rounded border border-line-strong bg-panel px-2 py-1 font-mono text-[13px]"
          >
            {reached.map(({ number, account, way }) => (
              <option key={`${way} ${number}`} value={`${way} ${number}`}>
                {displayAddress(number)} ({account})
              </option>
            ))}
          </select>
        </label>
        <label className="grid min-w-0 gap-0.5 text-[13px]">
          <span className="text-soft">Message</span>
          <textarea
            name="text"
            rows={2}
            value={text}
            disabled={!on}
            onChange={(event) => setText(event.target.value)}
            className="rounded border border-line-strong bg-panel px-2 py-1"
          />
        </label>
        <label className="flex items-center gap-1.5 text-[13px]">
          <input
            type="checkbox"
            name="picture"
            checked={picture}
            disabled={!on}
            onChange={(event) => setPicture(event.target.checked)}
          />
          With a picture
        </label>
        <Button type="submit" disabled={!on || (text.trim() === '' && !picture)}>
          {handset.mailbox ? 'Send from this mailbox' : 'Send from this handset'}
        </Button>
      </form>
    </article>
  );
}

function Screen({ handset }: { handset: Handset }) {
  const box = useRef<HTMLOListElement>(null);
  const last = handset.entries.at(-1)?.id;
  // biome-ignore lint/correctness/useExhaustiveDependencies: scroll when another entry is the last one
  useEffect(() => {
    if (box.current) box.current.scrollTop = box.current.scrollHeight;
  }, [last]);
  return (
    <ol
      ref={box}
      tabIndex={0}
      aria-label={`What ${handset.mailbox ? 'the mailbox' : 'the handset'} of ${handset.owner} got and sent`}
      className="h-56 overflow-y-auto px-3 py-2"
    >
      {handset.entries.length === 0 && <li className="text-[13px] text-soft">Nothing yet.</li>}
      {handset.entries.map((entry) => (
        <li key={entry.id} className="mb-2" data-entry={entry.direction}>
          <p className="flex justify-between gap-2 text-xs text-soft">
            <span>
              {WAYS[entry.way]}
              {entry.direction === 'received' ? 'from' : 'to'}{' '}
              <span className="font-mono">{displayAddress(entry.peer)}</span>
            </span>
            <span className="font-mono">{entry.at.slice(11, 19)}</span>
          </p>
          <p className={`break-words whitespace-pre-wrap ${entry.direction === 'received' ? '' : 'text-soft'}`}>
            {entry.text}
          </p>
          {entry.file && <MediaLink media={{ url: entry.file.address, type: entry.file.type }} />}
          <p className="text-xs text-soft">
            {entry.way === 'chat' || entry.way === 'talk'
              ? 'in the chat application'
              : handset.mailbox
                ? 'in the mailbox'
                : `${entry.encoding}, ${entry.parts} ${entry.parts === 1 ? 'part' : 'parts'}`}
          </p>
        </li>
      ))}
    </ol>
  );
}
