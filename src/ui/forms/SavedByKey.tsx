'use client';

import type { ReactNode } from 'react';

interface SavedByKeyProps {
  onSave(): void;
  className?: string;
  children: ReactNode;
}

/** The whole of an editor: Ctrl and S (or Command and S) saves wherever the focus is inside. */
export function SavedByKey({ onSave, className, children }: SavedByKeyProps) {
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: the key is meant for everything inside, the element itself is none to act on
    <div
      className={className}
      onKeyDown={(event) => {
        if (!(event.ctrlKey || event.metaKey) || event.key !== 's') return;
        event.preventDefault();
        onSave();
      }}
    >
      {children}
    </div>
  );
}
