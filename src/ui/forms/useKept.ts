'use client';

import { useEffect, useState } from 'react';

/**
 * A text that is kept in this tab of the browser while it is being written, so that it is there again after signing in or
 * coming back; it goes when it is emptied, and with the tab.
 */
export function useKept(name: string): [string, (text: string) => void] {
  const [text, setText] = useState('');
  useEffect(() => setText(sessionStorage.getItem(name) ?? ''), [name]);
  return [
    text,
    (next) => {
      setText(next);
      if (next) sessionStorage.setItem(name, next);
      else sessionStorage.removeItem(name);
    },
  ];
}
