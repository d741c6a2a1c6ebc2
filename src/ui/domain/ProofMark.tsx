import type { ProofState } from '../../core/proof/proofs';

const SHAPES: Record<ProofState, { colour: string; word: string; shape: React.ReactNode }> = {
  proven: {
    colour: 'text-moss',
    word: 'Proven',
    shape: <rect x="1.5" y="1.5" width="11" height="11" fill="currentColor" stroke="currentColor" />,
  },
  unproven: {
    colour: 'text-soft',
    word: 'Unproven',
    shape: <rect x="1.75" y="1.75" width="10.5" height="10.5" fill="none" stroke="currentColor" strokeWidth="1.5" />,
  },
  broken: {
    colour: 'text-clay',
    word: 'Broken',
    shape: (
      <>
        <path d="M1.5 1.5H4.6L7 5L9.4 1.5H12.5V12.5H1.5Z" fill="none" stroke="currentColor" strokeWidth="1.5" />
        <path d="M1.5 9H12.5" stroke="currentColor" strokeWidth="2.2" />
      </>
    ),
  },
  'not-applicable': {
    colour: 'text-soft',
    word: 'Not applicable',
    shape: (
      <rect
        x="1.75"
        y="1.75"
        width="10.5"
        height="10.5"
        fill="none"
        stroke="currentColor"
        strokeWidth="1.5"
        strokeDasharray="1.6 2.2"
      />
    ),
  },
};

export function proofWord(state: ProofState): string {
  return SHAPES[state].word;
}

/** The square lamp of one hop. Say the state in words beside it, or give `label`. */
export function ProofMark({ state, label, size = 14 }: { state: ProofState; label?: string; size?: number }) {
  const { colour, shape, word } = SHAPES[state];
  return (
    <svg
      width={size}
      height={size}
      viewBox="0 0 14 14"
      className={`inline-block shrink-0 ${colour}`}
      role={label === '' ? 'presentation' : 'img'}
      aria-hidden={label === '' || undefined}
      aria-label={label === '' ? undefined : (label ?? word)}
    >
      {shape}
    </svg>
  );
}
