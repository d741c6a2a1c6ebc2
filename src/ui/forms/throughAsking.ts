'use client';

import { type Asks, type AskWhy, SIGNED_IN_CHANNEL, SIGNED_OUT } from './formState';

/** What makes the page ask: something a person pressed or followed, or the page keeping itself up to date. */
export type AskedBy = 'person' | 'page';

/** Asks whoever sits there to show that it is they, or to sign in; whether they did. */
type Asker = (why: AskWhy, by: AskedBy) => Promise<boolean>;

let asker: Asker | undefined;

/** Who asks on this page; one at a time. */
export function askBy(next: Asker | undefined): void {
  asker = next;
}

/** Says that the session has ended, before anything was tried. */
export function noteSignedOut(): void {
  void asker?.('signed-out', 'page');
}

/**
 * The answer of an action. Where it wants to know first that it is really the one who is signed in, or the session had
 * ended, that is asked, and the action called again with what it was called with: nothing typed is lost.
 */
export async function throughAsking<Answer>(call: () => Promise<Answer>): Promise<Exclude<Answer, Asks>> {
  for (;;) {
    const { answer, why } = await tried(call);
    if (why === undefined) return answer as Exclude<Answer, Asks>;
    if (!(await (asker?.(why, 'person') ?? false))) return NOT_DONE as Exclude<Answer, Asks>;
  }
}

const NOT_DONE = { status: 'refused', message: 'Nothing was done: you did not show that it is you.', findings: [] };

async function tried<Answer>(call: () => Promise<Answer>): Promise<{ answer?: Answer; why?: AskWhy }> {
  try {
    const answer = await call();
    const state = answer as { status?: string; why?: AskWhy } | undefined;
    return state?.status === 'ask' ? { why: state.why } : { answer };
  } catch (error) {
    if ((error as { digest?: string }).digest === SIGNED_OUT) return { why: 'signed-out' };
    throw error;
  }
}

/**
 * What a page is drawn with: parts of pages that are asked for after the session has ended wait until somebody has signed
 * in again, and what stands on the page stays. Everything else passes as it is.
 */
export function redrawOf(plain: typeof fetch): typeof fetch {
  return async (input, init) => {
    const answer = await plain(input, init);
    const headers = new Headers(init?.headers);
    if (answer.status !== 401 || !headers.has('rsc')) return answer;
    const by = headers.has('next-router-prefetch') || isOfThisPage(input) ? 'page' : 'person';
    if (!(await (asker?.('signed-out', by) ?? false))) await signedInAgain();
    return plain(input, init);
  };
}

/** Whether what is asked for is the page that is shown: redrawn by itself, while a link that is followed leads elsewhere. */
function isOfThisPage(input: Parameters<typeof fetch>[0]): boolean {
  const asked = new URL(input instanceof Request ? input.url : input, window.location.href);
  return asked.pathname === window.location.pathname;
}

function signedInAgain(): Promise<void> {
  return new Promise((resolve) => window.addEventListener(SIGNED_IN_CHANNEL, () => resolve(), { once: true }));
}
