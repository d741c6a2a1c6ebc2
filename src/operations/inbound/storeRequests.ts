/**
 * The way in, first half: what happens while the provider waits. The request is judged,
 * stored whole and only then answered; everything else is the engine's work.
 */

import type { Connector, Credentials, InboundHttpRequest, InboundItem } from '../../connectors/connector';
import { clientOf } from '../../core/addresses/client';
import { accountAt } from '../../core/connect/numberMove';
import type { CauseCode } from '../../core/delivery/causes';
import { createBatcher } from '../../store/batcher';
import { newId } from '../../store/ids';
import type { ChannelRow, InboundRequestRow, SignatureVerdict } from '../../store/schema/rows';
import type { Unit } from '../../store/store';
import { answerReserved, findReserved } from '../channels';
import { type AppContext, noteChanges } from '../context';
import { connectorOf, credentialsInForce } from '../profiles';
import { fault, recordFacts } from '../proofs';
import { noteSetAside } from '../workQueue';

export const LARGEST_INBOUND = 256 * 1024;

export interface InboundHttp {
  token: string;
  method: string;
  path: string;
  query: string;
  headers: Record<string, string>;
  /** Reads so many octets at most; undefined when it was over that and not read. */
  body(most: number): Promise<Buffer | undefined>;
  remoteAddress: string | null;
}

export interface IntakeAnswer {
  status: number;
  reason: string;
  /** What a verification challenge wants to hear. */
  echo?: string;
}

interface Line {
  channel: ChannelRow;
  /** The account whose address it is: of a number that moves also the one that does not send. */
  accountId: string;
  connector: Connector;
  /** The present ones, and the former ones while their overlap lasts. */
  credentials: Credentials[];
  settings: Record<string, unknown>;
}

/** Two seconds is as long as a replaced address or secret can still be taken for the present one. */
const LINE_AGE = 2000;

export type Intake = (request: InboundHttp) => Promise<IntakeAnswer>;

export function createIntake(ctx: AppContext): Intake {
  const lines = new Map<string, { line: Line; readAt: number }>();
  const store = createBatcher<InboundRequestRow, void>(async (rows) => {
    const refused = rows.filter((row) => row.cause !== null);
    if (refused.length === 0) await ctx.store.append('inbound', rows);
    else await storeWithRefusals(ctx, rows, refused);
    if (rows.some((row) => row.state === 'stored')) ctx.engineWakeUp.ring('inbound');
    return rows.map(() => undefined);
  });

  async function lineFor(token: string): Promise<Line | undefined> {
    const kept = lines.get(token);
    if (kept && ctx.now() - kept.readAt < LINE_AGE) return kept.line;
    lines.delete(token);
    const line = await readLine(ctx, { inbound_token: token });
    if (line) lines.set(token, { line, readAt: ctx.now() });
    return line;
  }

  return async ({ body: read, ...posted }) => {
    const line = await lineFor(posted.token);
    const request = { ...posted, body: await read(line?.connector.largestInbound ?? LARGEST_INBOUND) };
    if (!line) {
      const reserved = await findReserved(ctx, request.token);
      return reserved
        ? answerReserved(reserved, asHttp(request, ctx.config.publicUrl))
        : { status: 404, reason: 'not found' };
    }
    const receivedAt = ctx.now();
    const judged = await judge(line, request, receivedAt, ctx.config.publicUrl);
    if (judged.echo !== undefined) await noteChallenge(ctx, line.channel, receivedAt);
    const unsigned = judged.state === 'refused' && judged.cause !== undefined && judged.cause.startsWith('signature-');
    const body = request.body ?? Buffer.alloc(0);
    const kept = unsigned
      ? ctx.refused.keep(line.channel.id, clientOf(request.remoteAddress ?? ''), body.length)
      : 'whole';
    if (kept === 'not') return judged;
    await store({
      id: newId('inb', receivedAt),
      channel_id: line.channel.id,
      account_id: line.accountId,
      received_at: receivedAt,
      method: request.method,
      path: request.path,
      query: request.query,
      headers: request.headers,
      body: kept === 'whole' ? body : Buffer.alloc(0),
      remote_address: request.remoteAddress,
      signature: judged.signature,
      answer_status: judged.status,
      state: judged.state,
      cause: judged.cause ?? null,
      outcome: judged.cause
        ? {
            reason:
              kept === 'last' ? `${judged.reason}; so many came that no more are kept within this hour` : judged.reason,
          }
        : null,
      processed_at: null,
    });
    return judged;
  };
}

async function readLine(ctx: AppContext, which: { inbound_token: string } | OfRequest): Promise<Line | undefined> {
  const [channel, accountId] = await ('id' in which
    ? lineOfRequest(ctx, which)
    : lineOfToken(ctx, which.inbound_token));
  const account = channel && (await ctx.store.accounts.one({ id: accountId ?? channel.account_id }));
  if (!channel || !account) return undefined;
  return {
    channel,
    accountId: account.id,
    connector: await connectorOf(ctx, account),
    credentials: credentialsInForce(ctx, account, ctx.now()),
    settings: account.settings,
  };
}

type OfRequest = Pick<InboundRequestRow, 'id' | 'account_id' | 'received_at'>;
type LineOf = [channel: ChannelRow | undefined, accountId?: string | null];

/** Of a number that moves the side that does not send has an address of its own. */
async function lineOfToken(ctx: AppContext, token: string): Promise<LineOf> {
  const channel = await ctx.store.channels.one({ inbound_token: token });
  if (channel) return [channel];
  const move = await ctx.store.numberMoves.one({ other_token: token, ended_at: null });
  if (!move) return [undefined];
  const other = move.state === 'prepared' ? move.to_account : move.from_account;
  return [await ctx.store.channels.one({ id: move.channel_id }), other];
}

/** By the account it came through, which may not send for the channel any more; of what came before that was kept, by when. */
async function lineOfRequest(ctx: AppContext, { id, account_id, received_at }: OfRequest): Promise<LineOf> {
  const channel = await ctx.store.channels.one({ id });
  if (!channel || account_id !== null) return [channel, account_id];
  const moves = await ctx.store.numberMoves.all({ channel_id: id }, { order: [['id', 'ASC']] });
  return [channel, accountAt(channel.account_id, moves, received_at)];
}

export interface TakenNow {
  /** With its new verdict. */
  request: InboundRequestRow;
  items: readonly InboundItem[];
}

/**
 * Those of some stored requests that the credentials in force now take, as of the time each
 * came: one that was too old then is too old still.
 */
export async function judgeAgain(ctx: AppContext, requests: readonly InboundRequestRow[]): Promise<TakenNow[]> {
  const lines = new Map<string, Line | undefined>();
  const fitting: TakenNow[] = [];
  for (const request of requests) {
    const { channel_id: id, account_id, received_at } = request;
    const key = `${id} ${account_id ?? received_at}`;
    if (!lines.has(key)) lines.set(key, await readLine(ctx, { id, account_id, received_at }));
    const line = lines.get(key);
    const judged = line && (await judge(line, request, received_at, ctx.config.publicUrl));
    if (judged?.state === 'stored')
      fitting.push({ request: { ...request, signature: judged.signature }, items: judged.items ?? [] });
  }
  return fitting;
}

/**
 * A refusal is also evidence about the set-up: it breaks the hop it shows to be broken. What came from the provider and
 * cannot be read is set aside, once: the same again, as a provider brings it that was refused, is only kept.
 */
async function storeWithRefusals(
  ctx: AppContext,
  rows: InboundRequestRow[],
  refused: InboundRequestRow[],
): Promise<void> {
  await ctx.store.write(async (unit) => {
    const at = ctx.now();
    const aside = await broughtFirst(
      unit,
      refused.filter(({ state }) => state === 'unreadable'),
    );
    await unit.inbound.insert(
      rows.map((row) => (row.state === 'unreadable' && !aside.includes(row) ? { ...row, state: 'refused' } : row)),
    );
    for (const { id, outcome } of aside) await noteSetAside(unit, 'inbound', id, String(outcome?.reason), at);
    await recordFacts(
      unit,
      refused.map((row) => fault(row.channel_id, row.cause as CauseCode, row.received_at, row.id)),
      at,
    );
    await noteChanges(
      unit,
      at,
      refused.map((row) => ['inbound', row.channel_id] as const),
    );
  });
}

/** So many of a channel's latest are compared with; providers repeat within minutes. */
const COMPARED = 50;

/** Those whose body has not been set aside on their channel already. */
async function broughtFirst(unit: Unit, unreadable: readonly InboundRequestRow[]): Promise<InboundRequestRow[]> {
  const first: InboundRequestRow[] = [];
  for (const row of unreadable) {
    const before = await unit.select<{ body: Buffer }>(
      `SELECT body FROM inbound_requests WHERE channel_id = :channel AND state = 'unreadable' ORDER BY id DESC LIMIT ${COMPARED}`,
      { channel: row.channel_id },
    );
    const beside = first.filter(({ channel_id }) => channel_id === row.channel_id);
    if (![...before, ...beside].some(({ body }) => body.equals(row.body))) first.push(row);
  }
  return first;
}

interface Judgement extends IntakeAnswer {
  signature: SignatureVerdict;
  state: InboundRequestRow['state'];
  cause?: CauseCode;
  /** What it says, where it was read. */
  items?: readonly InboundItem[];
}

const SIGNATURE_CAUSES: Partial<Record<SignatureVerdict, CauseCode>> = {
  missing: 'signature-missing',
  wrong: 'signature-wrong',
  stale: 'signature-stale',
};

/** The platform has shown that it means this channel. Its address is now verified, which proves no path yet. */
async function noteChallenge(ctx: AppContext, channel: ChannelRow, at: number): Promise<void> {
  await ctx.store.write(async (unit) => {
    await unit.channels.change({ id: channel.id }, { challenged_at: at });
    await noteChanges(unit, at, [['channel', channel.id]]);
  });
}

type Judged = Pick<InboundHttp, 'method' | 'path' | 'query' | 'headers'> & { body: Buffer | undefined };

function asHttp(request: Judged, publicUrl: string): InboundHttpRequest {
  return {
    method: request.method,
    url: `${publicUrl}${request.path}${request.query ? `?${request.query}` : ''}`,
    headers: request.headers,
    body: request.body ?? Buffer.alloc(0),
  };
}

async function judge(line: Line, request: Judged, now: number, publicUrl: string): Promise<Judgement> {
  const { connector, channel } = line;
  const http = asHttp(request, publicUrl);
  const challenge = connector.readChallenge?.(http);
  if (challenge) return judgeChallenge(challenge, channel);
  if (request.method !== connector.inboundMethod) {
    return {
      status: 405,
      reason: `${request.method} is not taken here; use ${connector.inboundMethod}`,
      signature: 'not-used',
      state: 'refused',
      cause: 'inbound-method',
    };
  }
  if (!request.body) {
    const reason = `the body is over ${(connector.largestInbound ?? LARGEST_INBOUND) / 1024} KB`;
    return { status: 413, reason, signature: 'not-used', state: 'refused', cause: 'inbound-too-large' };
  }
  const signature = verify(line, http, now);
  const refusal = SIGNATURE_CAUSES[signature];
  if (refusal) return { status: 401, reason: `signature ${signature}`, signature, state: 'refused', cause: refusal };
  // What is long costs more to read than whoever waits should pay for: it is read by the engine.
  if (request.body.length > LARGEST_INBOUND) return { status: 202, reason: 'stored', signature, state: 'stored' };
  const parsed = await connector.parse(http, line.settings);
  if (!parsed.ok)
    return { status: 422, reason: parsed.reason, signature, state: 'unreadable', cause: 'inbound-unreadable' };
  return { status: 202, reason: 'stored', signature, state: 'stored', items: parsed.items };
}

/** Valid by any of the credentials in force; otherwise what the present ones say. */
function verify({ connector, credentials }: Line, http: InboundHttpRequest, now: number): SignatureVerdict {
  const verdicts = credentials.map((values) => connector.verify(values, http, now));
  return verdicts.includes('valid') ? 'valid' : (verdicts[0] ?? 'not-used');
}

function judgeChallenge(challenge: { word: string; echo: string }, channel: ChannelRow): Judgement {
  if (challenge.word === channel.challenge_word)
    return { status: 200, reason: 'verified', echo: challenge.echo, signature: 'not-used', state: 'done' };
  const reason = challenge.word ? 'the verification word is another one' : 'there is no verification word';
  return { status: 403, reason, signature: 'not-used', state: 'refused', cause: 'challenge-wrong' };
}
