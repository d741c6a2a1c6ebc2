/** What an app's answer to a webhook means: taken, or the cause that keeps it from being. */
import type { CauseCode } from '../delivery/causes';

export interface AppAnswer {
  status: number;
  /** Names in lower case. */
  headers: Readonly<Record<string, string>>;
  body: string;
}

/** Receivers refuse timestamps further off than this (Standard Webhooks, "Verifying the timestamp"). */
const MOST_SKEW = 5 * 60_000;

/** `at` is our time when the answer came, epoch milliseconds. Undefined when the event was taken. */
export function causeOfAppAnswer(answer: AppAnswer, at: number): CauseCode | undefined {
  const { status } = answer;
  if (status >= 200 && status < 300) return isWebPage(answer) ? 'app-answers-page' : undefined;
  if (status >= 300 && status < 400) return 'app-redirects';
  if ([400, 401, 403].includes(status) && skewOf(answer, at) > MOST_SKEW) return 'app-clock-off';
  // The status alone does not say which of many reasons it was; its words may.
  if (status === 401 || status === 403) return namesSignature(answer) ? 'app-signature-refused' : 'app-refused';
  if (status === 404) return speaksOfSomethingElse(answer) ? 'app-refused' : 'app-address-unknown';
  if (status === 410) return 'app-gone';
  return status >= 500 || status === 408 || status === 429 ? 'app-error' : 'app-refused';
}

/** A 404 with words of its own in JSON is about what the event names, and not about the address. */
function speaksOfSomethingElse({ headers, body }: AppAnswer): boolean {
  if (!/\bjson\b/i.test(headers['content-type'] ?? '')) return false;
  return (
    body.trim().length > 2 &&
    !/not[ _-]?found|no such (page|path|route|address)|cannot (post|get)|unknown (path|route)/i.test(body)
  );
}

/** The app says itself that it is the signature it does not accept. */
function namesSignature({ body, headers }: AppAnswer): boolean {
  return /signature|signing|\bhmac\b|webhook-secret/i.test(
    `${headers['www-authenticate'] ?? ''} ${body.slice(0, 4000)}`,
  );
}

/** What an app said, short enough for one line: its status, and the words of its answer without markup. */
export function wordsOfAnswer({ status, headers, body }: AppAnswer, most = 160): string {
  const words = plainWords(body);
  const server = headers.server ? ` (${headers.server.slice(0, 40)})` : '';
  return words
    ? `${status}${server}: “${words.length > most ? `${words.slice(0, most - 1)}…` : words}”`
    : `${status}${server}`;
}

/** The words of an answer's body without its markup, in one line. */
export function plainWords(body: string): string {
  return body
    .slice(0, 4000)
    .replace(/<(script|style)[\s\S]*?(<\/\1>|$)/gi, ' ')
    .replace(/<[^>]*>/g, ' ')
    .replace(/\s+/g, ' ')
    .trim();
}

/** A page for people, such as a form to sign in. The words alone, as some frameworks send them as HTML, are none. */
function isWebPage({ headers, body }: AppAnswer): boolean {
  if (!/^(text\/html|application\/xhtml\+xml)\b/i.test(headers['content-type'] ?? '')) return false;
  return /<(!doctype\s+html|html|head|body|form|title)[\s>]/i.test(body.slice(0, 4000));
}

/** Milliseconds between the app's clock (RFC 9110 §6.6.1) and ours; 0 when it does not say. */
function skewOf({ headers }: AppAnswer, at: number): number {
  const date = Date.parse(headers.date ?? '');
  return Number.isNaN(date) ? 0 : Math.abs(date - at);
}
