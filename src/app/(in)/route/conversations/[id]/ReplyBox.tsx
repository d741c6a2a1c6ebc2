'use client';

import { useState, useTransition } from 'react';
import { toast } from 'sonner';
import type { AnswerOffer } from '../../../../../operations/answering';
import { MeasureLine } from '../../../../../ui/domain/MeasureLine';
import { Button } from '../../../../../ui/primitives/Button';
import { replyAction } from './actions';
import { ReplyChoice, TemplateChoice } from './Offers';

interface Props {
  conversationId: string;
  to: string;
  channelId: string;
  inReplyTo?: string;
  contactName: string;
  /** Nothing can be sent now; the reason stands above. */
  refused: boolean;
  offers: readonly AnswerOffer[];
  /** The person declined, so that not even a template may be sent. */
  declined: boolean;
}

export function ReplyBox({ conversationId, to, channelId, inReplyTo, contactName, refused, offers, declined }: Props) {
  const [text, setText] = useState('');
  const [waiting, startTransition] = useTransition();

  function send() {
    if (text.trim() === '' || waiting || refused) return;
    const form = new FormData();
    form.set('text', text);
    startTransition(async () => {
      const answer = await replyAction({ to, from: channelId, inReplyTo }, form);
      if (answer.status === 'refused') toast.error(answer.message, { description: answer.findings[0]?.finding.mend });
      else setText('');
    });
  }

  return (
    <>
      {!declined && offers.some(({ kind }) => kind === 'template') && (
        <div className="flex justify-end border-t border-line px-5 py-2">
          <TemplateChoice offers={offers} target={{ to, from: channelId }} />
        </div>
      )}
      <form
        key={conversationId}
        className="border-t border-line bg-panel px-5 py-3"
        onSubmit={(event) => {
          event.preventDefault();
          send();
        }}
      >
        <label htmlFor="reply" className="sr-only">
          Reply to {contactName}
        </label>
        <textarea
          id="reply"
          rows={3}
          value={text}
          onChange={(event) => setText(event.target.value)}
          onKeyDown={(event) => {
            if (event.key === 'Enter' && (event.ctrlKey || event.metaKey)) {
              event.preventDefault();
              send();
            }
          }}
          placeholder={`Reply to ${contactName}`}
          className="w-full resize-y rounded border border-line-strong bg-panel px-2.5 py-1.5"
        />
        <div className="mt-1.5 flex flex-wrap items-start justify-between gap-3">
          <MeasureLine text={text} onMend={setText} />
          <div className="flex flex-wrap items-center gap-2">
            {!refused && <ReplyChoice offers={offers} onText={setText} />}
            <Button
              type="submit"
              tone="primary"
              disabled={waiting || refused || text.trim() === ''}
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
