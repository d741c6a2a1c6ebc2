import type { Count, NavigationPage } from './navigation';

export type Counts = Record<Count, number>;

const WORDS: Record<Count, [one: string, many: string]> = {
  unread: ['unread conversation', 'unread conversations'],
  todos: ['open to-do', 'open to-dos'],
  errors: ['broken or at risk', 'broken or at risk'],
  aside: ['item set aside', 'items set aside'],
  templates: ['template to revise', 'templates to revise'],
};

/** What a count stands for, in words: "3 open to-dos". */
export function countWords(count: Count, n: number): string {
  return `${n} ${WORDS[count][n === 1 ? 0 : 1]}`;
}

/** The number of things that need attention on some pages; nothing where there are none. */
export function CountBadge({ counts, of }: { counts: Counts; of: readonly NavigationPage[] }) {
  const wanted = of.flatMap((page) => (page.counts && counts[page.counts] > 0 ? [page.counts] : []));
  if (wanted.length === 0) return null;
  const sum = wanted.reduce((total, count) => total + counts[count], 0);
  const grave = wanted.includes('errors');
  return (
    <span
      className={`rounded-sm border px-1 text-[11px] leading-4 font-semibold tabular-nums ${grave ? 'border-clay text-clay' : 'border-line-strong text-soft'}`}
      title={wanted.map((count) => countWords(count, counts[count])).join(', ')}
    >
      <span aria-hidden>{sum > 99 ? '99+' : sum}</span>
      <span className="sr-only">: {wanted.map((count) => countWords(count, counts[count])).join(', ')}</span>
    </span>
  );
}
