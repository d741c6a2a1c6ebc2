import type { RunView } from '../../../../operations/deliveryTests';

type State = RunView['run']['state'];

const MARKS: Record<State, [shape: string, colour: string, word: string]> = {
  passed: ['■', 'text-moss', 'Passed'],
  failed: ['◧', 'text-clay', 'Failed'],
  stopped: ['□', 'text-ochre-ink', 'Not run'],
  running: ['◌', 'text-heather', 'Running'],
  waiting: ['◌', 'text-soft', 'Waiting'],
};

/** The state of a run: a shape and its word. */
export function RunMark({ state }: { state: State }) {
  const [shape, colour, word] = MARKS[state];
  return (
    <span className={`whitespace-nowrap ${colour}`} data-run={state}>
      <span aria-hidden>{shape} </span>
      {word}
    </span>
  );
}

/** The latest runs as a row of shapes, newest on the right. */
export function RunStrip({ states }: { states: readonly State[] }) {
  if (states.length === 0) return null;
  const count = (state: State) => states.filter((each) => each === state).length;
  return (
    <span
      role="img"
      className="font-mono text-xs tracking-tight whitespace-nowrap"
      aria-label={`Of the latest ${states.length} runs ${count('passed')} passed and ${count('failed')} failed`}
    >
      {[...states].reverse().map((state, index) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a row of shapes without identity
        <span key={index} className={MARKS[state][1]}>
          {MARKS[state][0]}
        </span>
      ))}
    </span>
  );
}
