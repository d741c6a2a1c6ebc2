/** Subjects of answers and of mails that were given none. */

/** The subject of an answer (RFC 5322 §3.6.5): “Re: ” once, however often it was answered. */
export function replySubject(subject: string): string {
  return `Re: ${subject.replace(/^\s*((re|aw|sv|fwd?|wg)\s*:\s*)+/i, '').trim()}`;
}

/** A subject in one line of at most 200 characters, or undefined where nothing is written. */
export function subjectIn(text: string | undefined): string | undefined {
  const line = (text ?? '').replace(/\s+/g, ' ').trim().slice(0, 200);
  return line === '' ? undefined : line;
}
