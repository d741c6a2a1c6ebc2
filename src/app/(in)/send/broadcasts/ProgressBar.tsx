import type { Progress } from '../../../../operations/broadcasts';

/** In the order in which they lie beside each other; each has its word below. */
const PARTS = [
  ['delivered', 'delivered', 'bg-moss'],
  ['sent', 'sent', 'bg-ridge'],
  ['waiting', 'waiting', 'bg-line-strong'],
  ['uncertain', 'not known', 'bg-ochre'],
  ['failed', 'failed', 'bg-clay'],
  ['planned', 'not yet', 'bg-line'],
] as const;

/** What has become of everybody who is to get it. */
export function ProgressBar({ progress }: { progress: Progress }) {
  const all = progress.people - progress.leftOut;
  const parts = PARTS.filter(([key]) => progress[key] > 0);
  return (
    <div>
      <div className="flex h-2 overflow-hidden rounded-sm border border-line bg-panel" aria-hidden>
        {parts.map(([key, , colour]) => (
          <span key={key} className={colour} style={{ width: `${(progress[key] / Math.max(1, all)) * 100}%` }} />
        ))}
      </div>
      <p className="mt-1 text-[13px] text-soft tabular-nums">
        {parts.length === 0
          ? 'nobody'
          : parts.map(([key, words]) => `${progress[key].toLocaleString('en')} ${words}`).join(' · ')}
      </p>
    </div>
  );
}
