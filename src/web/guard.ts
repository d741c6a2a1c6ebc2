/** What is so of every answer, and which requests of browsers are heard at all. */
import type { IncomingMessage, ServerResponse } from 'node:http';

/** Half a year: long enough to count, short enough to live down. */
const HSTS_SECONDS = 183 * 24 * 3600;

export interface Guard {
  /** Sets what every answer carries, unless whoever answers says otherwise. */
  prepare(response: ServerResponse): void;
  /** Whether a page of ours sent this: what only reads is anybody's, and what no browser sent has no page behind it. */
  isOurs(request: IncomingMessage): boolean;
  /** Tells those behind, who compare the page's host with the one that was called, what was found right here: a proxy may call us by another name. */
  vouch(request: IncomingMessage): void;
}

export function guardOf(publicUrl: string): Guard {
  const secure = publicUrl.startsWith('https:');
  const ownHost = new URL(publicUrl).host;
  return {
    prepare(response) {
      response.setHeader('x-content-type-options', 'nosniff');
      if (secure) response.setHeader('strict-transport-security', `max-age=${HSTS_SECONDS}`);
    },
    isOurs({ method = 'GET', headers }) {
      if (method === 'GET' || method === 'HEAD') return true;
      const site = headers['sec-fetch-site'];
      if (site !== undefined && site !== 'same-origin' && site !== 'none') return false;
      const { origin } = headers;
      if (origin === undefined) return true;
      const host = URL.canParse(origin) ? new URL(origin).host : '';
      return host === ownHost || host === headers.host;
    },
    vouch({ method = 'GET', headers }) {
      const { origin } = headers;
      if (method === 'GET' || method === 'HEAD' || origin === undefined) return;
      headers['x-forwarded-host'] = new URL(origin).host;
    },
  };
}
