/**
 * Every HTTP request Windgap makes to the outside. It follows no redirects, keeps
 * connections, holds to a time and a size limit, and connects only to whom the network allows.
 */

import * as http from 'node:http';
import * as https from 'node:https';
import type { LookupFunction } from 'node:net';
import { type Clock, systemClock } from '../../clock/clock';
import { NamedError } from '../../core/namedError';
import { outsideUnit } from '../../core/unitOfWork';
import type { Network } from '../outside/network';

export interface OutboundRequest {
  method: string;
  url: string;
  headers: Record<string, string>;
  body?: string;
  timeoutMs: number;
  /** Bytes of answer that are taken; a megabyte without. */
  largest?: number;
  /** Each byte of the answer as one character (Latin-1), for what is no text. */
  binary?: boolean;
}

export interface OutboundResponse {
  status: number;
  headers: Record<string, string>;
  body: string;
}

export type OutboundFailure = 'unreachable' | 'timeout' | 'not-allowed' | 'too-large';

export class OutboundError extends NamedError {
  static override readonly called = 'OutboundError';
  constructor(
    readonly kind: OutboundFailure,
    message: string,
    /** False when the peer cannot have seen the request: no connection was made. */
    readonly mayHaveArrived: boolean,
  ) {
    super(message);
  }
}

export type OutboundHttp = (request: OutboundRequest) => Promise<OutboundResponse>;

const LARGEST_ANSWER = 1024 * 1024;

export function createOutboundHttp({ lookup, allows }: Network, clock: Clock = systemClock): OutboundHttp {
  const agents = {
    'http:': new http.Agent({ keepAlive: true, maxSockets: 64, lookup } as http.AgentOptions),
    'https:': new https.Agent({ keepAlive: true, maxSockets: 64, lookup } as https.AgentOptions),
  };
  return async (request) => {
    outsideUnit('an HTTP request');
    const url = new URL(request.url);
    if (url.protocol !== 'http:' && url.protocol !== 'https:') {
      throw new OutboundError('not-allowed', `${url.protocol} is not HTTP`, false);
    }
    const host = url.hostname.replace(/^\[|\]$/g, '');
    // A literal address never goes through the lookup, so it is judged here.
    if (!allows(host)) throw new OutboundError('not-allowed', `${host} is a private address`, false);
    try {
      return await perform(clock, url, request, agents[url.protocol]);
    } catch (error) {
      // A kept connection that the peer closed meanwhile: nothing was answered on it, so one fresh try is right
      // only where the request cannot have been read.
      if (error instanceof OutboundError && error.message === STALE_CONNECTION) {
        return perform(clock, url, request, undefined, lookup);
      }
      throw error;
    }
  };
}

const STALE_CONNECTION = 'connection closed before use';

function perform(
  clock: Clock,
  url: URL,
  request: OutboundRequest,
  agent: http.Agent | undefined,
  lookup?: LookupFunction,
): Promise<OutboundResponse> {
  return new Promise((resolve, reject) => {
    const { request: open } = url.protocol === 'https:' ? https : http;
    const body = request.body === undefined ? undefined : Buffer.from(request.body, 'utf8');
    const headers = { ...request.headers, ...(body ? { 'content-length': String(body.length) } : {}) };
    const largest = request.largest ?? LARGEST_ANSWER;
    let connected = false;
    const call = open(url, { method: request.method, headers, agent, lookup }, (answer) => {
      const chunks: Buffer[] = [];
      let size = 0;
      answer.on('data', (chunk: Buffer) => {
        size += chunk.length;
        if (size > largest)
          call.destroy(new OutboundError('too-large', `the answer was over ${largest / 1024 / 1024} MB`, true));
        else chunks.push(chunk);
      });
      answer.on('end', () => {
        timer.cancel();
        resolve({
          status: answer.statusCode ?? 0,
          headers: Object.fromEntries(Object.entries(answer.headers).map(([name, value]) => [name, String(value)])),
          body: Buffer.concat(chunks).toString(request.binary ? 'latin1' : 'utf8'),
        });
      });
      answer.on('error', fail);
    });
    const timer = clock.limit(request.timeoutMs, () => {
      call.destroy(new OutboundError('timeout', `no answer within ${request.timeoutMs} ms`, connected));
    });
    call.on('socket', (socket) => {
      if (socket.connecting) socket.once('connect', () => (connected = true));
      else connected = true;
    });
    call.on('error', fail);
    call.end(body);

    function fail(error: NodeJS.ErrnoException) {
      timer.cancel();
      if (error instanceof OutboundError) return reject(error);
      const stale =
        call.reusedSocket && (error.code === 'ECONNRESET' || error.code === 'EPIPE') && call.socket?.bytesRead === 0;
      if (stale && request.method === 'GET') return reject(new OutboundError('unreachable', STALE_CONNECTION, false));
      const refused = error.code === 'ECONNREFUSED' || error.code === 'ENOTFOUND' || error.code === 'EHOSTUNREACH';
      const kind = error.code === 'EPRIVATE' ? 'not-allowed' : 'unreachable';
      reject(new OutboundError(kind, error.code ?? error.message, connected && !refused));
    }
  });
}
