'use client';

import { usePathname } from 'next/navigation';
import type { ReactNode } from 'react';
import { Link } from '../primitives/Link';
import { Emblem } from './Emblem';
import { entryOf, NAVIGATION } from './navigation';

export function Rail({ admin, hidden, foot }: { admin: boolean; hidden: readonly string[]; foot: ReactNode }) {
  const path = usePathname();
  return (
    <nav
      aria-label="Main"
      className="flex w-full shrink-0 flex-wrap items-center gap-x-4 gap-y-1 border-b border-line bg-bank px-4 py-2 md:sticky md:top-0 md:h-screen md:w-[184px] md:flex-col md:flex-nowrap md:items-stretch md:gap-0 md:border-r md:border-b-0 md:px-0 md:py-3"
    >
      <Link href="/" className="plain flex items-center gap-2 md:mb-3 md:px-4">
        <Emblem />
        <span className="text-[17px] font-semibold tracking-[0.01em]">Windgap</span>
      </Link>
      {/* On low screens the places scroll and the foot stays; the notch reaches over the rail’s edge. */}
      <div className="contents md:-mr-px md:block md:min-h-0 md:flex-1 md:overflow-y-auto md:pr-px">
        {NAVIGATION.map((group) => {
          const items = group.items.filter((item) => (admin || !item.adminOnly) && !hidden.includes(item.href));
          if (items.length === 0) return null;
          const named = items.length > 1 || items[0]?.label !== group.name;
          return (
            <div key={group.name} className="md:mb-0.5">
              {named && group.name !== 'Whole' && (
                <p className="hidden px-4 font-mono text-[11px] text-soft md:block" aria-hidden>
                  {group.name}
                </p>
              )}
              <ul className="flex flex-wrap md:block">
                {items.map((item) => {
                  const here = item.href === entryOf(path);
                  return (
                    <li key={item.href}>
                      <Link
                        href={item.href}
                        aria-current={here ? 'page' : undefined}
                        className={`plain relative block rounded-sm px-2 py-[2px] md:px-4 md:py-[1.5px] ${here ? 'font-semibold text-heather' : 'hover:text-ridge'}`}
                      >
                        {here && <Notch />}
                        {item.label}
                      </Link>
                    </li>
                  );
                })}
              </ul>
            </div>
          );
        })}
      </div>
      <div className="ml-auto flex items-center gap-2 md:ml-0 md:block md:px-4 md:pt-2">{foot}</div>
    </nav>
  );
}

/** A gap cut into the rail's edge where you are. */
function Notch() {
  return (
    <svg
      width="8"
      height="16"
      viewBox="0 0 8 16"
      className="absolute top-[6px] -right-px hidden text-paper md:block"
      aria-hidden
    >
      <path d="M8 0 L1 8 L8 16 Z" fill="currentColor" />
    </svg>
  );
}
