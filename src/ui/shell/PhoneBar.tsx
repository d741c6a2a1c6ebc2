'use client';

import { usePathname } from 'next/navigation';
import { Link } from '../primitives/Link';
import { CountBadge, type Counts } from './CountBadge';
import { entryOf, type NavigationStage, ON_A_PHONE } from './navigation';

/** The places an agent needs, at the foot of a small screen. */
export function PhoneBar({ stages, counts }: { stages: readonly NavigationStage[]; counts: Counts }) {
  const entry = entryOf(usePathname());
  const pages = stages.flatMap((stage) => stage.pages).filter(({ href }) => ON_A_PHONE.includes(href));
  return (
    <nav
      aria-label="Most used"
      className="fixed inset-x-0 bottom-0 z-30 flex justify-around border-t border-line bg-bank md:hidden"
    >
      {pages.map((page) => (
        <Link
          key={page.href}
          href={page.href}
          aria-current={page.href === entry ? 'page' : undefined}
          className={`plain flex items-baseline gap-1.5 px-2 py-3 text-[13px] ${page.href === entry ? 'font-semibold text-heather' : ''}`}
        >
          {page.label}
          <CountBadge counts={counts} of={[page]} />
        </Link>
      ))}
    </nav>
  );
}
