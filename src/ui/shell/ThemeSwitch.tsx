'use client';

import { useState } from 'react';

/** Light or dark, kept in a cookie so that the server draws the right one at once. */
export function ThemeSwitch({ initial }: { initial: 'light' | 'dark' }) {
  const [theme, setTheme] = useState(initial);
  function change() {
    const next = theme === 'dark' ? 'light' : 'dark';
    document.documentElement.dataset.theme = next;
    // biome-ignore lint/suspicious/noDocumentCookie: the Cookie Store API is not in every browser we serve
    document.cookie = `theme=${next}; path=/; max-age=31536000; samesite=lax`;
    setTheme(next);
  }
  return (
    <button
      type="button"
      onClick={change}
      className="text-[13px] text-soft underline-offset-4 hover:text-ink hover:underline"
    >
      {theme === 'dark' ? 'Light theme' : 'Dark theme'}
    </button>
  );
}
