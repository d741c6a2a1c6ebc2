/** Codes that show whether somebody reads what arrives at a number: how they are written, tried, and given up. */

/** What stands in a message in place of its code: as long as one, and in the SMS alphabet (3GPP TS 23.038). */
export const HIDDEN_CODE = '******';

/** Where whoever asks for a code wants it in their words. */
export const CODE_PLACE = '{code}';

export const CODE_WORDS = `Your code is ${CODE_PLACE}. Give it to nobody who asks you for it.`;

/** One chance in 200,000 for whoever guesses. */
export const MOST_ATTEMPTS = 5;

export const CODE_MINUTES = { usual: 10, most: 60 };

/** The words with the code hidden; undefined where its place is missing or given twice. */
export function withHiddenCode(words: string): string | undefined {
  const parts = words.split(CODE_PLACE);
  return parts.length === 2 && !words.includes(HIDDEN_CODE) ? parts.join(HIDDEN_CODE) : undefined;
}

export type CodeState = 'open' | 'confirmed' | 'expired' | 'used-up' | 'replaced';

/** What becomes of an open code by one attempt. Only a right one in time confirms. */
export function attempt(
  { attempts, expiresAt }: { attempts: number; expiresAt: number },
  { right, now }: { right: boolean; now: number },
): { state: CodeState; attempts: number } {
  if (now >= expiresAt) return { state: 'expired', attempts };
  if (right) return { state: 'confirmed', attempts: attempts + 1 };
  return { state: attempts + 1 >= MOST_ATTEMPTS ? 'used-up' : 'open', attempts: attempts + 1 };
}
