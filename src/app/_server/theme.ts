import type { cookies } from 'next/headers';
import type { Theme } from '../../ui/shell/ThemeSwitch';

/** The theme somebody chose; `system` until then. */
export function themeOf(jar: Awaited<ReturnType<typeof cookies>>): Theme {
  const chosen = jar.get('theme')?.value;
  return chosen === 'dark' || chosen === 'light' ? chosen : 'system';
}
