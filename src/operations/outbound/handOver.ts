/** The one place at which a text leaves: handed to its provider by the connector's own way, or through the held link of a trunk. */

import type { Accepted, Connector, OutboundText, Outcome, TrunkLink } from '../../connectors/connector';
import { channelKind } from '../../core/connect/channelKinds';
import { secondsLeft } from '../../core/delivery/validity';
import { HIDDEN_CODE } from '../../core/limits/codes';
import { isBulk } from '../../core/pacing/bulk';
import { markOf } from '../../core/trunk/submits';
import type {
  ChannelRow,
  MessageRow,
  MessageTemplate,
  OutboxRow,
  ProviderAccountRow,
  ProviderNumberRow,
} from '../../store/schema/rows';
import { testPhones } from '../bench';
import { type AppContext, invalidText, receiptUrl } from '../context';
import { openCredentials } from '../profiles';
import { mailAddressFor } from './carrierLookUp';
import { mailOf } from './outboundMail';

/** A channel with what is needed to send over it. */
export interface SendingLine {
  channel: ChannelRow;
  account: ProviderAccountRow;
  number: ProviderNumberRow;
  connector: Connector;
}

export interface SendJob {
  line: SendingLine;
  entry: OutboxRow;
  message: MessageRow;
}

export interface SendReport {
  job: SendJob;
  outcome: Outcome<Accepted>;
  /** When the answer came. */
  at: number;
}
/** Hands one text over: through the held link of a trunk, or by the connector's own way of sending. */
export async function handOver(
  ctx: AppContext,
  job: SendJob,
  link?: TrunkLink,
  stillLeaves?: () => Promise<boolean>,
): Promise<SendReport> {
  const { line, message } = job;
  const text: OutboundText = {
    reference: message.id,
    sender: message.sender,
    recipient: message.recipient,
    text: message.text,
    // At once where there is nothing to look up: the link counts what it was given.
    ...(message.text.includes(HIDDEN_CODE) ? await spelledOut(ctx, message) : {}),
    media: message.media ?? undefined,
    validSeconds: secondsLeft(await lastMoment(ctx, message), ctx.now()),
    receiptUrl: receiptUrl(ctx, line.channel),
    numberId: line.number.remote_id,
    ...(message.template ? { template: asSubmitted(message.template) } : {}),
    ...(message.choices?.asButtons ? { choices: message.choices.labels } : {}),
    ...(channelKind(line.channel.kind).subjects ? { mail: await mailOf(ctx, line.account.id, message) } : {}),
  };
  if (text.shown !== undefined && text.text === text.shown)
    return { job, outcome: { ok: false, failure: { cause: 'code-over' } }, at: ctx.now() };
  const outcome = line.connector.trunk
    ? await submitOver(link, job, text, stillLeaves)
    : await sendOver(ctx, job, text);
  return { job, outcome: text.shown === undefined ? outcome : unread(outcome, text), at: ctx.now() };
}

/** The earlier of its last useful moment and the end of the time its first way has: what comes later would come twice. */
async function lastMoment(ctx: AppContext, { id, valid_until, fallback_to }: MessageRow): Promise<number | null> {
  const until =
    fallback_to === null ? null : ((await ctx.store.fallbacks.one({ message_id: id }))?.first_until ?? null);
  const ends = [valid_until, until].filter((each) => each !== null);
  return ends.length > 0 ? Math.min(...ends) : null;
}

/** The code in its place, for one that waits to be confirmed. Its message is kept without it. */
async function spelledOut(ctx: AppContext, { id, text }: MessageRow): Promise<Partial<OutboundText>> {
  const kept = await ctx.store.verificationCodes.one({ message_id: id });
  if (!kept) return {};
  const open = kept.state === 'open' && kept.sealed_code !== null && kept.expires_at > ctx.now();
  const code = open ? ctx.sealer.open<{ code: string }>(kept.sealed_code as string).code : HIDDEN_CODE;
  return { text: text.replace(HIDDEN_CODE, code), shown: text };
}

/** The outcome with evidence in which the code stands nowhere. */
function unread<Value>(outcome: Outcome<Value>, { text, shown = '' }: OutboundText): Outcome<Value> {
  const at = shown.indexOf(HIDDEN_CODE);
  const code = text.slice(at, at + text.length - shown.length + HIDDEN_CODE.length);
  const hide = (written: string) => written.replaceAll(code, HIDDEN_CODE);
  const { exchange } = outcome;
  if (!exchange) return outcome;
  const { request, response } = exchange;
  return {
    ...outcome,
    exchange: {
      ...exchange,
      request: { ...request, url: hide(request.url), body: request.body === null ? null : hide(request.body) },
      response: response && { ...response, body: hide(response.body) },
    },
  };
}

/** Between two links of a trunk nothing is held: the text was not written and waits for the next link. */
async function submitOver(
  link: TrunkLink | undefined,
  { message: { id }, entry }: SendJob,
  text: OutboundText,
  stillLeaves: (() => Promise<boolean>) | undefined,
) {
  const between: Outcome<Accepted> = { ok: false, failure: { cause: 'trunk-down', said: 'the link is being renewed' } };
  return link ? link.submit({ ...text, mark: markOf(id), bulk: isBulk(entry.priority), stillLeaves }) : between;
}

function asSubmitted({ remote_id, edition, language, numbered }: MessageTemplate): OutboundText['template'] {
  return { remoteId: remote_id, edition, language, values: numbered };
}

async function sendOver(ctx: AppContext, { line, message }: SendJob, text: OutboundText): Promise<Outcome<Accepted>> {
  const { connector, account } = line;
  const credentials = openCredentials(ctx, account);
  if (!connector.send) throw new Error(`${connector.name} does not send`);
  if (!connector.lookUpCarrier) return connector.send(credentials, text);
  const address = await mailAddressFor(ctx, connector, credentials, message);
  return address.ok ? connector.send(credentials, { ...text, mailTo: address.value }) : address;
}

/**
 * One text over an account that sends nothing else yet, before a number moves to it. It is no message and goes to phones of
 * our own alone, so that nothing of what protects people is passed by. Throws for any other.
 */
export async function rehearse(
  ctx: AppContext,
  account: ProviderAccountRow,
  text: OutboundText,
): Promise<Outcome<Accepted>> {
  if (!(await testPhones(ctx)).some(({ number }) => number === text.recipient))
    throw invalidText(
      'to',
      'This is neither a handset of the bench nor a verified phone.',
      'Choose a phone of your own that is known here.',
    );
  const connector = ctx.connectors.get(account.connector);
  if (!connector.send) throw new Error(`${connector.name} does not send`);
  return connector.send(openCredentials(ctx, account), text);
}
