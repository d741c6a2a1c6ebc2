/** What a number is for, so that marketing never leaves from the main line. */
export const PURPOSES = {
  'main-line': 'Main line',
  service: 'Service notices',
  'one-time-codes': 'One-time codes',
  marketing: 'Marketing',
  tests: 'Tests',
} as const;

export type NumberPurpose = keyof typeof PURPOSES;

export function isPurpose(text: string): text is NumberPurpose {
  return Object.hasOwn(PURPOSES, text);
}
