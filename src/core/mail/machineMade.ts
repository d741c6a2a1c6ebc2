/** Whether a program wrote a mail by itself, so that nothing answers it by itself and no two machines answer each other for ever. */

/** Header fields by their names in small letters. */
export type MailHeaders = ReadonlyMap<string, string>;

/**
 * What shows that no person wrote it, as a sentence; undefined where nothing does. RFC 3834 §2 and §5 for
 * Auto-Submitted, RFC 5321 §4.5.5 for the empty return path, RFC 2919 and RFC 2369 for lists; Precedence is
 * no standard and widely written.
 */
export function machineMade(headers: MailHeaders): string | undefined {
  const [automatic] = (headers.get('auto-submitted') ?? 'no')
    .trim()
    .toLowerCase()
    .split(/[\s;(]/);
  if (automatic && automatic !== 'no') return `It says that it was sent automatically (Auto-Submitted: ${automatic}).`;
  if (headers.get('return-path')?.trim() === '<>') return 'It names no address for what cannot be delivered.';
  if (headers.has('list-id') || headers.has('list-unsubscribe')) return 'It came through a mailing list.';
  const precedence = (headers.get('precedence') ?? '').trim().toLowerCase();
  if (['bulk', 'junk', 'list', 'auto_reply'].includes(precedence))
    return `It was sent in bulk (Precedence: ${precedence}).`;
  return undefined;
}
