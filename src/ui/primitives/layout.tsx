import type { ReactNode } from 'react';
import { DocumentTitle } from './DocumentTitle';

interface PageProps {
  title: string;
  /** One line: what this page is for. */
  purpose?: ReactNode;
  actions?: ReactNode;
  children: ReactNode;
}

export function Page({ title, purpose, actions, children }: PageProps) {
  return (
    <>
      <DocumentTitle of={title} />
      <header className="mb-5 flex flex-wrap items-end justify-between gap-x-6 gap-y-2 border-b border-line pb-3">
        <div className="min-w-0">
          <h1 className="text-[22px] leading-tight font-semibold">{title}</h1>
          {purpose && <p className="mt-1 max-w-[78ch] text-soft">{purpose}</p>}
        </div>
        {actions && <div className="flex flex-wrap gap-2">{actions}</div>}
      </header>
      {children}
    </>
  );
}

export function Section({
  title,
  aside,
  children,
  id,
}: {
  title: string;
  aside?: ReactNode;
  children: ReactNode;
  id?: string;
}) {
  return (
    <section className="mb-7" id={id} aria-labelledby={`${id ?? title}-title`}>
      <div className="mb-2 flex flex-wrap items-baseline justify-between gap-3">
        <h2 id={`${id ?? title}-title`} className="text-[15px] font-semibold">
          {title}
        </h2>
        {aside && <div className="text-[13px] text-soft">{aside}</div>}
      </div>
      {children}
    </section>
  );
}

export function Panel({ children, className = '' }: { children: ReactNode; className?: string }) {
  return <div className={`rounded-md border border-line bg-panel ${className}`}>{children}</div>;
}

/** For the foot of a long form inside a panel with 16 px around: its main action stays in sight. */
export const IN_SIGHT =
  'sticky bottom-14 z-10 -mx-4 -mb-4 rounded-b-md border-t border-line bg-panel px-4 py-3 md:bottom-0';

export function Empty({ what, next }: { what: string; next?: ReactNode }) {
  return (
    <Panel className="px-5 py-8 text-center">
      <p className="mx-auto max-w-[62ch]">{what}</p>
      {next && <div className="mt-3 flex justify-center">{next}</div>}
    </Panel>
  );
}

/** Term and description pairs. */
export function Facts({ items }: { items: [string, ReactNode][] }) {
  return (
    <dl className="grid grid-cols-[max-content_1fr] gap-x-5 gap-y-1.5">
      {items.map(([term, value]) => (
        <div key={term} className="contents">
          <dt className="text-soft">{term}</dt>
          <dd className="min-w-0 break-words">{value}</dd>
        </div>
      ))}
    </dl>
  );
}
