/**
 * Tarrow's reviewer: reads a pattern as it was handed in and grants it, refuses it with
 * reasons, or files it under another use. Its rules are its own; nobody else sees them.
 */
export type Use = 'service' | 'offer' | 'passcode';

export interface PatternKey {
  press: 'open' | 'ring' | 'say';
  label: string;
  to?: string;
}

/** One language of a pattern. Blanks are written %1, %2 and so on. */
export interface Edition {
  tongue: string;
  top?: { words?: string; file?: { url: string; type: string; bytes: number } };
  words: string;
  foot?: string;
  keys?: PatternKey[];
  /** One for each blank, in order. */
  examples?: string[];
}

export interface Objection {
  tongue: string;
  at: 'top' | 'words' | 'foot' | 'keys' | 'examples' | 'tongue';
  why: string;
  words: string;
}

export interface Judgement {
  granted: boolean;
  /** The use it is filed under from now on. */
  use: Use;
  objections: Objection[];
}

const SALES_TALK =
  /\b(offers?|discount(s|ed)?|sales?|deals?|coupons?|vouchers?|free|save|win|winner|prizes?|bargains?|buy|shop|hurry|exclusive|promo\w*|newsletter|rabatt|erbjudande|rea|gratis|angebot\w*|gutschein\w*|remise|soldes|promotion|offre\w*|korting|aanbieding|oferta\w*|descuento\w*)\b|\d ?% ?(off|rabatt|korting)|half price|last chance|limited time/giu;
const SECRETS = /\b(password|pass ?code|pin|card number|cvv|account number|social security)\b/iu;
const SHORTENERS = ['sho.example', 'tny.example', 'go.example'];
const COMMON: Record<string, RegExp> = {
  en: /\b(the|your|is|and|for|you|to|of|with|we|has|been)\b/giu,
  sv: /\b(och|din|är|för|du|att|till|med|vi|har|den|på)\b/giu,
  fr: /\b(le|la|votre|est|et|pour|vous|de|avec|nous|les|à)\b/giu,
  de: /\b(der|die|das|ihre?|ist|und|für|sie|zu|mit|wir|hat)\b/giu,
  nl: /\b(de|het|uw|is|en|voor|u|te|met|wij|heeft|van)\b/giu,
  es: /\b(el|la|su|es|y|para|usted|de|con|se|los|ha)\b/giu,
};

const blanks = (text: string) => [...text.matchAll(/%\d+/g)];
const letters = (text: string) => text.replace(/%\d+/g, '').replace(/[^\p{L}]/gu, '');

export function judge(use: Use, editions: readonly Edition[], refusedBefore: ReadonlySet<string>): Judgement {
  const objections = editions.flatMap((edition) => [
    ...readWords(use, edition),
    ...readKeys(edition),
    ...readExamples(edition),
    ...readTongue(edition),
    ...(refusedBefore.has(skeleton(edition.words))
      ? [object(edition, 'words', 'same_again', 'This was refused before and has not changed.')]
      : []),
  ]);
  const talk = editions.map(salesTalk);
  let filed = use;
  if (use === 'service') {
    if (talk.some((count) => count >= 2)) {
      const loudest = editions[talk.indexOf(Math.max(...talk))] as Edition;
      objections.push(object(loudest, 'words', 'wrong_use', 'This sells something. File it as an offer.'));
    } else if (talk.some((count) => count === 1)) filed = 'offer';
  }
  return { granted: objections.length === 0, use: filed, objections };
}

/** What a text is when its blanks are left out; two that differ in nothing else are the same. */
export function skeleton(words: string): string {
  return words
    .toLowerCase()
    .replace(/%\d+/g, '%')
    .replace(/[^\p{L}%]+/gu, ' ')
    .trim();
}

function object({ tongue }: Edition, at: Objection['at'], why: string, words: string): Objection {
  return { tongue, at, why, words };
}

function salesTalk(edition: Edition): number {
  const all = [edition.top?.words, edition.words, edition.foot, ...(edition.keys ?? []).map(({ label }) => label)].join(
    ' ',
  );
  return [...all.matchAll(SALES_TALK)].length;
}

function readWords(use: Use, edition: Edition): Objection[] {
  const { words } = edition;
  const found: Objection[] = [];
  const say = (why: string, text: string) => found.push(object(edition, 'words', why, text));
  const inWords = blanks(words);
  const trimmed = words.trim();
  if (/^\W*%\d/.test(trimmed) || /%\d+\W*$/.test(trimmed))
    say('blank_at_edge', 'A message cannot open or close with a blank.');
  if (/%\d+[\s,.;:!?-]*%\d/.test(words)) say('blanks_touch', 'Two blanks touch: we cannot tell what they say.');
  if (inWords.length > 0 && letters(words).length / inWords.length < 14)
    say('mostly_blanks', 'There is too little around the blanks to tell what is being said.');
  if (letters(words).length < 12) say('says_nothing', 'We cannot tell what this is for.');
  if (/\{\{|\}\}|<<|\[\[|%[a-z]/i.test(words)) say('stray_marks', 'There are marks of another program in the text.');
  const shouted = letters(words).replace(/\P{Lu}/gu, '').length / (letters(words).length || 1);
  if (letters(words).length > 20 && shouted > 0.35) say('shouts', 'Too much of it is in capitals.');
  if (/[!?]{2}/.test(words)) say('shouts', 'It shouts.');
  if (/\n\s*\n\s*\n/.test(words) || / {5}/.test(words)) say('gaps', 'It has large gaps.');
  if (SECRETS.test(words) && use !== 'passcode') say('asks_for_secrets', 'Nobody may be asked for a secret here.');
  if (use === 'passcode' && (inWords.length !== 1 || /https?:|www\./i.test(words)))
    say('not_a_passcode', 'A passcode message holds one blank and no link.');
  for (const [address] of words.matchAll(/(https?:\/\/|www\.)\S+/gi))
    found.push(...readAddress(edition, 'words', address));
  return found;
}

function readAddress(edition: Edition, at: 'words' | 'keys', address: string): Objection[] {
  const host = /^(?:https?:\/\/)?([^/?#\s]+)/i.exec(address)?.[1]?.toLowerCase() ?? '';
  const found: Objection[] = [];
  if (/^http:/i.test(address)) found.push(object(edition, at, 'link_open', 'A link has to be https.'));
  if (SHORTENERS.includes(host)) found.push(object(edition, at, 'link_hidden', 'We cannot see where a link leads.'));
  if (/%\d/.test(host) || /^\d+\.\d+\.\d+\.\d+/.test(host))
    found.push(object(edition, at, 'link_hidden', 'The site of a link cannot be a blank or a bare address.'));
  return found;
}

function readKeys(edition: Edition): Objection[] {
  const found: Objection[] = [];
  const labels = (edition.keys ?? []).map(({ label }) => label.trim().toLowerCase());
  if (new Set(labels).size < labels.length)
    found.push(object(edition, 'keys', 'keys_alike', 'Two keys read the same.'));
  for (const { press, to = '' } of edition.keys ?? []) {
    if (press === 'open') {
      found.push(...readAddress(edition, 'keys', to));
      if (/%\d+./.test(to)) found.push(object(edition, 'keys', 'link_hidden', 'A blank in a link stands at its end.'));
    }
    if (press === 'ring' && !/^\+\d[\d ]{6,18}$/.test(to))
      found.push(object(edition, 'keys', 'number_unknown', 'This is no number to ring.'));
  }
  return found;
}

function readExamples(edition: Edition): Objection[] {
  const texts = [edition.top?.words ?? '', edition.words, ...(edition.keys ?? []).map(({ to }) => to ?? '')];
  const needed = Math.max(0, ...texts.flatMap((text) => blanks(text).map(([mark]) => Number(mark.slice(1)))));
  const given = edition.examples ?? [];
  if (needed > 0 && (given.length < needed || given.some((example) => example.trim() === '')))
    return [object(edition, 'examples', 'examples_missing', 'Every blank needs an example.')];
  if (given.some((example) => /^(x+|test|example|\?+)$/i.test(example.trim())))
    return [object(edition, 'examples', 'examples_empty', 'An example has to look like the real thing.')];
  return [];
}

/** Counts the commonest words of the languages it reads. */
function readTongue(edition: Edition): Objection[] {
  const declared = edition.tongue.slice(0, 2).toLowerCase();
  if (!Object.hasOwn(COMMON, declared)) return [];
  const hits = (tongue: string) => [...edition.words.matchAll(COMMON[tongue] as RegExp)].length;
  const own = hits(declared);
  const best = Object.keys(COMMON).sort((a, b) => hits(b) - hits(a))[0] as string;
  if (best === declared || hits(best) < own + 2) return [];
  return [object(edition, 'tongue', 'another_language', 'This is not written in the language it is filed under.')];
}
