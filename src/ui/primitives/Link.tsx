import NextLink from 'next/link';
import type { ComponentProps } from 'react';

/**
 * A link inside Windgap. Nothing is fetched before it is asked for: every page shows the
 * present, so what was fetched ahead would be old, and a list of fifty messages would ask
 * the server for fifty pages.
 */
export function Link(props: ComponentProps<typeof NextLink>) {
  return <NextLink prefetch={false} {...props} />;
}
