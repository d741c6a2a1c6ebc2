import { Suspense } from 'react';
import { countryName, displayAddress } from '../../../../../core/addresses/display';
import { hasRole } from '../../../../../operations/context';
import {
  answersFor,
  colleagues,
  getThread,
  othersAt,
  type ReplyState,
  replyWays,
} from '../../../../../operations/conversations';
import { ThreadView } from '../../../../../ui/domain/ThreadView';
import { DocumentTitle } from '../../../../../ui/primitives/DocumentTitle';
import { Link } from '../../../../../ui/primitives/Link';
import { ClockTime } from '../../../../../ui/primitives/Time';
import { orNotFound } from '../../../../_server/orNotFound';
import { signedIn } from '../../../../_server/session';
import { InApps } from './InApps';
import { MarkRead } from './MarkRead';
import { ReplyBox } from './ReplyBox';
import { Work } from './Work';

export default async function ConversationPage({
  params,
  searchParams,
}: {
  params: Promise<{ id: string }>;
  searchParams: Promise<{ over?: string }>;
}) {
  const { ctx, actor } = await signedIn();
  const { id } = await params;
  const { over } = await searchParams;
  const { conversation, messages, consents, reactions, notes, channels } = await orNotFound(getThread(ctx, actor, id));
  const answer = await replyWays(ctx, actor, conversation, over);
  const [offers, whom, others] = await Promise.all([
    answersFor(ctx, actor, { contactId: conversation.contactId, channelId: answer.channelId }),
    colleagues(ctx, actor),
    othersAt(ctx, actor, id),
  ]);
  const mayReply = hasRole(actor, 'agent');
  const lastInbound = messages.findLast(({ direction, automatic }) => direction === 'in' && automatic === null);
  return (
    <>
      <DocumentTitle of={conversation.contactName} />
      {mayReply && conversation.unread > 0 && <MarkRead id={id} />}
      <header className="border-b border-line px-5 py-2.5">
        <h2 className="text-[16px] font-semibold">{conversation.contactName}</h2>
        <p className="text-[13px] text-soft">
          <span className="font-mono">{displayAddress(conversation.address)}</span>
          {conversation.country && `, ${countryName(conversation.country)}`} · through {conversation.channelName} ·{' '}
          <Link href={`/compose/contacts/${conversation.contactId}`}>what is known</Link>
        </p>
        {mayReply && (
          <Work
            id={id}
            contactId={conversation.contactId}
            state={conversation.state}
            assignedTo={conversation.assignedTo ?? ''}
            team={conversation.team ?? ''}
            people={whom.people}
            teams={whom.teams}
            actions={whom.actions}
            me={actor.id}
          />
        )}
      </header>
      {mayReply && conversation.address.startsWith('+') && (
        <Suspense fallback={null}>
          <InApps ctx={ctx} actor={actor} phone={conversation.address} />
        </Suspense>
      )}
      <ThreadView
        messages={messages}
        consents={consents}
        reactions={reactions}
        notes={notes}
        channels={channels}
        contactName={conversation.contactName}
      />
      {answer.reply && <ReplyNotice reply={answer.reply} />}
      {mayReply ? (
        <ReplyBox
          me={actor.id}
          conversationId={id}
          to={answer.reply?.to}
          channelId={answer.channelId}
          ways={answer.ways}
          reason={answer.reason}
          inReplyTo={answer.lastInbound ?? lastInbound?.id}
          contactName={conversation.contactName}
          refused={answer.reply === undefined || answer.reply.refused !== undefined}
          offers={offers}
          declined={answer.reply?.declined ?? false}
          seen={messages.at(-1)?.id}
          countsParts={answer.reply?.countsParts ?? false}
          subject={answer.reply?.subject}
          mediaTypes={answer.reply?.mediaTypes ?? []}
          price={answer.reply?.price}
          others={others}
        />
      ) : (
        <p className="border-t border-line px-5 py-3 text-soft">Viewers read; agents answer.</p>
      )}
    </>
  );
}

/** What may be written now, and for how long. */
function ReplyNotice({ reply }: { reply: ReplyState }) {
  const { refused, window, oneWay, channelName } = reply;
  if (!refused && !window && !oneWay) return null;
  return (
    <div className="border-t border-line px-5 py-2 text-[13px]" data-reply={refused ? 'refused' : 'open'}>
      {refused ? (
        <p>
          <span className="text-clay">■ {refused.problem}</span> {refused.remedy}
        </p>
      ) : (
        window?.closesAt && (
          <p className="text-soft">
            Free text is allowed over {channelName} until <ClockTime at={window.closesAt} />, {window.hours} hours after
            this contact’s last message.
          </p>
        )
      )}
      {oneWay && (
        <p className="text-ochre-ink">▲ {channelName} is one way: this contact cannot answer what is sent over it.</p>
      )}
    </div>
  );
}
