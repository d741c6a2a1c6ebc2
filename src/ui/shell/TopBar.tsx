'use client';

import { Bell, Menu, Search } from 'lucide-react';
import { Popover } from 'radix-ui';
import { type ReactNode, useState } from 'react';
import { Link } from '../primitives/Link';
import { Age } from '../primitives/Time';
import { type Counts, countWords } from './CountBadge';
import { Drawer } from './Drawer';
import { NAVIGATION, type NavigationStage } from './navigation';
import { OPEN_SEARCH } from './Palette';

interface BellAlert {
  id: number;
  problem: string;
  subject: string;
  href: string;
  began: number;
  severity: 'error' | 'attention' | 'notice';
}

interface TopBarProps {
  stages: readonly NavigationStage[];
  counts: Counts;
  /** The latest that last. */
  alerts: readonly BellAlert[];
  installation: { name: string; kind: 'test' | 'live'; engine: boolean; own?: string };
  /** Of the bench's clock, in words; nothing while it goes with the machine. */
  ahead?: string;
  person: string;
  /** Theme and signing out, where the rail is not shown. */
  foot: ReactNode;
}

/** Search, what needs attention, and which installation this is and how it does. */
export function TopBar({ stages, counts, alerts, installation, ahead, person, foot }: TopBarProps) {
  const [drawer, setDrawer] = useState(false);
  return (
    <header className="flex h-12 items-center gap-3 border-b border-line bg-paper px-4 md:px-8">
      <button type="button" className="p-1 md:hidden" aria-label="Menu" onClick={() => setDrawer(true)}>
        <Menu size={18} aria-hidden />
      </button>
      <button
        type="button"
        onClick={() => dispatchEvent(new Event(OPEN_SEARCH))}
        className="flex h-8 w-full max-w-[340px] items-center gap-2 rounded border border-line-strong bg-panel px-2.5 text-soft hover:border-ridge"
      >
        <Search size={14} aria-hidden />
        <span className="truncate">Search everything</span>
        <kbd className="ml-auto hidden font-mono text-[11px] sm:inline">Ctrl K</kbd>
      </button>
      <div className="ml-auto flex items-center gap-3 text-[13px]">
        {ahead && (
          <Link href="/prove/bench#clock" className="plain hidden text-ochre-ink lg:inline">
            Clock + {ahead}
          </Link>
        )}
        <span className="hidden items-baseline gap-2 sm:flex">
          <span className="max-w-56 truncate">{installation.name}</span>
          <span className="rounded-sm border border-line-strong px-1 text-[11px] leading-4">{installation.kind}</span>
          {installation.engine && installation.own ? (
            <Link href="/prove/readiness" className="plain font-semibold text-clay">
              ◧ {installation.own}
            </Link>
          ) : installation.engine ? (
            <span className="text-moss">■ engine running</span>
          ) : (
            <Link href="/prove/readiness" className="plain font-semibold text-clay">
              ◧ engine not running
            </Link>
          )}
        </span>
        <Attention counts={counts} alerts={alerts} />
      </div>
      <Drawer open={drawer} onOpenChange={setDrawer} stages={stages} counts={counts} person={person} foot={foot} />
    </header>
  );
}

function Attention({ counts, alerts }: { counts: Counts; alerts: readonly BellAlert[] }) {
  const open = NAVIGATION.flatMap(({ pages }) => pages).flatMap(({ counts: count, href }) =>
    count && counts[count] > 0 ? [{ count, href, n: counts[count] }] : [],
  );
  const sum = open.reduce((total, { n }) => total + n, 0);
  return (
    <Popover.Root>
      <Popover.Trigger
        className="relative rounded p-1.5 hover:bg-hover"
        aria-label={sum > 0 ? `Needs attention: ${sum}` : 'Needs attention: nothing'}
      >
        <Bell size={16} aria-hidden />
        {sum > 0 && (
          <span className="absolute -top-0.5 -right-1 rounded-sm bg-ridge px-[3px] text-[10px] leading-[14px] font-semibold text-on-ridge tabular-nums">
            {sum > 99 ? '99+' : sum}
          </span>
        )}
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="end"
          sideOffset={6}
          className="z-40 max-h-[70vh] w-80 overflow-y-auto rounded-md border border-line bg-panel p-3 text-[13px] shadow-overlay"
        >
          <p className="mb-1 font-semibold">Needs attention</p>
          {open.length === 0 ? (
            <p className="text-soft">Nothing at the moment.</p>
          ) : (
            <ul className="grid gap-1">
              {open.map(({ count, href, n }) => (
                <li key={href}>
                  <Popover.Close asChild>
                    <Link href={href}>{countWords(count, n)}</Link>
                  </Popover.Close>
                </li>
              ))}
            </ul>
          )}
          {alerts.length > 0 && (
            <>
              <p className="mt-3 mb-1 border-t border-line pt-2 font-semibold">Alerts</p>
              <ul className="grid gap-2">
                {alerts.map(({ id, problem, subject, href, began, severity }) => (
                  <li
                    key={id}
                    className={`border-l-4 pl-2 ${severity === 'error' ? 'border-clay' : 'border-line-strong'}`}
                  >
                    <Popover.Close asChild>
                      <Link href={href}>{subject}</Link>
                    </Popover.Close>{' '}
                    <span className="text-soft">
                      <Age at={began} past />
                    </span>
                    <span className="line-clamp-2">{problem}</span>
                  </li>
                ))}
              </ul>
              <p className="mt-2">
                <Popover.Close asChild>
                  <Link href="/watch/alerts">All alerts</Link>
                </Popover.Close>
              </p>
            </>
          )}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
