/**
 * How a connection that is not HTTP is encrypted, and whose certificate is believed. The certificates
 * everybody believes count unless others are given: those of an organisation's own authority, or the
 * very certificate the other side shows (pinned), which then needs no name in it.
 */
import { X509Certificate } from 'node:crypto';
import { type ConnectionOptions, checkServerIdentity } from 'node:tls';

const BLOCK = /-----BEGIN CERTIFICATE-----[^-]+-----END CERTIFICATE-----/g;

/** The certificates in a PEM text (RFC 7468). Throws with a sentence when there are none, or one cannot be read. */
export function certificatesIn(pem: string): X509Certificate[] {
  const blocks = pem.match(BLOCK) ?? [];
  if (blocks.length === 0) throw new Error('There is no certificate in it: a PEM text begins with BEGIN CERTIFICATE.');
  return blocks.map((block) => {
    try {
      return new X509Certificate(block);
    } catch {
      throw new Error('A certificate in it cannot be read.');
    }
  });
}

/** What TLS needs to know for a host whose certificate is checked; `believed`: PEM, none for the public authorities. */
export function tlsOptions(host: string, believed: string | undefined): ConnectionOptions {
  const servername = /^[\d.]+$|:/.test(host) ? {} : { servername: host };
  const minimum = { minVersion: 'TLSv1.2' as const };
  if (!believed) return { ...servername, ...minimum };
  const certificates = certificatesIn(believed);
  const pinned = new Set(certificates.map(({ fingerprint256 }) => fingerprint256));
  const known = {
    ca: certificates.map(String),
    // A certificate that is given counts as it is, though who issued it is not.
    allowPartialTrustChain: true,
    checkServerIdentity: (name: string, shown: Parameters<typeof checkServerIdentity>[1]) =>
      pinned.has(shown.fingerprint256) ? undefined : checkServerIdentity(name, shown),
  };
  return { ...servername, ...minimum, ...known };
}

/** Why TLS was not agreed on, in a sentence; undefined when something else went wrong. */
export function tlsTrouble({ code = '', message }: { code?: string; message: string }): string | undefined {
  if (code === 'ERR_TLS_CERT_ALTNAME_INVALID') return 'its certificate is for another name';
  if (/^(UNABLE_TO|SELF_SIGNED|DEPTH_ZERO|CERT_UNTRUSTED|CERT_SIGNATURE)/.test(code))
    return 'nobody who is believed has signed its certificate';
  if (code === 'CERT_HAS_EXPIRED') return 'its certificate has expired';
  if (/^(CERT_|HOSTNAME)/.test(code)) return `its certificate is not right (${code})`;
  if (/^(EPROTO$|ERR_SSL)/.test(code) || /wrong version number/i.test(message)) return 'it does not speak TLS there';
  return undefined;
}
