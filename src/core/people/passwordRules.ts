/** Which passwords are refused (NIST SP 800-63B-4 §3.1.1.2): short ones, and those that are tried first. No rule on kinds of characters. */
import { dictionary } from '@zxcvbn-ts/language-common';

/** A password that may stand alone has at least 15 characters. */
export const SHORTEST_PASSWORD = 15;

const COMMON: ReadonlySet<string> = new Set(dictionary['passwords-common'] as readonly string[]);

/** What a password must not be made of: it is what one would try first for this person, here. */
export interface PasswordOwner {
  name: string;
  email: string;
}

export type PasswordFault = 'short' | 'common' | 'repeated' | 'personal';

/** Why a password is refused; undefined when it may be used. Characters are code points, as people count them. */
export function passwordFault(password: string, owner?: PasswordOwner): PasswordFault | undefined {
  const text = password.normalize('NFKC');
  if ([...text].length < SHORTEST_PASSWORD) return 'short';
  const plain = text.toLowerCase();
  if (isRepeated(plain) || isSequence(plain)) return 'repeated';
  if (madeOf(plain, (part) => COMMON.has(part))) return 'common';
  const own = ownWords(owner);
  if (own.length > 0 && madeOf(plain, (part) => own.includes(part))) return 'personal';
  return undefined;
}

export const PASSWORD_FAULTS: Record<PasswordFault, string> = {
  short: `The password is shorter than ${SHORTEST_PASSWORD} characters.`,
  common: 'This password is made of one that many people use, and is tried first.',
  repeated: 'This password repeats the same few characters.',
  personal: 'This password is made of the name, the e-mail or “windgap”.',
};

/** A unit of up to five characters over and over: "abcabcabcabcabc". */
function isRepeated(text: string): boolean {
  for (let unit = 1; unit <= 5; unit++)
    if ([...text].every((character, index, all) => character === all[index % unit])) return true;
  return false;
}

/** Each character follows the one before: "abcdefghijklmnop", "987654321098765". */
function isSequence(text: string): boolean {
  const codes = [...text].map((character) => character.codePointAt(0) ?? 0);
  return [1, -1].some((step) =>
    codes.every((code, index) => {
      if (index === 0) return true;
      const by = code - (codes[index - 1] ?? 0);
      // From 9 on to 0 and back.
      return by === step || by === -9 * step;
    }),
  );
}

/** Whether a text is a word of a list, once or over and over, with figures and marks around it and nothing else. */
function madeOf(text: string, isListed: (part: string) => boolean): boolean {
  const parts = text.split(/[^\p{L}]+/u).filter(Boolean);
  const whole = [text, text.replace(/[^\p{L}\p{N}]/gu, ''), text.replace(/[^\p{L}]/gu, '')];
  const once = whole.filter((each) => each.length > 0).map(unitOf);
  if (once.some(isListed)) return true;
  return new Set(parts).size === 1 && isListed(unitOf(parts[0] ?? ''));
}

/** "dragondragon" is "dragon". */
function unitOf(text: string): string {
  for (let length = 1; length <= text.length / 2; length++)
    if (text.length % length === 0 && text.slice(0, length).repeat(text.length / length) === text)
      return text.slice(0, length);
  return text;
}

function ownWords(owner: PasswordOwner | undefined): string[] {
  const words = [...(owner?.name ?? '').split(/\s+/), ...(owner?.email ?? '').split(/[@.]/), 'windgap'];
  const whole = [(owner?.name ?? '').replace(/\s+/g, ''), owner?.email ?? '', (owner?.email ?? '').split('@')[0] ?? ''];
  return [...words, ...whole, ...whole.map((each) => each.replace(/[^\p{L}]/gu, ''))]
    .map((each) => each.toLowerCase())
    .filter((each) => each.length > 2);
}
