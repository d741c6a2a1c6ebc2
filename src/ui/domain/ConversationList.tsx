'use client';

import { usePathname } from 'next/navigation';
import { useState } from 'react';
import { Link } from '../primitives/Link';
import { Age } from '../primitives/Time';

interface Entry {
  id: string;
  contactName: string;
  address: string;
  channelName: string;
  last_text: string;
  last_direction: 'in' | 'out';
  last_message_at: number;
  unread: number;
}

export function ConversationList({ conversations }: { conversations: Entry[] }) {
  const path = usePathname();
  const [filter, setFilter] = useState('');
  const wanted = filter.toLowerCase().replaceAll(' ', '');
  const shown = conversations.filter((entry) =>
    [entry.contactName, entry.address, entry.last_text].some((text) =>
      text.toLowerCase().replaceAll(' ', '').includes(wanted),
    ),
  );
  const inThread = path !== '/route/conversations';
  return (
    <div
      className={`w-full shrink-0 border-r border-line bg-panel md:flex md:w-[308px] md:flex-col ${inThread ? 'hidden' : 'flex flex-col'}`}
    >
      <div className="border-b border-line p-3">
        <h1 className="mb-2 text-[17px] font-semibold">Conversations</h1>
        <input
          data-filter
          aria-label="Filter conversations"
          placeholder="Name, number or words"
          value={filter}
          onChange={(event) => setFilter(event.target.value)}
          className="w-full rounded border border-line-strong bg-panel px-2.5 py-1"
        />
      </div>
      <ul className="min-h-0 flex-1 overflow-y-auto" tabIndex={0} aria-label="Conversations">
        {shown.map((entry) => {
          const here = path === `/route/conversations/${entry.id}`;
          return (
            <li key={entry.id}>
              <Link
                href={`/route/conversations/${entry.id}`}
                aria-current={here ? 'true' : undefined}
                className={`plain block border-b border-line px-3 py-2 ${here ? 'bg-paper shadow-[inset_3px_0_0_var(--heather)]' : 'hover:bg-hover'}`}
              >
                <span className="flex justify-between gap-2">
                  <span className={`truncate ${entry.unread ? 'font-semibold' : ''}`}>{entry.contactName}</span>
                  <span className="shrink-0 text-xs text-soft">
                    <Age at={entry.last_message_at} />
                  </span>
                </span>
                <span className="flex justify-between gap-2 text-[13px] text-soft">
                  <span className="truncate">
                    {entry.last_direction === 'out' ? 'We: ' : ''}
                    {entry.last_text}
                  </span>
                  {entry.unread > 0 && (
                    <span className="shrink-0 rounded-sm bg-heather px-1.5 text-xs leading-5 text-on-ridge">
                      {entry.unread} new
                    </span>
                  )}
                </span>
              </Link>
            </li>
          );
        })}
        {shown.length === 0 && (
          <li className="p-4 text-soft">
            {filter
              ? 'Nothing fits this filter.'
              : 'No conversation yet. It begins when somebody texts a channel, or is texted.'}
          </li>
        )}
      </ul>
    </div>
  );
}
