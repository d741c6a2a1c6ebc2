'use client';

import { Command } from 'cmdk';
import { useRouter } from 'next/navigation';
import { useEffect, useRef, useState } from 'react';
import { Dialog } from '../primitives/Dialog';
import { GO_KEYS, NAVIGATION } from './navigation';

export interface Destination {
  label: string;
  kind: string;
  href: string;
}

const SHORTCUTS: [string, string][] = [
  ['Ctrl K or ⌘ K', 'Find a page, channel, app or conversation'],
  ['?', 'This list'],
  ['/', 'Go to the filter of this page'],
  ['j and k', 'The next conversation and the one before'],
  ['r', 'Answer; Escape leaves the answer'],
  ...NAVIGATION.flatMap((group) =>
    group.items.flatMap((item): [string, string][] => {
      const key = Object.keys(GO_KEYS).find((letter) => GO_KEYS[letter] === item.href);
      return key ? [[`g then ${key}`, item.label]] : [];
    }),
  ),
];

/** Ctrl/⌘ K finds anything; ? lists the keys; g and a letter goes to a page. */
export function Palette({ destinations }: { destinations: Destination[] }) {
  const router = useRouter();
  const [open, setOpen] = useState(false);
  const [help, setHelp] = useState(false);
  const going = useRef(false);

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
    addEventListener('keydown', press);
    return () => removeEventListener('keydown', press);
  }, [router]);

  function go(href: string) {
    setOpen(false);
    router.push(href);
  }

  return (
    <>
      <Dialog open={open} onOpenChange={setOpen} title="Go to">
        <Command label="Go to">
          <Command.Input
            placeholder="Page, channel, app, person…"
            className="w-full rounded border border-line-strong bg-panel px-2.5 py-1.5"
          />
          <Command.List className="mt-2 max-h-[46vh] overflow-y-auto">
            <Command.Empty className="px-2 py-3 text-soft">Nothing has that name.</Command.Empty>
            {[...pages(), ...destinations].map((entry) => (
              <Command.Item
                key={entry.href}
                value={`${entry.label} ${entry.kind} ${entry.href}`}
                onSelect={() => go(entry.href)}
                className="flex cursor-pointer justify-between gap-3 rounded-sm px-2 py-1.5 data-[selected=true]:bg-heather data-[selected=true]:text-on-ridge"
              >
                <span>{entry.label}</span>
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

function pages(): Destination[] {
  return NAVIGATION.flatMap((group) =>
    group.items.map((item) => ({ label: item.label, kind: 'page', href: item.href })),
  );
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
