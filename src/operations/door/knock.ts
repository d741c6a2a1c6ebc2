/**
 * A marked, sealed request through the public address to Windgap's own inbound door and back. It shows the way from
 * this machine; what comes from elsewhere with a seal of this installation, and posts of providers, show the way from
 * outside.
 */
import { createHash, randomBytes } from 'node:crypto';
import { createOutboundHttp, OutboundError } from '../../connectors/http/outbound';
import { networkOf } from '../../connectors/outside/network';
import { type Answered, type DoorState, type Heard, judgeDoor, type Knocked } from '../../core/door/door';
import { plainWords } from '../../core/signing/appAnswer';
import { newId } from '../../store/ids';
import { type AppContext, noteChanges } from '../context';

/** Where the door is, under the public address. */
export const DOOR = '/in/door';
/** What the seal stands in: no header that anything on the way would know. */
export const SEAL_HEADER = 'x-windgap-door';
const QUERY = 'knock';
const TIMEOUT_MS = 10_000;
/** The line for another machine is noted for so long. */
const NOTED_FOR = 24 * 3_600_000;
const LARGEST_ANSWER = 64 * 1024;
export const LARGEST_KNOCK = 8 * 1024;

const SETTING = 'door';
const OUTSIDE_SETTING = 'door-from-outside';

/** What we sealed ourselves is of no use to whoever looks at it, and would be of a former key one day. */
const SEALED = /v2\.[0-9a-f]{8}\.[\w-]+\.[\w-]+/g;

/** Letters beyond ASCII, and signs that something between may rewrite. */
const WORDS = 'Ærø & <Ångström> 100 % +1';

export interface DoorStanding {
  state: DoorState;
  said: string;
  /** When it was last knocked at, epoch milliseconds. */
  at: number;
  /** Since when it has been so. */
  since: number;
  /** How often in a row it has been so. */
  times: number;
  elapsedMs: number;
  /** The request and the answer. */
  exchange: string;
}

/** Something with a seal of this installation that did not come from this process. */
export interface FromOutside {
  at: number;
  from: string;
}

export function newKnock(ctx: AppContext, kind: 'own' | 'outside'): Knocked & { body: string; seal: string } {
  const mark = randomBytes(9).toString('base64url');
  const body = JSON.stringify({ knock: mark, words: WORDS });
  const digest = digestOf(body);
  return { method: 'POST', mark, body, digest, seal: ctx.sealer.seal({ knock: mark, kind, at: ctx.now() }) };
}

const digestOf = (body: string | Buffer) => createHash('sha256').update(body).digest('hex');

/** Whoever names the public address named this machine, also where that is a private address. */
const http = createOutboundHttp(networkOf({ allowPrivate: true }));

/** Knocks, and keeps how the door stands. */
export async function knock(ctx: AppContext): Promise<DoorStanding> {
  const sent = newKnock(ctx, 'own');
  const url = `${ctx.config.publicUrl}${DOOR}?${QUERY}=${sent.mark}`;
  const headers = { 'content-type': 'application/json', [SEAL_HEADER]: sent.seal };
  const at = ctx.now();
  const began = ctx.clock.elapsed();
  const answer = await http({
    method: 'POST',
    url,
    headers,
    body: sent.body,
    timeoutMs: TIMEOUT_MS,
    largest: LARGEST_ANSWER,
  }).catch((error: unknown) => error as Error);
  const elapsedMs = Math.round(ctx.clock.elapsed() - began);
  const failed = answer instanceof Error;
  const verdict = judgeDoor(
    sent,
    failed ? { by: 'nobody', said: saidOf(answer) } : readAnswer(ctx, answer.status, answer.headers, answer.body),
  );
  const exchange = newId('exc', at);
  const before = await readDoor(ctx);
  const same = before?.state === verdict.state;
  const standing: DoorStanding = {
    ...verdict,
    at,
    since: same ? before.since : at,
    times: same ? before.times + 1 : 1,
    elapsedMs,
    exchange,
  };
  await ctx.store.write(async (unit) => {
    // Only where it changed, or it is not open, is there something to look at afterwards.
    if (!same || verdict.state !== 'open')
      await unit.exchanges.insert([
        {
          id: exchange,
          purpose: 'door',
          subject_id: 'door',
          at,
          elapsed_ms: elapsedMs,
          request: { method: 'POST', url, headers: { ...headers, [SEAL_HEADER]: '••••••' }, body: sent.body },
          response: failed
            ? null
            : {
                status: answer.status,
                headers: answer.headers,
                body: answer.body.slice(0, 4000).replace(SEALED, '••••••'),
              },
          cause: null,
        },
      ]);
    await unit.settings.put({
      name: SETTING,
      value: same && verdict.state === 'open' ? { ...standing, exchange: before.exchange } : standing,
    });
    if (!same || standing.times === 2) await noteChanges(unit, at, [['door', 'door']]);
  });
  return standing;
}

function saidOf(error: Error): string {
  return error instanceof OutboundError ? error.message : error.message || 'it failed';
}

function readAnswer(ctx: AppContext, status: number, headers: Record<string, string>, body: string): Answered {
  const words = plainWords(body).slice(0, 160) || 'nothing is said';
  const other = { by: 'somebody' as const, status, words, ...(headers.location ? { location: headers.location } : {}) };
  try {
    const { door, sealed } = JSON.parse(body) as { door?: string; sealed?: string };
    if (door !== 'windgap') return { ...other, door: false };
    return { ...other, door: true, heard: opened<{ heard: Heard }>(ctx, sealed)?.heard };
  } catch {
    return { ...other, door: false };
  }
}

function opened<Content>(ctx: AppContext, sealed: string | undefined): Content | undefined {
  try {
    return sealed ? ctx.sealer.open<Content>(sealed) : undefined;
  } catch {
    return undefined;
  }
}

export interface AtTheDoor {
  method: string;
  query: string;
  seal: string | undefined;
  /** Undefined when it is larger than anything that is sent here. */
  body: Buffer | undefined;
  from: string;
}

export interface DoorAnswer {
  door: 'windgap';
  said: string;
  sealed: string;
}

/** What the door answers to whatever comes: what it heard, in words and under a seal of this installation. */
export async function answerAtDoor(ctx: AppContext, request: AtTheDoor): Promise<DoorAnswer> {
  const seal = opened<{ knock?: string; kind?: string; at?: number }>(ctx, request.seal);
  const heard: Heard = {
    seal: seal?.knock ? 'ours' : request.seal ? 'not ours' : 'missing',
    digest: digestOf(request.body ?? ''),
    method: request.method,
    mark: (new URLSearchParams(request.query).get(QUERY) ?? '').slice(0, 40),
  };
  // A line that was copied long ago, by whoever has it now, is answered and noted no more.
  if (seal?.knock && seal.kind === 'outside' && ctx.now() - (seal.at ?? 0) < NOTED_FOR)
    await noteFromOutside(ctx, request.from);
  const said =
    heard.seal === 'ours'
      ? 'This is the door of the installation that made this request, and its header came unchanged.'
      : 'This is a door of Windgap. No seal of this installation came with the request.';
  return { door: 'windgap', said, sealed: ctx.sealer.seal({ heard }) };
}

async function noteFromOutside(ctx: AppContext, from: string): Promise<void> {
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    await unit.settings.put({ name: OUTSIDE_SETTING, value: { at, from } satisfies FromOutside });
    await noteChanges(unit, at, [['door', 'door']]);
  });
}

/** How the door stood when it was last knocked at; undefined before the first time. */
export async function readDoor(ctx: AppContext): Promise<DoorStanding | undefined> {
  return (await ctx.store.settings.one({ name: SETTING }))?.value as DoorStanding | undefined;
}

export async function readFromOutside(ctx: AppContext): Promise<FromOutside | undefined> {
  return (await ctx.store.settings.one({ name: OUTSIDE_SETTING }))?.value as FromOutside | undefined;
}
