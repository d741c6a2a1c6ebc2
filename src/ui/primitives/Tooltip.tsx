'use client';

import { Tooltip as Radix } from 'radix-ui';
import type { ReactNode } from 'react';

/** Text on hover and focus. The trigger must say the same to people who hear it. */
export function Tooltip({ text, children }: { text: ReactNode; children: ReactNode }) {
  return (
    <Radix.Root delayDuration={200}>
      <Radix.Trigger asChild>{children}</Radix.Trigger>
      <Radix.Portal>
        <Radix.Content
          sideOffset={6}
          className="z-50 max-w-80 rounded border border-line bg-panel px-3 py-2 text-[13px] shadow-overlay"
        >
          {text}
        </Radix.Content>
      </Radix.Portal>
    </Radix.Root>
  );
}

export const TooltipProvider = Radix.Provider;
