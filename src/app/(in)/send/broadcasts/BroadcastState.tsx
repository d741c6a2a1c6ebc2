import { STATE_WORDS, type BroadcastState as State } from '../../../../core/broadcast/course';

/** Shape and colour beside the word, as everywhere. */
const MARKS: Record<State, { shape: string; colour: string }> = {
  draft: { shape: '□', colour: 'text-soft' },
  planning: { shape: '◌', colour: 'text-soft' },
  approval: { shape: '▲', colour: 'text-ochre-ink' },
  scheduled: { shape: '◷', colour: 'text-ridge' },
  running: { shape: '▶', colour: 'text-ridge' },
  held: { shape: '▲', colour: 'text-ochre-ink' },
  finished: { shape: '■', colour: 'text-moss' },
  cancelled: { shape: '■', colour: 'text-soft' },
};

export function BroadcastState({ state }: { state: State }) {
  const { shape, colour } = MARKS[state];
  return (
    <span className={colour} data-broadcast={state}>
      <span aria-hidden>{shape} </span>
      {STATE_WORDS[state]}
    </span>
  );
}
