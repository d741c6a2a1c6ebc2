'use client';

import { Command } from 'cmdk';
import { useRouter } from 'next/navigation';
import { useEffect, useMemo, useRef, useState } from 'react';
import { systemClock } from '../../clock/clock';
import { Dialog } from '../primitives/Dialog';
import { GO_KEYS, NAVIGATION, type NavigationStage } from './navigation';

export interface Destination {
  label: string;
  kind: string;
  href: string;
}

/** Dispatched on the window by whoever wants the search opened. */
export const OPEN_SEARCH = 'windgap:search';
/** A moment after the last key, in milliseconds. */
const SETTLED = 150;

const SHORTCUTS: [string, string][] = [
  ['Ctrl K or ⌘ K', 'Search everything'],
  ['?', 'This list'],
  ['/', 'Go to the filter of this page'],
  ['j and k', 'The next conversation and the one before'],
  ['r', 'Answer; Escape leaves the answer'],
  ...NAVIGATION.flatMap((group) =>
    group.pages.flatMap((page): [string, string][] => {
      const key = Object.keys(GO_KEYS).find((letter) => GO_KEYS[letter] === page.href);
      return key ? [[`g then ${key}`, page.label]] : [];
    }),
  ),
];

/** Ctrl/⌘ K searches everything; ? lists the keys; g and a letter goes to a page. */
export function Palette({ stages }: { stages: readonly NavigationStage[] }) {
  const router = useRouter();
  const [open, setOpen] = useState(false);
  const [help, setHelp] = useState(false);
  const going = useRef(false);
  const [text, setText] = useState('');
  // What was looked for last is no part of what is looked for next.
  useEffect(() => {
    if (!open) setText('');
  }, [open]);
  const { found, waiting } = useFound(open ? text : '');
  /** Enter was pressed before the server had answered. */
  const early = useRef(false);
  const entries = useMemo(() => inOrder(pagesOf(stages), found, text), [stages, found, text]);
  const [chosen, setChosen] = useState('');
  // What comes later comes on top, and Enter is for what is on top.
  useEffect(() => setChosen(entries[0] ? keyOf(entries[0]) : ''), [entries]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: once for each answer
  useEffect(() => {
    if (!waiting && early.current && found.length > 0 && entries[0]) go(entries[0].href);
    early.current = false;
  }, [waiting]);

  useEffect(() => {
    function press(event: KeyboardEvent) {
      if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === 'k') {
        event.preventDefault();
        setOpen((value) => !value);
        return;
      }
      if (event.ctrlKey || event.metaKey || event.altKey || isTyping(event.target)) return;
      if (going.current) {
        going.current = false;
        const href = GO_KEYS[event.key];
        if (href) router.push(href);
        return;
      }
      if (event.key === 'g') going.current = true;
      else if (event.key === '?') setHelp(true);
      else if (event.key === '/') focusOn('[data-filter]', event);
      else if (event.key === 'r') focusOn('[data-reply-text]', event);
      else if (event.key === 'j' || event.key === 'k') stepThrough(event.key === 'j' ? 1 : -1);
    }
    const show = () => setOpen(true);
    addEventListener('keydown', press);
    addEventListener(OPEN_SEARCH, show);
    return () => {
      removeEventListener('keydown', press);
      removeEventListener(OPEN_SEARCH, show);
    };
  }, [router]);

  function go(href: string) {
    setOpen(false);
    router.push(href);
  }

  return (
    <>
      <Dialog open={open} onOpenChange={setOpen} title="Search">
        <Command label="Search" shouldFilter={false} value={chosen} onValueChange={setChosen}>
          <Command.Input
            placeholder="Page, person, number, message id, channel, app, template, route…"
            value={text}
            onValueChange={(typed) => {
              early.current = false;
              setText(typed);
            }}
            onKeyDown={(event) => {
              if (event.key !== 'Enter' || !waiting || entries[0]?.kind === 'page') return;
              event.preventDefault();
              event.stopPropagation();
              early.current = true;
            }}
            className="w-full rounded border border-line-strong bg-panel px-2.5 py-1.5"
          />
          <Command.List className="mt-2 max-h-[46vh] overflow-y-auto">
            <Command.Empty className="px-2 py-3 text-soft">Nothing found.</Command.Empty>
            {entries.map((entry) => (
              <Command.Item
                key={keyOf(entry)}
                value={keyOf(entry)}
                onSelect={() => go(entry.href)}
                className="flex cursor-pointer justify-between gap-3 rounded-sm px-2 py-1.5 data-[selected=true]:bg-heather data-[selected=true]:text-on-ridge"
              >
                <span className="truncate">{entry.label}</span>
                <span className="text-[13px] opacity-80">{entry.kind}</span>
              </Command.Item>
            ))}
          </Command.List>
        </Command>
      </Dialog>
      <Dialog open={help} onOpenChange={setHelp} title="Keys">
        <dl className="grid grid-cols-[max-content_1fr] gap-x-5 gap-y-1">
          {SHORTCUTS.map(([key, what]) => (
            <div key={key} className="contents">
              <dt className="font-mono text-[13px]">{key}</dt>
              <dd>{what}</dd>
            </div>
          ))}
        </dl>
      </Dialog>
    </>
  );
}

function pagesOf(stages: readonly NavigationStage[]): Destination[] {
  return stages.flatMap(({ pages }) => pages.map(({ label, href }) => ({ label, kind: 'page', href })));
}

const keyOf = ({ kind, href }: Destination) => `${kind} ${href}`;

/** Pages called so, then what was found, then pages that have the text somewhere in their name. */
function inOrder(pages: readonly Destination[], found: readonly Destination[], text: string): readonly Destination[] {
  const wanted = text.trim().toLowerCase();
  const at = ({ label }: Destination) => label.toLowerCase().indexOf(wanted);
  const closest = [...found].sort((a, b) => Number(at(a) !== 0) - Number(at(b) !== 0));
  return [...pages.filter((page) => at(page) === 0), ...closest, ...pages.filter((page) => at(page) > 0)];
}

/** What the server finds for a text, a moment after the last key. */
function useFound(text: string): { found: readonly Destination[]; waiting: boolean } {
  const [{ found, of }, setFound] = useState<{ found: readonly Destination[]; of: string }>({ found: [], of: '' });
  const wanted = text.trim();
  useEffect(() => {
    if (wanted.length < 2) return setFound({ found: [], of: wanted });
    let late = false;
    const timer = systemClock.after(SETTLED, async () => {
      const answer = await fetch(`/search?${new URLSearchParams({ q: wanted })}`).catch(() => undefined);
      const fresh = answer?.ok ? ((await answer.json()) as Destination[]) : [];
      if (!late) setFound({ found: fresh, of: wanted });
    });
    return () => {
      late = true;
      timer.cancel();
    };
  }, [wanted]);
  return { found, waiting: of !== wanted };
}

function isTyping(target: EventTarget | null): boolean {
  return (
    target instanceof HTMLElement && (target.isContentEditable || /^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName))
  );
}

function focusOn(selector: string, event: KeyboardEvent) {
  const field = document.querySelector<HTMLElement>(selector);
  if (!field) return;
  event.preventDefault();
  field.focus();
}

/** To the entry after the one that is open, or before it; the first where none is. */
function stepThrough(by: 1 | -1) {
  const links = [...document.querySelectorAll<HTMLAnchorElement>('[data-through] a')];
  const here = links.findIndex((link) => link.getAttribute('aria-current') === 'true');
  const next = links[here < 0 ? 0 : here + by];
  next?.scrollIntoView({ block: 'nearest' });
  next?.click();
}
