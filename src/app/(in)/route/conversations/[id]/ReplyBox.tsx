'use client';

import { useRouter } from 'next/navigation';
import { useEffect, useState, useTransition } from 'react';
import { toast } from 'sonner';
import { systemClock } from '../../../../../clock/clock';
import { measureText } from '../../../../../core/text/measure';
import type { AnswerOffer, OpenWay, Present } from '../../../../../operations/conversations';
import { MeasureLine } from '../../../../../ui/domain/MeasureLine';
import { formatMoney } from '../../../../../ui/domain/money';
import { throughAsking } from '../../../../../ui/forms/throughAsking';
import { useKept } from '../../../../../ui/forms/useKept';
import { Button } from '../../../../../ui/primitives/Button';
import { Attach, type Kept } from './Attach';
import { presentAction, replyAction } from './actions';
import { ReplyChoice, TemplateChoice } from './Offers';

interface Props {
  /** Who writes. */
  me: string;
  conversationId: string;
  /** Where the person is reached; absent while no channel is chosen. */
  to?: string;
  channelId?: string;
  /** The channels over which they are known. */
  ways: readonly OpenWay[];
  /** Why it is this channel, or why one has to be chosen. */
  reason: string;
  inReplyTo?: string;
  contactName: string;
  /** Nothing can be sent now; the reason stands above. */
  refused: boolean;
  offers: readonly AnswerOffer[];
  /** The person declined, so that not even a template may be sent. */
  declined: boolean;
  /** The last message that was shown. */
  seen?: string;
  /** Colleagues who are at it too. */
  others: readonly Present[];
  /** Types of files that can go along. */
  mediaTypes: readonly string[];
  /** It goes as parts of a text. */
  countsParts: boolean;
  /** Of a mail, the subject it has where nobody writes another. */
  subject?: string;
  /** Of a part, as charged lately. */
  price?: { micros: number; currency: string };
}

export function ReplyBox({
  me,
  conversationId,
  to,
  channelId,
  ways,
  reason,
  inReplyTo,
  contactName,
  refused,
  offers,
  declined,
  seen,
  others,
  mediaTypes,
  countsParts,
  subject,
  price,
}: Props) {
  const [text, setText] = useKept(`reply ${me} ${conversationId}`);
  const [file, setFile] = useState<Kept>();
  const [title, setTitle] = useState(subject);
  useEffect(() => setTitle(subject), [subject]);
  const [waiting, startTransition] = useTransition();
  // Until the page knows how to answer over the channel that was chosen, nothing leaves: it would go over the one before.
  const [choosing, startChoosing] = useTransition();
  const router = useRouter();
  const choose = (query: string) =>
    startChoosing(() => router.replace(`/route/conversations/${conversationId}${query}`, { scroll: false }));
  const present = usePresence(conversationId, text.trim() !== '', others);

  function send() {
    if ((text.trim() === '' && !file) || waiting || choosing || refused || to === undefined || channelId === undefined)
      return;
    const form = new FormData();
    form.set('text', text);
    startTransition(async () => {
      const answer = await throughAsking(() =>
        replyAction({ conversationId, seen, to, from: channelId, subject: title, inReplyTo, mediaId: file?.id }, form),
      );
      if (answer.status === 'refused') toast.error(answer.message, { description: answer.findings[0]?.finding.remedy });
      else {
        setText('');
        setFile(undefined);
        // It was chosen for this answer.
        if (new URLSearchParams(window.location.search).has('over')) choose('');
      }
    });
  }

  return (
    <>
      {!declined && to !== undefined && channelId !== undefined && offers.some(({ kind }) => kind === 'template') && (
        <div className="flex justify-end border-t border-line px-5 py-2">
          <TemplateChoice offers={offers} target={{ to, from: channelId }} />
        </div>
      )}
      <form
        key={conversationId}
        className="sticky bottom-[41px] border-t border-line bg-panel px-5 py-3 md:static"
        onSubmit={(event) => {
          event.preventDefault();
          send();
        }}
      >
        {present.length > 0 && (
          <p className="mb-1.5 text-[13px] text-ochre-ink" data-present aria-live="polite">
            ▲{' '}
            {present
              .map(({ name, writing }) => `${name} ${writing ? 'is writing here' : 'is reading this'}`)
              .join(', ')}
            .
          </p>
        )}
        <Way
          ways={ways}
          channelId={channelId}
          reason={reason}
          choosing={choosing}
          onChoose={(id) => choose(`?over=${id}`)}
        />
        {subject !== undefined && (
          <label className="mb-1.5 flex items-center gap-2 text-[13px]">
            Subject
            <input
              value={title ?? ''}
              maxLength={200}
              onChange={({ target }) => setTitle(target.value)}
              className="min-w-0 flex-1 rounded border border-line-strong bg-panel px-2 py-1"
            />
          </label>
        )}
        <label htmlFor="reply" className="sr-only">
          Reply to {contactName}
        </label>
        <textarea
          id="reply"
          data-reply-text
          rows={3}
          value={text}
          onChange={(event) => setText(event.target.value)}
          onKeyDown={(event) => {
            if (event.key === 'Escape') event.currentTarget.blur();
            if (event.key === 'Enter' && (event.ctrlKey || event.metaKey)) {
              event.preventDefault();
              send();
            }
          }}
          placeholder={`Reply to ${contactName}`}
          className="w-full resize-y rounded border border-line-strong bg-panel px-2.5 py-1.5"
        />
        <div className="mt-1.5 flex flex-wrap items-start justify-between gap-3">
          <div>
            {countsParts && <MeasureLine text={text} onFix={setText} />}
            {countsParts && price && text && (
              <p className="text-[13px] text-soft" data-cost>
                about {formatMoney(price.micros * measureText(text).parts.length, price.currency)}, as charged lately
              </p>
            )}
          </div>
          <div className="flex flex-wrap items-center gap-2">
            {!refused && mediaTypes.length > 0 && <Attach types={mediaTypes} file={file} onFile={setFile} />}
            {!refused && <ReplyChoice offers={offers} onText={setText} />}
            <Button
              type="submit"
              tone="primary"
              disabled={waiting || choosing || refused || (text.trim() === '' && !file)}
              title="Ctrl or ⌘ and Enter"
            >
              {waiting ? 'Sending…' : 'Send'}
            </Button>
          </div>
        </div>
      </form>
    </>
  );
}

/** Over which channel the answer goes and why; another can be chosen for this answer. */
function Way({
  ways,
  channelId,
  reason,
  choosing,
  onChoose,
}: Pick<Props, 'ways' | 'channelId' | 'reason'> & { choosing: boolean; onChoose: (channelId: string) => void }) {
  const [chosen, setChosen] = useState<string>();
  if (ways.length === 0) return null;
  return (
    <div className="mb-1.5 flex flex-wrap items-center gap-x-2 gap-y-1 text-[13px]" data-way={channelId ?? ''}>
      <label htmlFor="over">Over</label>
      <select
        id="over"
        value={(choosing ? chosen : channelId) ?? ''}
        onChange={({ target }) => {
          setChosen(target.value);
          onChoose(target.value);
        }}
        className="rounded border border-line-strong bg-panel px-2 py-1"
      >
        {channelId === undefined && <option value="">choose a channel</option>}
        {ways.map(({ channelId: id, name, refused }) => (
          <option key={id} value={id}>
            {refused ? `${name} (not now)` : name}
          </option>
        ))}
      </select>
      <span className="text-soft" aria-busy={choosing}>
        {choosing ? 'One moment…' : reason}
      </span>
    </div>
  );
}

const HEARTBEAT = 10_000;

/** Says that one is here, and hears who else is. */
function usePresence(id: string, writing: boolean, initial: readonly Present[]): readonly Present[] {
  const [present, setPresent] = useState(initial);
  useEffect(() => setPresent(initial), [initial]);
  useEffect(() => {
    let gone = false;
    const say = async () => {
      if (document.visibilityState === 'hidden') return;
      const others = await presentAction(id, writing).catch(() => undefined);
      if (others && !gone) setPresent(others);
    };
    void say();
    const timer = systemClock.every(HEARTBEAT, say);
    return () => {
      gone = true;
      timer.cancel();
    };
  }, [id, writing]);
  return present;
}
