/** What a provider posts to us: challenges, texts and receipts, as its profile describes them. */
import type { CauseCode } from '../../core/delivery/causes';
import type {
  ConsentItem,
  InboundHttpRequest,
  InboundItem,
  ParsedInbound,
  ReactionItem,
  ReceiptItem,
  TextItem,
  TextState,
} from '../connector';
import type { HttpProfile } from '../profile/schema';
import type { TemplatesShape } from '../profile/templates';
import { type AddressForm, fromProvider } from './addressForm';
import { type Json, nodes } from './jsonPath';
import { optional, parseForm, parseJson, required, time } from './read';
import { readReviews } from './templates';

type Shape = HttpProfile['inbound'];
export type TextStateShape = NonNullable<HttpProfile['textState']>;

export function parseInbound(
  shape: Shape,
  templates: TemplatesShape | undefined,
  form: AddressForm,
  request: InboundHttpRequest,
): ParsedInbound {
  const body = shape.method === 'GET' ? new URL(request.url).search.slice(1) : request.body.toString('utf8');
  const document = shape.format === 'form' || shape.method === 'GET' ? parseForm(body) : parseJson(body);
  if (document === undefined) return { ok: false, reason: 'the body is not JSON' };
  try {
    const items: InboundItem[] = [
      ...nodes(document, shape.texts.each).map((entry) => parseText(shape.texts, form, entry)),
      ...(shape.receipts ? parseReceipts(shape.receipts, document) : []),
      ...(shape.reactions ? parseReactions(shape.reactions, document) : []),
      ...(shape.consents ? parseConsents(shape.consents, form, document) : []),
      ...(templates?.callback
        ? readReviews(templates, document, templates.callback.each).map(
            (review) => ({ kind: 'review', review }) as const,
          )
        : []),
    ];
    const ignored = shape.ignore !== undefined && nodes(document, shape.ignore).length > 0;
    if (items.length > 0 || ignored) return { ok: true, items };
    return { ok: false, reason: `nothing at ${[shape.texts.each, shape.receipts?.each].filter(Boolean).join(' or ')}` };
  } catch (error) {
    return { ok: false, reason: (error as Error).message };
  }
}

/** What brings neither words nor a file is no text that came in empty: the place of the words is not where it was. */
function parseText(shape: Shape['texts'], form: AddressForm, entry: Json): TextItem {
  const media = readMedia(shape.media, entry);
  return {
    kind: 'text',
    providerMessageId: required(entry, shape.providerMessageId),
    from: fromProvider(required(entry, shape.from), form),
    to: fromProvider(required(entry, shape.to), form),
    text: wordsOf(shape, entry, media),
    at: time(entry, shape.at),
    senderName: optional(entry, shape.senderName),
    answers: answersOf(shape, entry),
    media,
  };
}

function answersOf(shape: Shape['texts'], entry: Json): TextItem['answers'] {
  const id = optional(entry, shape.answers);
  return id ? [id] : undefined;
}

/** A file that is left out has its place in words, so that it is missed. */
function wordsOf(shape: Shape['texts'], entry: Json, media: TextItem['media']): string {
  if (media || shape.text === undefined) return optional(entry, shape.text) ?? '';
  if (optional(entry, shape.media?.url) === undefined) return required(entry, shape.text);
  return optional(entry, shape.text) || '[a file without a web address]';
}

/** Neither half is of use alone, and what is no web address leads a browser where nobody wants to be led. */
function readMedia(shape: Shape['texts']['media'], entry: Json): TextItem['media'] {
  const url = optional(entry, shape?.url);
  const type = optional(entry, shape?.type);
  return url && type && /^https?:\/\//i.test(url) && URL.canParse(url) ? { url, type } : undefined;
}

function parseReactions(shape: NonNullable<Shape['reactions']>, document: Json): (ReactionItem | ReceiptItem)[] {
  return nodes(document, shape.each).flatMap((entry): (ReactionItem | ReceiptItem)[] => {
    const providerMessageId = required(entry, shape.message);
    const sign = (optional(entry, shape.sign) ?? '').trim().slice(0, 32);
    const at = time(entry, shape.at);
    // Nobody feels anything about what they have not read.
    const read = { kind: 'receipt', providerMessageId, state: 'read', said: `felt ${sign}`, at } as const;
    return [...(sign ? [read] : []), { kind: 'reaction', providerMessageId, sign, at }];
  });
}

function parseConsents(shape: NonNullable<Shape['consents']>, form: AddressForm, document: Json): ConsentItem[] {
  return nodes(document, shape.each).map((entry) => {
    const said = required(entry, shape.what);
    const what = Object.hasOwn(shape.words, said) ? shape.words[said] : undefined;
    if (!what) throw new Error(`the word "${said}" is not in the profile`);
    return {
      kind: 'consent',
      from: fromProvider(required(entry, shape.from), form),
      to: fromProvider(required(entry, shape.to), form),
      what,
      said,
      at: time(entry, shape.at),
    };
  });
}

function parseReceipts(shape: NonNullable<Shape['receipts']>, document: Json): ReceiptItem[] {
  return nodes(document, shape.each).map((entry) => {
    const said = required(entry, shape.state);
    const code = optional(entry, shape.code);
    const state = Object.hasOwn(shape.states, said) ? shape.states[said] : undefined;
    if (!state) throw new Error(`the state "${said}" is not in the profile`);
    return {
      kind: 'receipt',
      providerMessageId: required(entry, shape.providerMessageId),
      reference: optional(entry, shape.reference),
      state,
      cause: state === 'undelivered' ? undeliveredCause(shape.codes, code) : undefined,
      said: code ? `${said} (${code})` : said,
      at: time(entry, shape.at),
    };
  });
}

/** What a provider answers when it is asked for one text, read as its receipts are. */
export function readTextState(shape: TextStateShape, answer: Json): TextState {
  const said = required(answer, shape.state);
  const code = optional(answer, shape.code);
  const state = Object.hasOwn(shape.states, said) ? shape.states[said] : undefined;
  return {
    ...(state ? { state } : {}),
    ...(state === 'undelivered' ? { cause: undeliveredCause(shape.codes, code) } : {}),
    said: code ? `${said} (${code})` : said,
    at: time(answer, shape.at),
  };
}

function undeliveredCause(codes: Record<string, CauseCode>, code: string | undefined): CauseCode {
  return (code && Object.hasOwn(codes, code) && codes[code]) || 'undelivered-unknown';
}

export function readChallenge(
  shape: NonNullable<Shape['challenge']>,
  request: InboundHttpRequest,
): { word: string; echo: string } | undefined {
  const query = new URL(request.url).searchParams;
  const marked = Object.entries(shape.when).every(([name, value]) => query.get(name) === value);
  const echo = query.get(shape.echo);
  if (request.method !== 'GET' || !marked || echo === null) return undefined;
  return { word: query.get(shape.word) ?? '', echo };
}
