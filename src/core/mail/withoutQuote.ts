/** Takes from the end of a mail what it answers, as mail programs write it there. */

/**
 * The words without the quotation at their end and the line that announces it. Answers written between quoted lines
 * stay as they are, and a mail that is a quotation altogether stays whole.
 */
export function withoutQuote(text: string): string {
  const lines = text.split(/\r?\n/);
  let end = lines.length;
  let quoted = false;
  while (end > 0 && /^\s*(>|$)/.test(lines[end - 1] ?? '')) {
    end -= 1;
    quoted ||= (lines[end] ?? '').trimStart().startsWith('>');
  }
  if (!quoted) return text.trim();
  const announces = (lines[end - 1] ?? '').trim();
  const kept = lines.slice(0, announces.length <= 200 && announces.endsWith(':') ? end - 1 : end).join('\n');
  return kept.trim() === '' ? text.trim() : kept.trim();
}
