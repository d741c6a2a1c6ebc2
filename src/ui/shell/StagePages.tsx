'use client';

import { usePathname } from 'next/navigation';
import { Link } from '../primitives/Link';
import { CountBadge, type Counts } from './CountBadge';
import { entryOf, type NavigationStage } from './navigation';

/** The pages of the stage one is in, side by side; nothing where it has only one. */
export function StagePages({ stages, counts }: { stages: readonly NavigationStage[]; counts: Counts }) {
  const entry = entryOf(usePathname());
  const stage = stages.find(({ pages }) => pages.some(({ href }) => href === entry));
  if (!stage || stage.pages.length < 2) return null;
  return (
    <nav aria-label={`Pages of ${stage.name}`} className="overflow-x-auto border-b border-line px-4 md:px-8">
      <ul className="mx-auto flex max-w-[1240px] gap-5 min-[1800px]:max-w-[1600px]">
        {stage.pages.map((page) => {
          const here = page.href === entry;
          return (
            <li key={page.href}>
              <Link
                href={page.href}
                aria-current={here ? 'page' : undefined}
                className={`plain flex items-baseline gap-1.5 border-b-2 py-2 whitespace-nowrap ${here ? 'border-heather font-semibold text-heather' : 'border-transparent hover:text-ridge'}`}
              >
                {page.label}
                <CountBadge counts={counts} of={[page]} />
              </Link>
            </li>
          );
        })}
      </ul>
    </nav>
  );
}
