'use client';

import { usePathname, useRouter, useSearchParams } from 'next/navigation';
import { type ReactNode, useEffect, useState } from 'react';
import { systemClock } from '../../clock/clock';
import { Link } from '../primitives/Link';
import { Age } from '../primitives/Time';

export interface ListedConversation {
  id: string;
  contactName: string;
  address: string;
  channelName: string;
  lastText: string;
  lastDirection: 'in' | 'out';
  lastMessageAt: number;
  lastInboundAt: number | null;
  state: 'quiet' | 'open' | 'waiting' | 'closed';
  assignee: string | null;
  unread: number;
}

interface Looked {
  rows: ListedConversation[];
  elsewhere: { view: string; n: number }[];
}

interface Props {
  /** What is to be seen to, which is what is shown first. */
  working: ListedConversation[];
  counts: Readonly<Record<string, number>>;
  look: (view: string, search: string) => Promise<Looked>;
  foot?: ReactNode;
}

const VIEWS: [string, string][] = [
  ['working', 'Needs attention'],
  ['mine', 'Mine'],
  ['unassigned', 'Unassigned'],
  ['team', 'My team'],
  ['waiting', 'Waiting for the contact'],
  ['closed', 'Closed'],
  ['quiet', 'Automated'],
];
const VIEW_WORDS = new Map(VIEWS);

/** Conversations by how they stand, or by what is looked for; the address keeps both. */
export function ConversationList({ working, counts, look, foot }: Props) {
  const path = usePathname();
  const router = useRouter();
  const params = useSearchParams();
  const view = VIEW_WORDS.has(params.get('view') ?? '') ? (params.get('view') as string) : 'working';
  const [search, setSearch] = useState(params.get('q') ?? '');
  const [looked, setLooked] = useState<Looked>();
  const plain = view === 'working' && search.trim() === '';

  // biome-ignore lint/correctness/useExhaustiveDependencies: looked up again whenever the page was drawn anew
  useEffect(() => {
    if (plain) return setLooked(undefined);
    let late = false;
    const timer = systemClock.after(150, async () => {
      const found = await look(view, search);
      if (!late) setLooked(found);
    });
    return () => {
      late = true;
      timer.cancel();
    };
  }, [plain, view, search, look, working]);

  const keep = (wanted: string, text: string) => {
    const query = new URLSearchParams();
    if (wanted !== 'working') query.set('view', wanted);
    if (text.trim()) query.set('q', text.trim());
    return query.size > 0 ? `?${query}` : '';
  };
  const rows = plain ? working : (looked?.rows ?? []);
  const inThread = path !== '/route/conversations';
  return (
    <div
      className={`w-full shrink-0 border-r border-line bg-panel md:flex md:w-[308px] md:flex-col ${inThread ? 'hidden' : 'flex flex-col'}`}
    >
      <div className="grid gap-2 border-b border-line p-3">
        <h1 className="text-[17px] font-semibold">Conversations</h1>
        <select
          aria-label="Which conversations"
          value={view}
          onChange={(event) => router.replace(`${path}${keep(event.target.value, search)}`, { scroll: false })}
          className="w-full rounded border border-line-strong bg-panel px-2.5 py-1"
        >
          {VIEWS.map(([key, words]) => (
            <option key={key} value={key}>
              {words} ({counts[key] ?? 0})
            </option>
          ))}
        </select>
        <input
          data-filter
          aria-label="Filter conversations"
          placeholder="Name, number or words"
          value={search}
          onChange={(event) => setSearch(event.target.value)}
          className="w-full rounded border border-line-strong bg-panel px-2.5 py-1"
        />
      </div>
      <ul className="min-h-0 flex-1 overflow-y-auto" tabIndex={0} aria-label="Conversations" data-through>
        {rows.map((entry) => (
          <Entry
            key={entry.id}
            entry={entry}
            here={path === `/route/conversations/${entry.id}`}
            query={keep(view, search)}
          />
        ))}
        {rows.length === 0 && (plain || looked) && (
          <li className="p-4 text-soft">
            {search.trim()
              ? 'No conversation matches.'
              : view === 'working'
                ? 'Nothing needs attention. A conversation begins when somebody texts a channel, or is texted.'
                : 'No conversation here.'}
          </li>
        )}
        {looked?.elsewhere.map(({ view: other, n }) => (
          <li key={other} className="px-4 py-2 text-[13px]" data-elsewhere={other}>
            <button
              type="button"
              className="text-ridge underline-offset-4 hover:underline"
              onClick={() => router.replace(`${path}${keep(other, search)}`, { scroll: false })}
            >
              {n === 1 ? 'One fits' : `${n} fit`} under “{VIEW_WORDS.get(other)}”
            </button>
          </li>
        ))}
      </ul>
      {foot && <div className="flex flex-wrap items-center gap-x-4 border-t border-line px-3 py-1">{foot}</div>}
    </div>
  );
}

function Entry({ entry, here, query }: { entry: ListedConversation; here: boolean; query: string }) {
  return (
    <li>
      <Link
        href={`/route/conversations/${entry.id}${query}`}
        aria-current={here ? 'true' : undefined}
        className={`plain block border-b border-line px-3 py-2 ${here ? 'bg-paper shadow-[inset_3px_0_0_var(--heather)]' : 'hover:bg-hover'}`}
      >
        <span className="flex justify-between gap-2">
          <span className={`truncate ${entry.unread ? 'font-semibold' : ''}`}>{entry.contactName}</span>
          <span className="shrink-0 text-xs text-soft" title="Since the contact last wrote">
            <Age at={entry.lastInboundAt ?? entry.lastMessageAt} />
          </span>
        </span>
        <span className="flex justify-between gap-2 text-[13px] text-soft">
          <span className="truncate">
            {entry.lastDirection === 'out' ? 'We: ' : ''}
            {entry.lastText}
          </span>
          {entry.unread > 0 && (
            <span className="shrink-0 rounded-sm bg-heather px-1.5 text-xs leading-5 text-on-ridge">
              {entry.unread} new
            </span>
          )}
        </span>
        {entry.assignee && <span className="block truncate text-xs text-soft">with {entry.assignee}</span>}
      </Link>
    </li>
  );
}
