/** How a sample post was sealed, found by trying every way a profile can describe with the secret that is known. */
import type { z } from 'zod';
import { verifyRequest } from '../http/signature';
import type { hmac } from '../profile/pieces';
import type { ReadSample } from './samples';

export interface Seal {
  header: string;
  timestampHeader?: string;
  algorithm: z.infer<(typeof hmac)['algorithm']>;
  encoding: z.infer<(typeof hmac)['encoding']>;
  prefix: string;
  signed: string;
}

export const ALGORITHMS = ['sha256', 'sha1', 'sha512'] as const;
export const ENCODINGS = ['hex', 'base64'] as const;

/** What providers put under a seal; with a time there is a header that says it. */
export const SIGNED = [
  '{{ body }}',
  '{{ timestamp }}.{{ body }}',
  '{{ timestamp }}{{ body }}',
  '{{ timestamp }}:{{ body }}',
  '{{ timestamp }}\n{{ body }}',
  '{{ body }}{{ timestamp }}',
  '{{ url }}{{ body }}',
  '{{ url }}{{ sortedForm }}',
  '{{ timestamp }}{{ url }}{{ body }}',
] as const;

/** Undefined where no way fits: the post was changed since, the secret is another, or it is sealed in some other way. */
export function findSeal(sample: ReadSample, secret: string): Seal | { token: string } | undefined {
  const headers = Object.entries(sample.headers).filter(([name, value]) => value !== '' && name !== 'content-type');
  const token = headers.find(([, value]) => value === secret);
  if (token) return { token: token[0] };
  const times = headers.filter(([, value]) => /^\d{10}(\d{3})?$|^\d{4}-\d\d-\d\dT/.test(value)).map(([name]) => name);
  const request = {
    method: 'POST' as const,
    url: sample.url || 'https://unknown.invalid/',
    headers: sample.headers,
    body: Buffer.from(sample.body),
  };
  for (const [header, value] of headers)
    for (const prefix of new Set(['', /^[a-z0-9]{1,10}=/i.exec(value)?.[0] ?? '']))
      for (const algorithm of ALGORITHMS)
        for (const encoding of ENCODINGS)
          for (const signed of SIGNED)
            for (const timestampHeader of signed.includes('timestamp') ? times : [undefined]) {
              const seal: Seal = {
                header,
                algorithm,
                encoding,
                prefix,
                signed,
                ...(timestampHeader ? { timestampHeader } : {}),
              };
              const verdict = verifyRequest(
                { signature: { ...seal, key: '{{ credentials.secret }}', toleranceSeconds: 300 } },
                { secret },
                request,
                0,
              );
              // The sample is of some other day: what is stale was sealed so all the same.
              if (verdict === 'valid' || verdict === 'stale') return seal;
            }
  return undefined;
}
