/** Addresses as they are asked for: parts of them are escaped, and not every escape is one. */

/** The text behind an escaped part of an address; undefined where it cannot be read or names nothing (RFC 3986 §2.1, NUL). */
export function unescaped(part: string): string | undefined {
  try {
    const text = decodeURIComponent(part);
    return text.includes('\u0000') ? undefined : text;
  } catch {
    return undefined;
  }
}

/** Whether the path of a request can be read at all; what follows it is read by whoever answers. */
export function isReadable(url = '/'): boolean {
  return unescaped(url.split('?', 1)[0] ?? '') !== undefined;
}
