import type { ReactNode } from 'react';
import { DocumentTitle } from '../primitives/DocumentTitle';
import { Emblem } from './Emblem';

/** The frame of the pages before one is signed in. */
export function GatePage({ title, purpose, children }: { title: string; purpose?: string; children: ReactNode }) {
  return (
    <main className="grid min-h-screen place-items-center p-4">
      <DocumentTitle of={title} />
      <div className="w-full max-w-[400px]">
        <p className="mb-4 flex items-center gap-2.5 text-[17px] font-semibold">
          <Emblem size={28} /> Windgap
        </p>
        <div className="rounded-md border border-line bg-panel p-6">
          <h1 className="mb-1 text-[20px] font-semibold">{title}</h1>
          {purpose && <p className="mb-4 text-soft">{purpose}</p>}
          {children}
        </div>
        <p className="mt-4 text-[13px] text-soft">A green “connected” proves a credential, not a path.</p>
      </div>
    </main>
  );
}
