'use client';

import { useEffect } from 'react';

/** Asks before unsaved work is left: by closing the page, and by a link inside of it. */
export function useUnsavedGuard(unsaved: boolean): void {
  useEffect(() => {
    if (!unsaved) return;
    const warn = (event: BeforeUnloadEvent) => event.preventDefault();
    const ask = (event: MouseEvent) => {
      const link = event.target instanceof Element ? event.target.closest('a[href]') : null;
      if (
        !(link instanceof HTMLAnchorElement) ||
        link.target === '_blank' ||
        link.hash ||
        event.ctrlKey ||
        event.metaKey
      )
        return;
      if (!confirm('What you wrote here is not saved. Leave it?')) {
        event.preventDefault();
        event.stopPropagation();
      }
    };
    addEventListener('beforeunload', warn);
    document.addEventListener('click', ask, true);
    return () => {
      removeEventListener('beforeunload', warn);
      document.removeEventListener('click', ask, true);
    };
  }, [unsaved]);
}
