'use client';

import { usePathname } from 'next/navigation';
import { DocumentTitle } from '../../ui/primitives/DocumentTitle';
import { entryOf, NAVIGATION } from '../../ui/shell/navigation';

/** Keeps the place of the page's head and first panel while the server reads, under the name it has in the rail. */
export default function Loading() {
  const entry = entryOf(usePathname());
  const section = NAVIGATION.flatMap(({ pages }) => pages).find(({ href }) => href === entry);
  return (
    <div aria-busy="true">
      <DocumentTitle of={section?.label} />
      <p className="sr-only" role="status">
        Loading
      </p>
      <div className="mb-5 border-b border-line pb-3">
        <div className="h-7 w-48 rounded bg-bank" />
        <div className="mt-2 h-4 w-96 max-w-full rounded bg-bank" />
      </div>
      <div className="h-64 rounded-md border border-line bg-panel" />
    </div>
  );
}
