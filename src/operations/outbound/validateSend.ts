/**
 * What is wrong with an order to send, told at its field: before anything is stored, and
 * where it can be foreseen, before any provider is asked.
 */

import type { Connector } from '../../connectors/connector';
import { type Address, normaliseAddress } from '../../core/addresses/address';
import { countryName, languageOfCountry } from '../../core/addresses/display';
import { nameCarriage } from '../../core/addresses/senderNames';
import { channelKind } from '../../core/connect/channelKinds';
import { predictRefusal } from '../../core/connect/predict';
import { PURPOSES } from '../../core/connect/purposes';
import { promisedChannel } from '../../core/connect/webChat';
import { cause } from '../../core/delivery/causes';
import { offerChoices } from '../../core/delivery/choices';
import type { Media } from '../../core/delivery/media';
import { LONGEST_VALIDITY } from '../../core/delivery/validity';
import { identityKind } from '../../core/identities/identityKinds';
import { COSTLY_WORDS, costlyKind, destinationOf, notAllowed } from '../../core/limits/destination';
import { replySubject, subjectIn } from '../../core/mail/subject';
import { tokensIn } from '../../core/text/merge';
import type { ChannelRow, MessageRow, ProviderNumberRow } from '../../store/schema/rows';
import type { Unit } from '../../store/store';
import { declined } from '../contacts';
import {
  type Actor,
  type AppContext,
  invalid,
  invalidText,
  type OperationError,
  reachedMessages,
  reachesChannel,
  reachOf,
  reachValues,
  readingReachOf,
  seesAny,
  seesEverything,
} from '../context';
import { holderOf, identityOn, ofTelephone, reachedOn } from '../identities';
import { allowedDestinations, countriesBefore, homeOf, pricesOf } from '../limits';
import { readOrganisation } from '../organisation';
import { readCatalogue, type TemplateText, textOf } from '../templates';
import { restingOn } from './oldFacts';
import { keptId } from './outboundMail';
import type { Draft, Order, Saying, SendContext, SendInput } from './sendRequests';

/** Longest text taken; how many parts a provider accepts is its own matter and shows in its answer. */
export const LONGEST_TEXT = 1600;

export async function readSendContext(ctx: AppContext, unit: Unit, orders: readonly Order[]): Promise<SendContext> {
  const replies = orders.flatMap(({ input }) => input.inReplyTo ?? []);
  const [channels, accounts, numbers, answered, before, catalogue, organisation] = await Promise.all([
    unit.channels.all(),
    unit.accounts.all(),
    unit.numbers.all(),
    replies.length > 0 ? unit.messages.all({ id: replies }) : [],
    countriesBefore(unit),
    readCatalogue(
      unit,
      orders.flatMap(({ input }) => input.template?.id ?? []),
    ),
    readOrganisation(unit),
  ]);
  return {
    channels,
    accounts: new Map(accounts.map((row) => [row.id, row])),
    numbers: new Map(numbers.map((row) => [row.id, row])),
    answered: new Map(answered.map((row) => [row.id, row])),
    catalogue,
    prices: await pricesOf(ctx, unit, accounts),
    home: homeOf(numbers, organisation),
    language: organisation.language,
    before,
  };
}

/** Throws what is wrong with an order at its field. */
export async function draftOf(
  ctx: AppContext,
  unit: Unit,
  known: SendContext,
  order: Order,
  at: number,
): Promise<Draft> {
  const { input } = order;
  if (input.template && input.text.trim() !== '')
    throw invalidText('text', 'Both a text and a template are given.', 'Give one of them.');
  refuseTokens(order);
  if (input.text.trim() === '' && !input.media && !input.template)
    throw invalidText('text', 'The text is empty.', 'Write something.');
  if (input.validUntil !== undefined && !(input.validUntil > at && input.validUntil <= at + LONGEST_VALIDITY))
    throw invalidText(
      'validUntil',
      input.validUntil > at ? 'This moment is more than seven days away.' : 'This moment is over already.',
      'Give a moment within the next seven days, or leave it out.',
    );
  const named = input.inReplyTo ? known.answered.get(input.inReplyTo) : undefined;
  const answered = named && (await mayAnswer(unit, order.actor, named)) ? named : undefined;
  if (input.inReplyTo && !answered) {
    throw invalidText('inReplyTo', 'There is no message with this id.', 'Use the id of the message that was received.');
  }
  const promised = await promisedWay(unit, known, input, answered);
  const channel = promised?.channel ?? (await chosenChannel(unit, known, order, answered));
  const to = promised?.to ?? input.to ?? (answered?.direction === 'in' ? answered.sender : answered?.recipient);
  const address = recipientOf(to, channel);
  refuseTooLong(ctx, known, channel, input.text);
  if (order.actor.kind === 'user') await refuseStart(unit, order.actor, channel, address.value);
  const said = offered(ctx, known, input, channel, await sayingOf(unit, known, input, channel, address));
  await refuseWhatIsKnownToFail(ctx, unit, known, channel, { ...address, approved: said.template !== undefined }, at);
  await refuseDestination(unit, known, channel, address, answered, at);
  if (answered === undefined) await refuseOtherPurpose(unit, known, order, channel, address.value, at);
  if (order.only && !order.only.has(address.value))
    throw invalidText(
      'to',
      'This is a test key, and this is neither a handset of the bench nor a verified phone.',
      'All else of the order is right: with a live key it would be sent.',
    );
  if (input.media) refuseUncarriedMedia(ctx, known, channel, input.media);
  return { order, channel, recipient: address.value, said, subject: subjectOf(channel, input, answered, said.subject) };
}

/**
 * Nothing leaves with a merge field in it that nothing has filled, whichever way it was ordered. In what a route says may
 * stand what somebody wrote, braces and all; a second way says what the first one said.
 */
function refuseTokens({ actor, input, insteadOf }: Order): void {
  if (actor.kind === 'route' || actor.kind === 'system' || insteadOf) return;
  for (const [field, text] of [
    ['text', input.text],
    ['subject', input.subject ?? ''],
  ] as const) {
    const [token] = tokensIn(text);
    if (token)
      throw invalidText(
        field,
        `${token} is a merge field that nothing has filled.`,
        'Write what should stand there; nobody is sent a field’s name.',
      );
  }
}

/** Longest for a text; of a mail what the profile says. */
function refuseTooLong(ctx: AppContext, { accounts }: SendContext, channel: ChannelRow, text: string): void {
  const account = accounts.get(channel.account_id);
  const longest =
    ofTelephone(channel) || !account ? LONGEST_TEXT : ctx.connectors.get(account.connector).limits.longestText;
  if (text.length <= longest) return;
  const remedy = 'Shorten it or send it in several messages.';
  throw invalidText('text', `The text is longer than ${longest} characters.`, remedy);
}

/** Of a mail: what was given, that of what it answers, its template’s, or the channel’s own. */
function subjectOf(
  channel: ChannelRow,
  { subject }: SendInput,
  answered: MessageRow | undefined,
  ofTemplate: string | undefined,
): string | null {
  if (!channelKind(channel.kind).subjects) return null;
  return (
    subjectIn(subject) ?? (answered?.subject ? replySubject(answered.subject) : (subjectIn(ofTemplate) ?? channel.name))
  );
}

/** The channel over which whoever wrote was told to expect the answer, where they are reached over it. */
async function promisedWay(
  unit: Unit,
  { channels }: SendContext,
  { to, from }: SendInput,
  answered: MessageRow | undefined,
): Promise<{ channel: ChannelRow; to: string } | undefined> {
  if (to !== undefined || from !== undefined || answered?.direction !== 'in') return undefined;
  const id = promisedChannel(channels.find((channel) => channel.id === answered.channel_id)?.settings ?? {});
  const channel = channels.find((each) => each.id === id);
  if (!channel) return undefined;
  const reached = reachedOn(channel, await unit.identities.all({ contact_id: answered.contact_id }));
  const gone = await declined(unit, [answered.contact_id]);
  if (!reached || gone.has(`${channelKind(channel.kind).consent} ${answered.contact_id}`)) return undefined;
  return { channel, to: reached.value };
}

/** Whether somebody sees the message they answer. */
async function mayAnswer(unit: Unit, actor: Actor, { id }: MessageRow): Promise<boolean> {
  if (!(await seesAny(unit, actor, 'm.id = :id', { id }))) return false;
  const reach = await readingReachOf(unit, actor);
  if (seesEverything(reach)) return true;
  const values = { id, ...reachValues(reach) };
  return (
    (await unit.select(`SELECT 1 FROM messages m WHERE m.id = :id AND ${reachedMessages(reach, 'm')}`, values)).length >
    0
  );
}

/** Over a channel of a team that keeps it to its members nobody else writes, but to answer what they were given. */
async function chosenChannel(
  unit: Unit,
  known: SendContext,
  { actor, input }: Order,
  answered: MessageRow | undefined,
): Promise<ChannelRow> {
  const reach = await reachOf(unit, actor);
  const open = known.channels.filter(({ id }) => reachesChannel(reach, id) || id === answered?.channel_id);
  return chooseChannel(open, input.from, answered);
}

/** With its answers as buttons where the channel shows such, in words elsewhere. */
function offered(
  ctx: AppContext,
  { accounts }: SendContext,
  { media, choices: asked = [] }: SendInput,
  channel: ChannelRow,
  { choices = asked, ...said }: Omit<TemplateText, 'choices'> & { choices?: readonly string[] },
): Saying {
  const connector = accounts.get(channel.account_id)?.connector;
  const rules = connector && ctx.connectors.has(connector) ? ctx.connectors.get(connector).choices : undefined;
  return { ...said, ...offerChoices(said.text, choices, rules, media !== undefined) };
}

async function sayingOf(
  unit: Unit,
  known: SendContext,
  input: SendInput,
  channel: ChannelRow,
  address: Address,
): Promise<TemplateText> {
  const account = known.accounts.get(channel.account_id);
  if (!input.template || !account) return { text: input.text };
  const language = (await languageOf(unit, channel, address)) ?? known.language;
  return textOf(known.catalogue, input.template, { channel, account, language });
}

/** What is known of the person goes before what the number suggests. */
async function languageOf(unit: Unit, channel: ChannelRow, { value, country }: Address): Promise<string | undefined> {
  const identity = await holderOf(unit, identityOn(channel, value));
  const contact = identity && (await unit.contacts.one({ id: identity.contact_id }));
  return contact?.language ?? languageOfCountry(country);
}

function chooseChannel(
  channels: readonly ChannelRow[],
  from: string | undefined,
  answered: MessageRow | undefined,
): ChannelRow {
  if (from !== undefined) {
    const normalised = normaliseAddress(from, { allowShortCode: true, allowSenderName: true });
    const address = normalised.ok ? normalised.address.value : from;
    const chosen = channels.find((channel) => channel.id === from || channel.address === address);
    if (!chosen) throw invalidText('from', `No channel sends from ${from}.`, 'Use the id or the number of a channel.');
    return chosen;
  }
  const only = channels.length === 1 ? channels[0] : undefined;
  const chosen = channels.find((channel) => channel.id === answered?.channel_id) ?? only;
  if (!chosen)
    throw invalidText('from', 'The channel to send from is missing.', 'Give a channel id or number in "from".');
  return chosen;
}

function recipientOf(to: string | undefined, channel: ChannelRow): Address {
  if (to === undefined) throw invalidText('to', 'There is no recipient.', 'Give a number in "to", or "inReplyTo".');
  const identity = identityKind(channelKind(channel.kind).identity);
  if (!identity.telephone) {
    const read = identity.read(to);
    if (!read.ok) throw invalid('to', read.finding);
    return { value: read.value, kind: 'other', fictional: false };
  }
  const normalised = normaliseAddress(to, { defaultCountry: channel.default_country ?? undefined });
  if (!normalised.ok) throw invalid('to', normalised.finding);
  if (normalised.address.value === channel.address) {
    throw invalidText('to', 'This is the channel’s own number.', 'Give the number of the person.');
  }
  return normalised.address;
}

/** Some people may answer but not write first. */
async function refuseStart(unit: Unit, actor: Actor, channel: ChannelRow, value: string): Promise<void> {
  if ((await unit.users.one({ id: actor.id }))?.may_start !== 0) return;
  const identity = await holderOf(unit, identityOn(channel, value));
  const conversation = identity && (await unit.conversations.one({ contact_id: identity.contact_id }));
  if (conversation?.last_inbound_at) return;
  throw refusal('to', 'may-only-reply', value, actor.name);
}

/** Codes leave from no number that is for marketing or tests, and nothing else begins at one that is for codes. */
async function refuseOtherPurpose(
  unit: Unit,
  { numbers }: SendContext,
  { code, insteadOf }: Order,
  channel: ChannelRow,
  value: string,
  at: number,
): Promise<void> {
  const purpose = numbers.get(channel.number_id)?.purpose;
  const carries = code !== undefined || insteadOf?.code === true;
  const forbidden = carries ? purpose === 'marketing' || purpose === 'tests' : purpose === 'one-time-codes';
  if (!purpose || !forbidden) return;
  if (carries || !(await wroteToUs(unit, channel, value, at)))
    throw refusal('from', 'purpose-forbids', channel.address, undefined, PURPOSES[purpose].toLowerCase());
}

/** Whoever wrote so long ago at most may be answered wherever they are. */
const WROTE_WITHIN = 30 * 86_400_000;

/** A country nobody works in, or a kind of number that costs many times a text. */
async function refuseDestination(
  unit: Unit,
  known: SendContext,
  channel: ChannelRow,
  { value }: Address,
  answered: MessageRow | undefined,
  now: number,
): Promise<void> {
  if (!ofTelephone(channel)) return;
  const to = destinationOf(value);
  if (!to) return;
  const allowed = allowedDestinations(channel, known);
  const not = notAllowed(to, allowed, answered?.direction === 'in' && answered.sender === value);
  if (!not) return;
  const costly = costlyKind(to.kind);
  if (costly) throw refusal('to', 'number-costly', value, undefined, COSTLY_WORDS[costly].one);
  if (await wroteToUs(unit, channel, value, now)) return;
  const names = allowed.countries.map((code) => countryName(code));
  const shown = names.length > 6 ? `${names.slice(0, 6).join(', ')} and ${names.length - 6} more` : names.join(', ');
  const where = to.country ? `${value} in ${countryName(to.country)}` : value;
  throw refusal('to', 'destination-not-allowed', where, channel.name, shown);
}

async function wroteToUs(unit: Unit, channel: ChannelRow, value: string, now: number): Promise<boolean> {
  const identity = await holderOf(unit, identityOn(channel, value));
  const conversation = identity && (await unit.conversations.one({ contact_id: identity.contact_id }));
  return (conversation?.last_inbound_at ?? 0) > now - WROTE_WITHIN;
}

/** Where names have to be registered, one that is not yet is dropped by the networks without a word. */
async function refuseUnregistered(unit: Unit, { id, address }: ProviderNumberRow, country?: string): Promise<void> {
  if (!country || nameCarriage(country) !== 'registered') return;
  const state = (await unit.nameRegistrations.one({ number_id: id, country }))?.state;
  if (state === 'approved') return;
  const said = { submitted: 'is handed in and not decided yet', rejected: 'was rejected there' };
  throw refusal(
    'to',
    'sender-name-unregistered',
    countryName(country),
    undefined,
    `${address} ${state ? said[state] : 'was not handed in there'}`,
  );
}

/** A refusal that can be foreseen is given now, at the one who asks, and not by the provider later. */
async function refuseWhatIsKnownToFail(
  ctx: AppContext,
  unit: Unit,
  known: SendContext,
  channel: ChannelRow,
  recipient: Address & { approved: boolean },
  at: number,
): Promise<void> {
  const account = known.accounts.get(channel.account_id);
  const number = known.numbers.get(channel.number_id);
  if (!account || !number) throw new Error('A channel stands without its account or number');
  const connector = ctx.connectors.get(account.connector);
  if (!number.abilities.includes('text-out'))
    throw refusal('from', 'sender-wrong-direction', channel.address, account.name);
  if (number.kind === 'sender-name' && nameCarriage(recipient.country) === 'refused')
    throw refusal('to', 'sender-name-refused', countryName(recipient.country as string), undefined, channel.address);
  if (number.kind === 'sender-name') await refuseUnregistered(unit, number, recipient.country);
  // What the platform approved may start a conversation.
  const replyWindowHours = recipient.approved ? undefined : connector.limits.replyWindowHours;
  const foreseen = predictRefusal({
    now: at,
    facts: account.facts,
    requires: connector.requires,
    disabled: account.disabled_at !== null,
    recipient,
    replyWindowHours,
    lastInboundAt: replyWindowHours ? await lastInboundAt(unit, channel, recipient.value) : undefined,
  });
  if (!foreseen) return;
  const subject = foreseen.subject?.length === 2 ? countryName(foreseen.subject) : foreseen.subject;
  const allowed = foreseen.cause === 'window-closed' ? whatIsAllowed(ctx, known, connector) : '';
  throw restingOn(
    refusal('to', foreseen.cause, subject, account.name, foreseen.said, allowed),
    foreseen.cause,
    account,
  );
}

async function lastInboundAt(unit: Unit, channel: ChannelRow, recipient: string): Promise<number | undefined> {
  const identity = await holderOf(unit, identityOn(channel, recipient));
  const window = identity && (await unit.replyWindows.one({ channel_id: channel.id, contact_id: identity.contact_id }));
  return window?.last_inbound_at;
}

/** Outside the reply window: which other channels could carry the text now. */
function whatIsAllowed(ctx: AppContext, { channels, accounts }: SendContext, connector: Connector): string {
  const others = channels.filter((channel) => {
    const account = accounts.get(channel.account_id);
    const other = account?.disabled_at === null ? ctx.connectors.get(account.connector) : undefined;
    return other && channelKind(other.kind).reachesAnyPhone && other !== connector && !other.limits.replyWindowHours;
  });
  if (others.length === 0) return '';
  return ` A text over ${others
    .map((channel) => channel.name)
    .slice(0, 3)
    .join(' or ')} is allowed now.`;
}

/** A file nobody on the way would carry is refused with what would be. */
function refuseUncarriedMedia(ctx: AppContext, known: SendContext, channel: ChannelRow, media: Media): void {
  const account = known.accounts.get(channel.account_id);
  const types = account ? ctx.connectors.get(account.connector).mediaTypes : [];
  if (types.length === 0) {
    const remedy = 'Send the text with a link to the file, or choose a channel that carries files.';
    throw invalidText('media', `${account?.name ?? channel.name} carries texts only.`, remedy);
  }
  if (!known.numbers.get(channel.number_id)?.abilities.includes('media-out'))
    throw invalidText('media', `${channel.address} sends texts only.`, 'Send from a number that can send files.');
  if (!types.includes(media.type)) {
    const remedy = `These are carried: ${types.join(', ')}.`;
    throw invalidText('media.type', `${account?.name} does not carry ${media.type}.`, remedy);
  }
  const url = URL.canParse(media.url) ? new URL(media.url) : undefined;
  if (!url || !['https:', 'http:'].includes(url.protocol))
    throw invalidText('media.url', 'This is not a web address.', 'Give an address the provider can fetch, with https.');
  if (channelKind(channel.kind).subjects && !keptId(ctx, media.url))
    throw invalidText(
      'media.url',
      'A mail carries files that are kept here.',
      'Attach it at the desk, or put the link into the text.',
    );
}

export function refusal(
  field: string,
  code: Parameters<typeof cause>[0],
  subject: string | undefined,
  who: string | undefined,
  said?: string,
  more = '',
): OperationError {
  const { explain, remedy } = cause(code);
  return invalid(field, { code, severity: 'error', problem: explain({ who, said, subject }), remedy: remedy + more });
}
