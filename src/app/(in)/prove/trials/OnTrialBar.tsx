import { Link } from '../../../../ui/primitives/Link';

/** On every page while changes are made on trial. */
export function OnTrialBar({ minutes, atOnce }: { minutes: number; atOnce: () => Promise<void> }) {
  return (
    <div
      data-on-trial={minutes}
      className="flex flex-wrap items-center gap-x-4 gap-y-1 border-b border-line bg-panel px-4 py-2 text-[13px] md:px-8"
    >
      <p>
        <span className="text-ochre-ink" aria-hidden>
          ▲{' '}
        </span>
        What you change of the set-up is on trial for {minutes} min: it stays if it is proven again, and is reverted if
        not.
      </p>
      <Link href="/prove/trials">Changes on trial</Link>
      <form action={atOnce}>
        <button type="submit" className="text-ridge underline underline-offset-4">
          Turn off trial mode
        </button>
      </form>
    </div>
  );
}
