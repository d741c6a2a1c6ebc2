/** Where a template stands: a shape, a word, and never colour alone. */
export type StandingState = 'draft' | 'in-review' | 'approved' | 'rejected' | 'paused' | 'retired' | 'in-use';

const MARKS: Record<StandingState, { shape: string; word: string; colour: string }> = {
  draft: { shape: '◇', word: 'Draft, not submitted', colour: 'text-heather' },
  'in-review': { shape: '◈', word: 'In review', colour: 'text-ochre-ink' },
  approved: { shape: '◆', word: 'Approved', colour: 'text-moss' },
  rejected: { shape: '▼', word: 'Rejected', colour: 'text-clay' },
  paused: { shape: '‖', word: 'Paused', colour: 'text-clay' },
  retired: { shape: '·', word: 'Retired', colour: 'text-soft' },
  'in-use': { shape: '◆', word: 'In use as saved', colour: 'text-moss' },
};

export function StandingMark({ state }: { state: StandingState }) {
  const { shape, word, colour } = MARKS[state];
  return (
    <span className={`font-medium whitespace-nowrap ${colour}`} data-standing={state}>
      <span aria-hidden>{shape} </span>
      {word}
    </span>
  );
}
