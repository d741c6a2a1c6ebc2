import { type MessageState, progressOf } from '../../core/delivery/lifecycle';

const WORDS: Record<MessageState, string> = {
  queued: 'Queued',
  sending: 'Sending',
  uncertain: 'Outcome unknown',
  sent: 'Sent',
  failed: 'Failed',
  delivered: 'Delivered',
  read: 'Read',
  received: 'Received',
};

export function stateWord(state: MessageState): string {
  return WORDS[state];
}

/** Stones from the ground up; each further step of the delivery lays a smaller one on top. */
const STONES = [
  { cy: 17, rx: 9 },
  { cy: 12.2, rx: 6.8 },
  { cy: 7.9, rx: 4.8 },
  { cy: 4.2, rx: 2.9 },
];

const COLOURS: Record<MessageState, string> = {
  queued: 'text-soft',
  sending: 'text-soft',
  uncertain: 'text-ochre',
  sent: 'text-ridge',
  failed: 'text-clay',
  delivered: 'text-moss',
  read: 'text-moss',
  received: 'text-heather',
};

/** Delivery progress of one message. Always beside its word. */
export function Cairn({ state }: { state: MessageState }) {
  return (
    <span className="inline-flex items-center gap-1.5 whitespace-nowrap" data-message-state={state}>
      <svg width="20" height="20" viewBox="0 0 22 22" aria-hidden className={`shrink-0 ${COLOURS[state]}`}>
        <path d="M0 20.5H22" stroke="currentColor" strokeWidth="1" opacity=".45" />
        {state === 'failed' ? <Toppled /> : state === 'received' ? <Laid /> : <Standing state={state} />}
      </svg>
      <span>{WORDS[state]}</span>
    </span>
  );
}

function Standing({ state }: { state: MessageState }) {
  const hollow = state === 'uncertain' || state === 'sending';
  return STONES.slice(0, progressOf(state)).map((stone) => (
    <ellipse
      key={stone.cy}
      cx="11"
      cy={stone.cy}
      rx={stone.rx}
      ry="2.2"
      fill={hollow ? 'none' : 'currentColor'}
      stroke="currentColor"
      strokeDasharray={state === 'uncertain' ? '2 1.5' : undefined}
    />
  ));
}

function Toppled() {
  return (
    <>
      <ellipse cx="5.5" cy="18" rx="4.8" ry="2" fill="currentColor" transform="rotate(-9 5.5 18)" />
      <ellipse cx="14" cy="16" rx="4" ry="1.9" fill="currentColor" transform="rotate(38 14 16)" />
      <ellipse cx="19.2" cy="18.6" rx="2.4" ry="1.6" fill="currentColor" transform="rotate(-24 19.2 18.6)" />
    </>
  );
}

/** One stone laid down by somebody else: a message that came in. */
function Laid() {
  return <ellipse cx="11" cy="17" rx="8" ry="2.6" fill="none" stroke="currentColor" strokeWidth="1.6" />;
}
