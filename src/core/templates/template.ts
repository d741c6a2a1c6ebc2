/** A template: what is written once, judged by a platform where there is one, and filled for each recipient. */

export const CATEGORIES = ['transactional', 'promotional', 'one-time-code'] as const;
export type Category = (typeof CATEGORIES)[number];

export const CATEGORY_WORDS: Record<Category, string> = {
  transactional: 'about something the person did or has with you',
  promotional: 'an offer, an invitation, news',
  'one-time-code': 'a code that lets the person in',
};

export const MEDIA_KINDS = ['image', 'document', 'video'] as const;
export type MediaKind = (typeof MEDIA_KINDS)[number];

/** A file that goes with a header; `type` is what its content shows it to be. */
export interface HeaderMedia {
  id: string;
  name: string;
  type: string;
  bytes: number;
}

export type Header = { kind: 'text'; text: string } | { kind: MediaKind; media?: HeaderMedia };

export type Button =
  | { kind: 'link'; label: string; target: string }
  | { kind: 'call'; label: string; target: string }
  | { kind: 'quick-reply'; label: string };
export type ButtonKind = Button['kind'];

/** What one language says. */
export interface Variant {
  /** BCP 47. */
  language: string;
  header?: Header;
  body: string;
  footer?: string;
  buttons: Button[];
  /** One made-up value for each variable. */
  samples: Record<string, string>;
}

export interface Template {
  /** As the platform knows it. */
  name: string;
  category: Category;
  /** The first is what people get whose language there is no variant of. */
  variants: Variant[];
}

/** Where in a variant something is written. Buttons are counted from 0. */
export type TextPart = 'header' | 'body' | 'footer' | `button-${number}-label` | `button-${number}-target`;

export interface WrittenPart {
  part: TextPart;
  text: string;
}

/** Everything written in a variant, in the order a reader meets it. */
export function writtenParts(variant: Variant): WrittenPart[] {
  const { header, body, footer, buttons } = variant;
  return [
    ...(header?.kind === 'text' ? [{ part: 'header', text: header.text } as const] : []),
    { part: 'body', text: body },
    ...(footer !== undefined ? [{ part: 'footer', text: footer } as const] : []),
    ...buttons.flatMap((button, index): WrittenPart[] => [
      { part: `button-${index}-label`, text: button.label },
      ...(button.kind === 'quick-reply' ? [] : [{ part: `button-${index}-target` as const, text: button.target }]),
    ]),
  ];
}

export interface Placeholder {
  name: string;
  /** Half-open range of UTF-16 offsets, braces included. */
  from: number;
  to: number;
}

/** A variable is written in two braces, by a name of small letters, digits and underscores. */
const PLACEHOLDER = /\{\{ *([a-z][a-z0-9_]{0,39}) *\}\}/g;

export function placeholdersIn(text: string): Placeholder[] {
  return [...text.matchAll(PLACEHOLDER)].map((match) => ({
    name: match[1] as string,
    from: match.index,
    to: match.index + match[0].length,
  }));
}

/** Writes something else in the place of each variable. */
export function replacePlaceholders(text: string, write: (name: string) => string): string {
  return text.replace(PLACEHOLDER, (_, name: string) => write(name));
}

/** Each variable once, in order of appearance: the first is the platform's number 1. */
export function variablesOf(variant: Variant): string[] {
  return [...new Set(writtenParts(variant).flatMap(({ text }) => placeholdersIn(text).map(({ name }) => name)))];
}

/** Every variable of any language. */
export function allVariables(variants: readonly Variant[]): string[] {
  return [...new Set(variants.flatMap(variablesOf))];
}

/** How a file's content is called in a header, by its media type. */
export function mediaKindOf(type: string): MediaKind | undefined {
  if (type.startsWith('image/')) return 'image';
  if (type.startsWith('video/')) return 'video';
  return type.startsWith('application/') || type.startsWith('text/') ? 'document' : undefined;
}
