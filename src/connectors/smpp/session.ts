/** Opens connections to a carrier, encrypted where the settings say so, and only to whom the network allows. */
import smpp, { type Session } from 'smpp';
import type { Failure } from '../connector';
import { tlsOptions, tlsTrouble } from '../outside/encryption';
import type { Network } from '../outside/network';
import type { TrunkSettings } from './dialect';
import type { LinkAddress } from './pdus';

export type Encryption = Pick<TrunkSettings, 'encryption' | 'believed'>;

/** The event after which a bind may be written: with TLS not before the certificate was found right. */
export const readyEvent = ({ encryption }: Encryption) => (encryption === 'tls' ? 'secureConnect' : 'connect');

/** A session that is being connected; undefined where it may not be. */
export function connectSession(
  { host, port }: LinkAddress,
  settings: Encryption,
  { lookup, allows }: Network,
): Session | undefined {
  if (!allows(host)) return undefined;
  const tls = settings.encryption === 'tls' ? { tls: true, ...tlsOptions(host, settings.believed) } : {};
  return smpp.connect({ host, port, lookup, ...tls });
}

export const NOT_ALLOWED: Failure = { cause: 'address-not-allowed', said: 'the host is a private address' };

/** What became of a connection that could not be made or broke. */
export function failureOf(error: NodeJS.ErrnoException): Failure {
  if (error.code === 'EPRIVATE') return { cause: 'address-not-allowed', said: error.message };
  const trouble = tlsTrouble(error);
  if (trouble) return { cause: 'encryption-refused', said: trouble };
  return { cause: 'provider-unreachable', said: error.code ?? error.message };
}
