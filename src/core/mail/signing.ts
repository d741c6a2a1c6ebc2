/** The record under which a mail domain publishes its signing key (DKIM, RFC 6376 §3.6.1), and what is found of it. */

/** Where the record of a key stands: a name of the domain's own (RFC 6376 §3.6.2.1). */
export const recordName = (selector: string, domain: string): string => `${selector}._domainkey.${domain}`;

/** The record for a public key: `publicKey` is its DER (SubjectPublicKeyInfo) in base64. */
export const recordFor = (publicKey: string): string => `v=DKIM1; k=rsa; p=${publicKey}`;

export type RecordStanding =
  /** The key is there and may sign. */
  | { is: 'published' }
  | { is: 'missing' }
  /** Something is there by which our signatures do not hold; `said`: what. */
  | { is: 'differs'; said: string };

/** What receivers will make of the records that stand at the name. */
export function judgeRecord(found: readonly string[], publicKey: string): RecordStanding {
  const records = found.map(tagsOf).filter((tags) => tags.has('p'));
  if (found.length === 0) return { is: 'missing' };
  if (records.length === 0) return { is: 'differs', said: 'the record there is no key' };
  // RFC 6376 §3.6.2.2: with several the result is undefined.
  if (records.length > 1)
    return { is: 'differs', said: `there are ${records.length} records, and receivers take any one of them` };
  const [tags] = records as [Map<string, string>];
  const key = tags.get('p')?.replace(/\s+/g, '') ?? '';
  if (tags.has('v') && tags.get('v') !== 'DKIM1') return { is: 'differs', said: `its version is ${tags.get('v')}` };
  if (key === '') return { is: 'differs', said: 'it says that the key is withdrawn' };
  if ((tags.get('k') ?? 'rsa') !== 'rsa') return { is: 'differs', said: `it says that the key is ${tags.get('k')}` };
  const hashes = tags.get('h');
  if (hashes && !hashes.split(':').some((hash) => hash.trim() === 'sha256'))
    return { is: 'differs', said: 'it takes no sha256' };
  const services = tags.get('s');
  if (services && !services.split(':').some((service) => ['*', 'email'].includes(service.trim())))
    return { is: 'differs', said: 'it is not for mail' };
  if (key === publicKey) return { is: 'published' };
  return { is: 'differs', said: publicKey.startsWith(key) ? 'the key there is cut off' : 'there is another key' };
}

/** The `name=value` pairs of a record (RFC 6376 §3.2). */
function tagsOf(record: string): Map<string, string> {
  return new Map(
    record.split(';').flatMap((part) => {
      const at = part.indexOf('=');
      return at > 0 ? [[part.slice(0, at).trim(), part.slice(at + 1).trim()] as const] : [];
    }),
  );
}
