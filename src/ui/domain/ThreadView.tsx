'use client';

import { useEffect, useRef } from 'react';
import { type CauseCode, cause } from '../../core/delivery/causes';
import type { MessageState } from '../../core/delivery/lifecycle';
import type { MessageFile } from '../../core/delivery/media';
import { Link } from '../primitives/Link';
import { ClockTime } from '../primitives/Time';
import { Cairn } from './Cairn';
import { FileLinks, MediaLink } from './MediaLink';

interface ThreadMessage {
  id: string;
  channelId: string;
  direction: 'in' | 'out';
  text: string;
  /** What may be pressed below it. */
  choices: { labels: string[]; asButtons: boolean } | null;
  media: { url: string; type: string } | null;
  files: MessageFile[] | null;
  /** Of a mail. */
  subject: string | null;
  /** Why it counts as written by a program. */
  automatic: string | null;
  state: MessageState;
  cause: CauseCode | null;
  encoding: string;
  parts: number;
  originKind: string;
  originName: string | null;
  createdAt: number;
  /** The message whose second way this is, and the one that is its own. */
  insteadOf: string | null;
  continuedBy: string | null;
}

interface Props {
  messages: ThreadMessage[];
  contactName: string;
  /** What a message changed about being written to, by its id. */
  consents: Record<string, 'given' | 'withdrawn'>;
  /** The sign the person put to a message of ours, by its id. */
  reactions: Record<string, string>;
  /** What colleagues noted, and what happened to the conversation. */
  notes: { id: string; at: number; by: string; kind: 'note' | 'turn'; text: string }[];
  /** Names of channels by id, where the thread runs over several. */
  channels: Record<string, string>;
}

/** A log of what was said: who in the margin, the words, and what became of them. */
export function ThreadView({ messages, contactName, consents, reactions, notes, channels }: Props) {
  const end = useRef<HTMLDivElement>(null);
  const last = messages.at(-1)?.id;
  // biome-ignore lint/correctness/useExhaustiveDependencies: scroll when another message is the last one
  useEffect(() => {
    end.current?.scrollIntoView({ block: 'end' });
  }, [last]);
  return (
    <section
      className="min-h-0 flex-1 overflow-y-auto px-5 py-4"
      tabIndex={0}
      aria-label={`Messages with ${contactName}`}
    >
      <ol className="grid gap-3">
        {inOrder(messages, notes).map((entry) => {
          if ('note' in entry) return <Note key={entry.note.id} note={entry.note} />;
          const { message } = entry;
          const ours = message.direction === 'out';
          return (
            <li
              key={message.id}
              className="grid gap-x-4 sm:grid-cols-[124px_minmax(0,1fr)]"
              data-direction={message.direction}
            >
              <div className={`text-[13px] ${ours ? 'text-ridge' : 'text-heather'}`}>
                <span className="block truncate font-medium">
                  {ours ? (message.originName ?? 'Windgap') : contactName}
                </span>
                <span className="block text-xs text-soft">
                  <ClockTime at={message.createdAt} />
                </span>
              </div>
              <div className={`border-l-2 pl-3 ${ours ? 'border-ridge' : 'border-heather'}`}>
                {message.subject && (
                  <p className="max-w-[72ch] break-words font-medium" data-subject>
                    {message.subject}
                  </p>
                )}
                <p className="max-w-[72ch] whitespace-pre-wrap break-words">{message.text}</p>
                {message.files ? (
                  <FileLinks files={message.files} />
                ) : (
                  message.media && <MediaLink media={message.media} />
                )}
                {message.choices?.asButtons && (
                  <ul className="mt-1 flex flex-wrap gap-1.5" aria-label="Answers to press">
                    {message.choices.labels.map((label) => (
                      <li key={label} className="rounded-full border border-line-strong px-2.5 text-[13px]">
                        {label}
                      </li>
                    ))}
                  </ul>
                )}
                {message.automatic && (
                  <p className="text-[13px] text-soft" data-automatic>
                    A program wrote this: nothing answers it by itself. {message.automatic}
                  </p>
                )}
                <p className="mt-0.5 flex flex-wrap items-center gap-x-3 text-[13px] text-soft">
                  {ours && <Cairn state={message.state} />}
                  {channels[message.channelId] && <span>over {channels[message.channelId]}</span>}
                  {message.insteadOf && <span>second way of the one above</span>}
                  {message.subject === null && message.parts > 1 && <span>{message.parts} parts</span>}
                  {message.subject === null && message.encoding === 'UCS-2' && <span>UCS-2</span>}
                  {reactions[message.id] && (
                    <span data-reaction>
                      {contactName} put {reactions[message.id]} to it
                    </span>
                  )}
                  <Link href={`/watch/messages/${message.id}`}>Trail</Link>
                </p>
                {consents[message.id] && (
                  <p className="text-[13px]" data-consent={consents[message.id]}>
                    {consents[message.id] === 'withdrawn' ? (
                      <span className="text-clay">■ Opted out with this; nothing more is sent.</span>
                    ) : (
                      <span className="text-moss">◆ Opted in again with this.</span>
                    )}
                  </p>
                )}
                {ours && message.cause && message.state !== 'delivered' && (
                  <p className="text-[13px] text-clay">
                    {cause(message.cause).title}.{' '}
                    <span className="text-ink">
                      {message.continuedBy ? 'It went another way, below.' : cause(message.cause).remedy}
                    </span>
                  </p>
                )}
              </div>
            </li>
          );
        })}
      </ol>
      <div ref={end} className="h-4" />
    </section>
  );
}

type Entry = { at: number; message: ThreadMessage } | { at: number; note: Props['notes'][number] };

function inOrder(messages: readonly ThreadMessage[], notes: Props['notes']): Entry[] {
  return [
    ...messages.map((message): Entry => ({ at: message.createdAt, message })),
    ...notes.map((note): Entry => ({ at: note.at, note })),
  ].sort((a, b) => a.at - b.at);
}

/** For colleagues: what was noted stands on paper of its own, what happened in one line. */
function Note({ note }: { note: Props['notes'][number] }) {
  if (note.kind === 'turn')
    return (
      <li className="text-[13px] text-soft" data-turn>
        {note.by} {note.text} <ClockTime at={note.at} />
      </li>
    );
  return (
    <li className="grid gap-x-4 sm:grid-cols-[124px_minmax(0,1fr)]" data-note>
      <div className="text-[13px]">
        <span className="block truncate font-medium">{note.by}</span>
        <span className="block text-xs text-soft">
          <ClockTime at={note.at} />
        </span>
      </div>
      <div className="rounded border border-dashed border-line-strong px-3 py-1.5">
        <p className="max-w-[72ch] whitespace-pre-wrap break-words">{note.text}</p>
        <p className="text-xs text-soft">Note for colleagues; not sent.</p>
      </div>
    </li>
  );
}
