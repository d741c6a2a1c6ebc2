/** Who calls: the peer itself, or whom a proxy in front of us names, where that proxy is trusted to. */
import type { IncomingMessage } from 'node:http';
import proxyAddress from 'proxy-addr';

/** What proxies say of a request, and what anybody may write into one. */
const SAID_BY_PROXIES = ['forwarded', 'x-forwarded-host', 'x-forwarded-proto', 'x-forwarded-port', 'x-real-ip'];

export interface Callers {
  /** The address a request really comes from. */
  addressOf(request: IncomingMessage): string;
  /** Leaves only what is so in the headers: the caller's address, and what a trusted proxy says besides. */
  settle(request: IncomingMessage): void;
}

/** @param trusted addresses and networks (CIDR) of proxies in front of us; throws when one cannot be read */
export function callersBehind(trusted: readonly string[]): Callers {
  const isTrusted = proxyAddress.compile([...trusted]);
  // Whoever has gone already has no address any more, whatever the types say.
  const addressOf = (request: IncomingMessage) => (proxyAddress(request, isTrusted) as string | undefined) ?? 'unknown';
  return {
    addressOf,
    settle(request) {
      request.headers['x-forwarded-for'] = addressOf(request);
      if (isTrusted(request.socket.remoteAddress ?? '', 0)) return;
      for (const name of SAID_BY_PROXIES) delete request.headers[name];
    },
  };
}
