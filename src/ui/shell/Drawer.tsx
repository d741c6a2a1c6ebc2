'use client';

import { X } from 'lucide-react';
import { usePathname } from 'next/navigation';
import { Dialog } from 'radix-ui';
import type { ReactNode } from 'react';
import { Link } from '../primitives/Link';
import { CountBadge, type Counts } from './CountBadge';
import { entryOf, type NavigationStage } from './navigation';

interface DrawerProps {
  open: boolean;
  onOpenChange: (open: boolean) => void;
  stages: readonly NavigationStage[];
  counts: Counts;
  person: string;
  foot: ReactNode;
}

/** All pages, from the side of a small screen. */
export function Drawer({ open, onOpenChange, stages, counts, person, foot }: DrawerProps) {
  const entry = entryOf(usePathname());
  return (
    <Dialog.Root open={open} onOpenChange={onOpenChange}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-black/40" />
        <Dialog.Content
          aria-describedby={undefined}
          className="fixed inset-y-0 left-0 z-50 w-[270px] overflow-y-auto border-r border-line bg-bank p-4 shadow-overlay"
        >
          <Dialog.Title className="mb-2 text-[15px] font-semibold">{person}</Dialog.Title>
          <Dialog.Close aria-label="Close" className="absolute top-3 right-3 rounded p-1.5 text-soft hover:text-ink">
            <X size={16} aria-hidden />
          </Dialog.Close>
          {stages.map(({ name, pages }) => (
            <section key={name} className="mb-2" aria-label={name}>
              {pages.length > 1 && <p className="font-mono text-[11px] text-soft">{name}</p>}
              <ul>
                {pages.map((page) => (
                  <li key={page.href}>
                    <Link
                      href={page.href}
                      aria-current={page.href === entry ? 'page' : undefined}
                      onClick={() => onOpenChange(false)}
                      className={`plain flex items-baseline justify-between py-1 ${page.href === entry ? 'font-semibold text-heather' : ''}`}
                    >
                      {page.label}
                      <CountBadge counts={counts} of={[page]} />
                    </Link>
                  </li>
                ))}
              </ul>
            </section>
          ))}
          <div className="mt-3 border-t border-line pt-3">{foot}</div>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
