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
  if (status === 401 || status === 403) return 'app-signature-refused';
  if (status === 404) return 'app-address-unknown';
  return status === 410 ? 'app-gone' : 'app-error';
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
