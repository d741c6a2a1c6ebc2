/** What a message has besides its words when it goes out as a mail: its thread, its files, and whether a person wrote it. */
import type { OutboundMail } from '../../connectors/connector';
import type { MessageRow } from '../../store/schema/rows';
import { leaveLink } from '../contacts';
import type { AppContext } from '../context';
import { signingFor } from '../mailSigning';

/** Messages further back in a thread are found by those that are named. */
const MOST_REFERENCES = 10;

export async function mailOf(ctx: AppContext, accountId: string, message: MessageRow): Promise<OutboundMail> {
  const [thread, signing] = await Promise.all([threadOf(ctx, message), signingFor(ctx, accountId)]);
  return {
    subject: message.subject ?? '',
    inReplyTo: thread[0],
    // RFC 5322 §3.6.4: oldest first, ending with what is answered.
    references: thread.toReversed(),
    automatic: message.origin_kind === 'user' ? undefined : message.in_reply_to ? 'auto-replied' : 'auto-generated',
    files: await filesOf(ctx, message),
    ...(signing ? { signing } : {}),
    ...(signing && isUnasked(message) ? { leaveUrl: await leaveLink(ctx, message) } : {}),
  };
}

/** Whether it comes to somebody who did not just write: what a colleague writes to one person is not of that kind. */
const isUnasked = ({ origin_kind, in_reply_to }: MessageRow): boolean => origin_kind !== 'user' && in_reply_to === null;

/** Message-IDs of what it answers, of what that answers, and so on. */
async function threadOf(ctx: AppContext, message: MessageRow): Promise<string[]> {
  const ids: string[] = [];
  let next = message.in_reply_to;
  while (next && ids.length < MOST_REFERENCES) {
    const row: MessageRow | undefined = await ctx.store.messages.one({ id: next });
    // What came over another channel has no place in a thread of mails.
    if (!row || row.channel_id !== message.channel_id || !row.provider_message_id) break;
    if (ids.includes(row.provider_message_id)) break;
    ids.push(row.provider_message_id);
    next = row.in_reply_to;
  }
  return ids;
}

async function filesOf(ctx: AppContext, { media }: MessageRow): Promise<OutboundMail['files']> {
  const id = media && keptId(ctx, media.url);
  const file = id ? await ctx.store.mediaFiles.one({ id }) : undefined;
  return file ? [{ name: file.name, type: file.type || 'application/octet-stream', content: file.content }] : [];
}

/** The id of a kept file, by its address here. */
export function keptId(ctx: Pick<AppContext, 'config'>, url: string): string | undefined {
  const place = `${ctx.config.publicUrl}/media/`;
  return url.startsWith(place) ? url.slice(place.length) : undefined;
}
