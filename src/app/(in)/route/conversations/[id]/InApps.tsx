import { lookUpPerson } from '../../../../../operations/apps/records';
import type { Actor, AppContext } from '../../../../../operations/context';

/** What connected apps know of this person; it comes when they have answered and keeps nothing waiting. */
export async function InApps({ ctx, actor, phone }: { ctx: AppContext; actor: Actor; phone: string }) {
  const known = await lookUpPerson(ctx, actor, phone);
  if (known.length === 0) return null;
  return (
    <p className="flex flex-wrap gap-x-4 border-b border-line px-5 py-1.5 text-[13px]" data-in-apps>
      {known.map((entry) => (
        <span key={`${entry.appId} ${entry.label}`}>
          {entry.problem ? (
            <span className="text-ochre-ink">▲ {entry.problem}</span>
          ) : entry.open !== undefined ? (
            <>
              {entry.appName}: {entry.open} open {entry.label.toLowerCase()}
              {entry.open === 1 ? '' : 's'}
            </>
          ) : entry.found === 'none' || !entry.found ? (
            <>{entry.appName}: not known there</>
          ) : entry.found.url ? (
            <>
              {entry.appName}:{' '}
              <a href={entry.found.url} target="_blank" rel="noreferrer">
                {entry.found.title}
              </a>
            </>
          ) : (
            <>
              {entry.appName}: {entry.found.title}
            </>
          )}
        </span>
      ))}
    </p>
  );
}
