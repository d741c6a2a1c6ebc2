'use client';

import { useState } from 'react';

export type Theme = 'system' | 'light' | 'dark';

const NEXT: Record<Theme, Theme> = { system: 'light', light: 'dark', dark: 'system' };
const WORDS: Record<Theme, string> = { system: 'system', light: 'light', dark: 'dark' };

/** Light, dark, or as the system is; kept in a cookie so that the server draws the right one at once. */
export function ThemeSwitch({ initial }: { initial: Theme }) {
  const [theme, setTheme] = useState(initial);
  function change() {
    const next = NEXT[theme];
    const root = document.documentElement;
    if (next === 'system') delete root.dataset.theme;
    else root.dataset.theme = next;
    // biome-ignore lint/suspicious/noDocumentCookie: the Cookie Store API is not in every browser we serve
    document.cookie = `theme=${next}; path=/; max-age=31536000; samesite=lax`;
    setTheme(next);
  }
  return (
    <button
      type="button"
      onClick={change}
      className="text-left text-[13px] text-soft underline-offset-4 hover:text-ink hover:underline"
      title={`Change to ${WORDS[NEXT[theme]]}`}
    >
      Theme: {WORDS[theme]}
    </button>
  );
}
