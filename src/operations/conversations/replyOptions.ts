/** What may be written to a contact now, and over what: so that it is known before anything is typed. */

import { countryName, displayAddress } from '../../core/addresses/display';
import { channelKind } from '../../core/connect/channelKinds';
import { isAnswered } from '../../core/connect/facts';
import { type Prediction, predictRefusal, windowClosesAt } from '../../core/connect/predict';
import { cause } from '../../core/delivery/causes';
import { replySubject } from '../../core/mail/subject';
import type { ChannelRow, ContactIdentityRow } from '../../store/schema/rows';
import { declined } from '../contacts';
import { type Actor, type AppContext, found, requireRole } from '../context';
import { ofTelephone, reachedOn } from '../identities';
import { syncProfiles } from '../profiles';
import { chargedPrices } from '../templates';
import type { ConversationSummary } from './conversations';

export interface ReplyState {
  /** Where the answer goes over this channel. */
  to: string;
  channelName: string;
  /** Why nothing can be sent now, with what to do instead. */
  refused?: { problem: string; remedy: string };
  /** The reply window of this contact, where the platform has such a rule. */
  window?: { hours: number; closesAt?: number };
  /** This person asked for no more messages of this kind. */
  declined: boolean;
  /** Types of files that can go along; none where only texts go. */
  mediaTypes: readonly string[];
  /** What a part cost lately in this contact's country. */
  price?: { micros: number; currency: string };
  /** Whether it goes as parts of a text, which are counted and charged. */
  countsParts: boolean;
  /** The subject it has where nobody writes another. */
  subject?: string;
  /** The channel's people cannot answer what is sent over it. */
  oneWay: boolean;
}

export async function replyState(
  ctx: AppContext,
  actor: Actor,
  conversation: Pick<ConversationSummary, 'channelId' | 'contactId'>,
): Promise<ReplyState> {
  requireRole(actor, 'viewer');
  await syncProfiles(ctx);
  const channel = found(await ctx.store.channels.one({ id: conversation.channelId }), 'channel');
  const [account, number, identities] = await Promise.all([
    ctx.store.accounts.one({ id: channel.account_id }),
    ctx.store.numbers.one({ id: channel.number_id }),
    ctx.store.identities.all({ contact_id: conversation.contactId }),
  ]);
  const connector = ctx.connectors.get(found(account, 'account').connector);
  const to = reachedOn(channel, identities)?.value ?? '';
  const hours = connector.limits.replyWindowHours;
  const opened = hours
    ? await ctx.store.replyWindows.one({ channel_id: channel.id, contact_id: conversation.contactId })
    : undefined;
  const contact = await ctx.store.contacts.one({ id: conversation.contactId });
  const way = channelKind(channel.kind).consent;
  const gone = (await declined(ctx.store, [conversation.contactId])).has(`${way} ${conversation.contactId}`);
  const left = to === '' && ofTelephone(channel) ? await phoneLeft(ctx, identities) : undefined;
  const foreseen: Prediction | undefined = gone
    ? { cause: 'opted-out', subject: contact?.name ?? to }
    : left
      ? { cause: 'number-unconfirmed', subject: displayAddress(left) }
      : predictRefusal({
          now: ctx.now(),
          facts: account?.facts ?? {},
          requires: connector.requires,
          disabled: account?.disabled_at !== null,
          recipient: {
            value: to,
            country: ofTelephone(channel) ? (contact?.country ?? undefined) : undefined,
          },
          replyWindowHours: hours,
          lastInboundAt: opened?.last_inbound_at,
        });
  return {
    to,
    channelName: channel.name,
    refused: foreseen && {
      problem: cause(foreseen.cause).explain({
        who: account?.name,
        said: foreseen.said,
        subject: foreseen.subject?.length === 2 ? countryName(foreseen.subject) : foreseen.subject,
      }),
      remedy: cause(foreseen.cause).remedy,
    },
    window: hours ? { hours, closesAt: windowClosesAt(hours, opened?.last_inbound_at) } : undefined,
    declined: gone,
    mediaTypes: number?.abilities.includes('media-out') ? connector.mediaTypes : [],
    price: (await chargedPrices(ctx)).find(({ country }) => country === contact?.country),
    countsParts: ofTelephone(channel),
    subject: await subjectFor(ctx, channel, conversation.contactId),
    oneWay: number !== undefined && !isAnswered(number),
  };
}

async function subjectFor(ctx: AppContext, channel: ChannelRow, contact_id: string): Promise<string | undefined> {
  if (!channelKind(channel.kind).subjects) return undefined;
  const [last] = await ctx.store.select<{ subject: string | null }>(
    `SELECT subject FROM messages WHERE direction = 'in' AND automatic IS NULL AND channel_id = :channel
       AND conversation_id IN (SELECT id FROM conversations WHERE contact_id = :contact_id) ORDER BY id DESC LIMIT 1`,
    { channel: channel.id, contact_id },
  );
  return last?.subject ? replySubject(last.subject) : channel.name;
}

/** A phone that a visitor of a chat left and has not confirmed. */
async function phoneLeft(ctx: AppContext, identities: readonly ContactIdentityRow[]): Promise<string | undefined> {
  const ids = identities.filter((identity) => identity.kind === 'visitor').map(({ value }) => value);
  const visitors = ids.length > 0 ? await ctx.store.visitors.all({ id: ids, confirmed_at: null }) : [];
  return visitors.find(({ phone }) => phone !== null)?.phone ?? undefined;
}
