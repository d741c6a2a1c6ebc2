/** A message to one person with the plan that a broadcast to them would have: over which channels it goes, and why not over others. */
import { EMPTY_DEFINITION } from '../../core/broadcast/definition';
import { type LeftOutCode, leftOutReason } from '../../core/broadcast/leftOut';
import { type Judged, judge } from '../../core/broadcast/plan';
import { identityKey } from '../../core/identities/identityKinds';
import { type Actor, type AppContext, found, invalidText, reachesChannel, reachOf, requireRole } from '../context';
import { holdersOf, identityWritten, knownBy, readKnownBy } from '../identities';
import type { Sender } from '../outbound';
import { syncProfiles } from '../profiles';
import type { Member } from './audience';
import { readFacts } from './facts';
import { readPeople } from './people';

export interface SingleMessage {
  /** The id of a contact, or a number or an e-mail address as it is typed. */
  to: string;
  text: string;
}

export interface SingleWay {
  channelId: string;
  channelName: string;
  /** People can answer it. */
  answered: boolean;
  judged: Judged;
  /** Why not, where it does not go. */
  reason?: { title: string; remedy?: string };
}

export interface SinglePlan {
  contactId?: string;
  name?: string;
  conversationId?: string;
  /** Those it goes over first, and of those the one they wrote to last. */
  ways: SingleWay[];
}

/** What is dealt with at a broadcast is of no help for one message. */
function reasonOf(code: LeftOutCode): NonNullable<SingleWay['reason']> {
  const { title, remedy, at } = leftOutReason(code);
  return at === 'broadcast' ? { title } : { title, remedy };
}

const LONGEST_TYPED = 200;

/** Looks at every channel that whoever asks may write over. */
export async function planSingle(ctx: AppContext, actor: Actor, { to, text }: SingleMessage): Promise<SinglePlan> {
  requireRole(actor, 'agent');
  await syncProfiles(ctx);
  const reach = await reachOf(ctx.store, actor);
  const channels = (await ctx.store.channels.all()).filter(({ id }) => reachesChannel(reach, id));
  const definition = {
    ...EMPTY_DEFINITION,
    message: { ...EMPTY_DEFINITION.message, text },
    channels: channels.map(({ id }) => id),
    quietHours: false,
  };
  const { facts } = await readFacts(ctx, ctx.store, definition, ctx.now());
  const member = await memberOf(ctx, to.trim().slice(0, LONGEST_TYPED), facts.country);
  const [read] = await readPeople(ctx.store, [member], { country: facts.country });
  if (!read) throw invalidText('to', 'Nobody is named.', 'Choose somebody, or type a number.');
  const { person, contactId } = read;
  const ways = facts.channels.map((channel): SingleWay => {
    const judged = judge({ ...facts, channels: [channel], taken: new Set() }, person);
    return {
      channelId: channel.id,
      channelName: channel.name,
      answered: channel.answered,
      judged,
      ...(judged.goes ? {} : { reason: reasonOf(judged.why.code) }),
    };
  });
  const conversation = contactId === null ? undefined : await ctx.store.conversations.one({ contact_id: contactId });
  const wroteAt = ({ channelId }: SingleWay) => person.wroteTo.get(channelId) ?? 0;
  const before = ({ channelId }: SingleWay) => Number(channelId === conversation?.channel_id);
  // One whose price nobody knows is no bargain.
  const price = ({ judged }: SingleWay) =>
    judged.goes ? (judged.message.price?.micros ?? Number.MAX_SAFE_INTEGER) : 0;
  ways.sort(
    (a, b) =>
      Number(b.judged.goes) - Number(a.judged.goes) ||
      wroteAt(b) - wroteAt(a) ||
      before(b) - before(a) ||
      price(a) - price(b),
  );
  return {
    ...(contactId === null ? {} : { contactId, conversationId: conversation?.id }),
    name: person.name,
    ways,
  };
}

async function memberOf(ctx: AppContext, to: string, country: string | undefined): Promise<Member> {
  if (to.startsWith('con_')) {
    const { id, merged_into } = found(await ctx.store.contacts.one({ id: to }), 'contact');
    return { contactId: merged_into ?? id, heldOut: false };
  }
  const identity = identityWritten(to, country);
  const holder = identity && (await holdersOf(ctx.store, [identity])).get(identityKey(identity));
  // Whoever is known is written to as what is known of them, at the address that was typed.
  return { contactId: holder?.contact_id ?? null, heldOut: false, line: { address: to, fields: {} } };
}

/** Who somebody is, for the field that says whom it goes to; undefined where there is no such contact. */
export async function nameOfContact(ctx: AppContext, actor: Actor, id: string): Promise<string | undefined> {
  requireRole(actor, 'viewer');
  const [row] = await ctx.store.select<{ name: string | null; known_by: string | null }>(
    `SELECT c.name, ${knownBy('c.id')} AS known_by FROM contacts c WHERE c.id = :id AND c.merged_into IS NULL`,
    { id },
  );
  return row && (row.name ?? readKnownBy(row.known_by).name);
}

/** Sends what was planned over one of the channels, as it would go now. */
export async function sendSingle(
  ctx: AppContext,
  actor: Actor,
  send: Sender,
  order: SingleMessage & { channel: string },
): Promise<{ conversationId: string }> {
  const { ways } = await planSingle(ctx, actor, order);
  const way = found(
    ways.find(({ channelId }) => channelId === order.channel),
    'channel',
  );
  const { judged } = way;
  if (!judged.goes)
    throw invalidText(
      'text',
      `It does not go over ${way.channelName}: ${way.reason?.title}${judged.why.said ? ` (${judged.why.said})` : ''}.`,
      way.reason?.remedy ?? 'Choose another channel.',
    );
  const { message } = await send(actor, {
    to: judged.message.identity.value,
    from: way.channelId,
    text: judged.message.text,
  });
  return { conversationId: message.conversationId };
}
