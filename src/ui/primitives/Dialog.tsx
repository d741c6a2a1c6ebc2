'use client';

import { X } from 'lucide-react';
import { Dialog as Radix } from 'radix-ui';
import type { ReactNode } from 'react';

interface DialogProps {
  open: boolean;
  onOpenChange: (open: boolean) => void;
  title: string;
  description?: string;
  /** For evidence, which has two columns. */
  wide?: boolean;
  /** In front of another dialog. */
  above?: boolean;
  children: ReactNode;
}

/** The close button comes last, so that the focus begins at what the dialog is for. */
export function Dialog({ open, onOpenChange, title, description, wide, above, children }: DialogProps) {
  return (
    <Radix.Root open={open} onOpenChange={onOpenChange}>
      <Radix.Portal>
        <Radix.Overlay className={`fixed inset-0 bg-black/40 ${above ? 'z-[60]' : 'z-40'}`} />
        <Radix.Content
          aria-describedby={description ? undefined : ''}
          className={`fixed left-1/2 ${above ? 'z-[70]' : 'z-50'} max-h-[92vh] -translate-x-1/2 overflow-y-auto rounded-md border border-line bg-panel p-5 shadow-overlay ${wide ? 'top-[8vh] w-[min(1040px,calc(100vw-24px))]' : 'top-[8vh] w-[min(560px,calc(100vw-24px))] sm:top-[14vh] sm:max-h-[80vh]'}`}
        >
          <Radix.Title className="mb-3 pr-8 text-lg font-semibold">{title}</Radix.Title>
          {description && <Radix.Description className="mb-3 text-soft">{description}</Radix.Description>}
          {children}
          <Radix.Close aria-label="Close" className="absolute top-4 right-4 rounded p-1.5 text-soft hover:text-ink">
            <X size={16} aria-hidden />
          </Radix.Close>
        </Radix.Content>
      </Radix.Portal>
    </Radix.Root>
  );
}
