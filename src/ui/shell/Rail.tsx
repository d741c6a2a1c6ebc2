'use client';

import { usePathname } from 'next/navigation';
import type { ReactNode } from 'react';
import { Link } from '../primitives/Link';
import { CountBadge, type Counts } from './CountBadge';
import { Emblem } from './Emblem';
import { entryOf, type NavigationStage } from './navigation';

interface RailProps {
  stages: readonly NavigationStage[];
  counts: Counts;
  foot: ReactNode;
}

/** The stages of the work down the left side, each with what needs attention in it. */
export function Rail({ stages, counts, foot }: RailProps) {
  const entry = entryOf(usePathname());
  return (
    <nav
      aria-label="Main"
      className="sticky top-0 hidden h-screen w-[148px] shrink-0 flex-col border-r border-line bg-bank py-3 md:flex"
    >
      <Link href="/" className="plain mb-4 flex items-center gap-2 px-4" aria-label="Windgap, overview">
        <Emblem />
        <span className="text-[17px] font-semibold tracking-[0.01em]">Windgap</span>
      </Link>
      {/* The notch reaches over the rail’s edge. */}
      <ul className="-mr-px min-h-0 flex-1 overflow-y-auto pr-px">
        {stages.map(({ name, pages }) => {
          const here = pages.some(({ href }) => href === entry);
          return (
            <li key={name}>
              <Link
                href={pages[0]?.href ?? '/'}
                aria-current={here ? 'true' : undefined}
                className={`plain relative flex items-baseline justify-between gap-2 px-4 py-1.5 ${here ? 'font-semibold text-heather' : 'hover:text-ridge'}`}
              >
                {here && <Notch />}
                {name}
                <CountBadge counts={counts} of={pages} />
              </Link>
            </li>
          );
        })}
      </ul>
      <div className="px-4 pt-2">{foot}</div>
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
      className="absolute top-[8px] -right-px hidden text-paper md:block"
      aria-hidden
    >
      <path d="M8 0 L1 8 L8 16 Z" fill="currentColor" />
    </svg>
  );
}
