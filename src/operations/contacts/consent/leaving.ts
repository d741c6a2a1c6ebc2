/**
 * Links by which people leave with one press (RFC 8058): each names who leaves what, and cannot be made by anybody else.
 * They hold as long as the contact is known, however long ago the mail was sent.
 */
import { createHmac, randomBytes, timingSafeEqual } from 'node:crypto';
import { languageOfCountry } from '../../../core/addresses/display';
import { channelKind } from '../../../core/connect/channelKinds';
import { leavingWords } from '../../../core/consent/words';
import type { ChannelRow, ContactRow, MessageRow } from '../../../store/schema/rows';
import type { Unit } from '../../../store/store';
import type { AppContext } from '../../context';
import { holderOf, identityOn } from '../../identities';
import { readOrganisation } from '../../organisation';
import { declined, recordConsents } from './consents';

const SETTING = 'leave-key';
export const LEAVE_ROOT = '/leave/';

type Settings = Pick<Unit, 'settings'>;

async function keyIn(ctx: AppContext, from: Settings): Promise<Buffer | undefined> {
  const kept = (await from.settings.one({ name: SETTING }))?.value as { sealed: string } | undefined;
  return kept && Buffer.from(ctx.sealer.open<{ key: string }>(kept.sealed).key, 'base64');
}

/** Made when it is first needed. */
async function keyOf(ctx: AppContext): Promise<Buffer> {
  return (
    (await keyIn(ctx, ctx.store)) ??
    ctx.store.write(async (unit) => {
      const there = await keyIn(ctx, unit);
      if (there) return there;
      const key = randomBytes(32);
      await unit.settings.put({ name: SETTING, value: { sealed: ctx.sealer.seal({ key: key.toString('base64') }) } });
      return key;
    })
  );
}

const markOf = (key: Buffer, what: string): Buffer => createHmac('sha256', key).update(what).digest().subarray(0, 18);

/** The address by which the recipient of a message gets no more over such channels. */
export async function leaveLink(ctx: AppContext, { id, contact_id, channel_id }: MessageRow): Promise<string> {
  const what = [contact_id, channel_id, id].join('.');
  return `${ctx.config.publicUrl}${LEAVE_ROOT}${what}.${markOf(await keyOf(ctx), what).toString('base64url')}`;
}

export interface Leaving {
  contactId: string;
  channel: ChannelRow;
  messageId: string;
  /** What a page says of it, in the language of the person or the organisation. */
  words: ReturnType<typeof leavingWords>;
  /** It was done before. */
  done: boolean;
}

/** What a link is about; undefined for one that was not made here, or of people who are not known any more. */
export async function readLeaveLink(ctx: AppContext, token: string): Promise<Leaving | undefined> {
  const parts = token.split('.');
  const [contactId, channelId, messageId, mark] = parts;
  const key = parts.length === 4 && mark ? await keyIn(ctx, ctx.store) : undefined;
  if (!key || !contactId || !channelId || !messageId || !mark) return undefined;
  const right = markOf(key, [contactId, channelId, messageId].join('.'));
  const given = Buffer.from(mark, 'base64url');
  if (given.length !== right.length || !timingSafeEqual(given, right)) return undefined;
  const [channel, message, organisation] = await Promise.all([
    ctx.store.channels.one({ id: channelId }),
    ctx.store.messages.one({ id: messageId }),
    readOrganisation(ctx.store),
  ]);
  if (!channel) return undefined;
  // Whoever has the address now reads what comes to it.
  const holder = message && (await holderOf(ctx.store, identityOn(channel, message.recipient)));
  const contact = await presentContact(ctx, holder?.contact_id ?? message?.contact_id ?? contactId);
  if (!contact) return undefined;
  const way = channelKind(channel.kind).consent;
  return {
    contactId: contact.id,
    channel,
    messageId,
    words: leavingWords(contact.language ?? languageOfCountry(contact.country) ?? organisation.language),
    done: (await declined(ctx.store, [contact.id])).has(`${way} ${contact.id}`),
  };
}

/** Of two that were merged, the one that is left. */
async function presentContact(ctx: AppContext, id: string): Promise<ContactRow | undefined> {
  const row = await ctx.store.contacts.one({ id });
  return row?.merged_into ? presentContact(ctx, row.merged_into) : row;
}

/** Enters that somebody leaves; twice is no more than once. */
export async function leave(
  ctx: AppContext,
  { contactId, channel, messageId, done }: Leaving,
  how: string,
): Promise<void> {
  if (done) return;
  const way = channelKind(channel.kind).consent;
  await ctx.store.write(async (unit) => {
    if ((await declined(unit, [contactId])).has(`${way} ${contactId}`)) return;
    await recordConsents(unit, [
      {
        contact_id: contactId,
        way,
        what: 'withdrawn',
        at: ctx.now(),
        how: 'link',
        wording: how,
        by: 'the person',
        ref: messageId,
      },
    ]);
  });
}
