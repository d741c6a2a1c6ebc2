/**
 * Whom Windgap may connect to, whatever it speaks there: only globally routable addresses,
 * unless the installation allows private ones. A name is judged by the addresses it leads to
 * at the moment of connecting, so it cannot change its meaning in between.
 */
import { lookup as dnsLookup, type LookupAddress } from 'node:dns';
import { Resolver } from 'node:dns/promises';
import { isIP, type LookupFunction } from 'node:net';
import ipaddr from 'ipaddr.js';

export interface Network {
  /** For Node's own connecting by name: gives back only addresses that may be connected to; fails with `EPRIVATE`. */
  lookup: LookupFunction;
  /** Whether a host may be connected to as it is written; names are judged when they are looked up. */
  allows(host: string): boolean;
  /** The address to connect to for a host. Throws an error with code `EPRIVATE`, or the resolver's. */
  addressOf(host: string): Promise<string>;
  /** The texts (TXT records) that stand at a name; none where there is no such name. Throws when nobody answers. */
  textRecords(name: string): Promise<string[]>;
}

/** `nameServers`: whom to ask for records in place of those the machine asks, as `address:port`. */
export function networkOf({
  allowPrivate,
  nameServers = [],
}: {
  allowPrivate: boolean;
  nameServers?: readonly string[];
}): Network {
  const resolver = new Resolver({ timeout: 3000, tries: 2 });
  if (nameServers.length > 0) resolver.setServers([...nameServers]);
  const lookup: LookupFunction = (hostname, options, callback) => {
    dnsLookup(hostname, { ...options, all: true }, (error, addresses) => {
      if (error) return callback(error, '', 0);
      const allowed = (addresses as LookupAddress[]).filter(({ address }) => allowPrivate || isPublic(address));
      const first = allowed[0];
      if (!first) return callback(refusalOf(hostname), '', 0);
      if (options.all) (callback as (e: null, a: LookupAddress[]) => void)(null, allowed);
      else callback(null, first.address, first.family);
    });
  };
  const allows = (host: string) => allowPrivate || isIP(host) === 0 || isPublic(host);
  return {
    lookup,
    allows,
    async textRecords(name) {
      try {
        return (await resolver.resolveTxt(name)).map((parts) => parts.join(''));
      } catch (error) {
        if (['ENOTFOUND', 'ENODATA'].includes((error as NodeJS.ErrnoException).code ?? '')) return [];
        throw error;
      }
    },
    async addressOf(host) {
      if (!allows(host)) throw refusalOf(host);
      if (isIP(host)) return host;
      return new Promise((resolve, reject) =>
        lookup(host, {}, (error, address) => (error ? reject(error) : resolve(address as string))),
      );
    },
  };
}

function refusalOf(host: string): NodeJS.ErrnoException {
  return Object.assign(new Error(`${host} leads to a private address`), { code: 'EPRIVATE' });
}

/** Answers inside the machines of some hosting platforms, though it is written as anybody's. */
const PLATFORM_SERVICES = new Set(['168.63.129.16']);

/**
 * Whether an address is globally routable unicast. One that carries an IPv4 address inside (RFC 4291
 * §2.5.5.1 and §2.5.5.2, RFC 6052, RFC 3056, RFC 4380) is no way around what is said of that one:
 * the mapped form is judged as IPv4, the others lead nowhere that a provider is.
 */
export function isPublic(address: string): boolean {
  const read = ipaddr.process(address);
  if (read.kind() === 'ipv6' && (read as ipaddr.IPv6).parts.slice(0, 6).every((part) => part === 0)) return false;
  return read.range() === 'unicast' && !PLATFORM_SERVICES.has(read.toString());
}
