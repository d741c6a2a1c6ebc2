/** What a provider posts to us: challenges, texts and receipts, as its profile describes them. */
import type { CauseCode } from '../../core/delivery/causes';
import { NamedError } from '../../core/namedError';
import type {
  ConsentItem,
  InboundHttpRequest,
  InboundItem,
  ParsedInbound,
  ReactionItem,
  ReceiptItem,
  TextItem,
  TextState,
  UnreadPart,
} from '../connector';
import type { HttpProfile } from '../profile/schema';
import type { TemplatesShape } from '../profile/templates';
import { type AddressForm, fromProvider } from './addressForm';
import { type Json, nodes } from './jsonPath';
import { unchosen } from './kinds';
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
  const document = readPost(shape, body);
  if (document === undefined) return { ok: false, reason: 'the body is not JSON' };
  const unread: UnreadPart[] = [];
  // Something was there and says nothing: it is no post that was not understood.
  let passedOver = false;
  const each = <Item>(
    what: UnreadPart['what'],
    path: string | undefined,
    read: (entry: Json) => Item | Item[],
  ): Item[] =>
    path === undefined
      ? []
      : nodes(document, path).flatMap((entry) => {
          try {
            const made = read(entry);
            passedOver ||= Array.isArray(made) && made.length === 0;
            return made;
          } catch (error) {
            const unlisted = error instanceof UnlistedWord ? { unlisted: error.word } : {};
            unread.push({ what, reason: (error as Error).message, ...unlisted });
            return [];
          }
        });
  const { texts, receipts, reactions, consents } = shape;
  try {
    const items: InboundItem[] = [
      ...each('text', texts.each, (entry) => parseText(texts, form, entry)),
      ...each('receipt', receipts?.each, (entry) => parseReceipt(receipts as ReceiptShape, entry)),
      ...each('reaction', reactions?.each, (entry) => parseReaction(reactions as ReactionShape, entry)),
      ...each('word', consents?.each, (entry) => parseConsent(consents as ConsentShape, form, entry)),
      ...(templates?.callback
        ? readReviews(templates, document, templates.callback.each).map(
            (review) => ({ kind: 'review', review }) as const,
          )
        : []),
    ];
    const chosen = [
      texts.each,
      receipts?.each,
      reactions?.each,
      consents?.each,
      templates?.callback?.each,
      shape.ignore,
    ];
    for (const { word } of unchosen(
      document,
      chosen.filter((path) => path !== undefined),
    ))
      unread.push({
        what: 'event',
        reason:
          word === undefined
            ? 'an event that says no kind'
            : `an event of the kind "${word}", which is not in the profile`,
        ...(word === undefined ? {} : { unlisted: word }),
      });
    // A place of the words that is wrong is so in every text: such a post is refused, so that it comes again.
    const lost = unread.find(({ what }) => what === 'text');
    if (items.length === 0 && lost) return { ok: false, reason: lost.reason };
    const ignored = passedOver || (shape.ignore !== undefined && nodes(document, shape.ignore).length > 0);
    if (items.length > 0 || ignored || unread.length > 0)
      return { ok: true, items, ...(unread.length > 0 ? { unread } : {}) };
    return { ok: false, reason: `nothing at ${[texts.each, receipts?.each].filter(Boolean).join(' or ')}` };
  } catch (error) {
    return { ok: false, reason: (error as Error).message };
  }
}

/** What was posted, as the paths of the profile look at it; undefined for what is not of that form. */
export function readPost({ format, method }: Pick<Shape, 'format' | 'method'>, body: string): Json | undefined {
  if (format === 'form' || method === 'GET') return parseForm(body);
  const value = parseJson(body);
  return format === 'json-event' && value !== undefined ? [value] : value;
}

type ReceiptShape = NonNullable<Shape['receipts']>;
type ReactionShape = NonNullable<Shape['reactions']>;
type ConsentShape = NonNullable<Shape['consents']>;

/** A word of the provider's that the profile does not list. */
class UnlistedWord extends NamedError {
  static override readonly called = 'UnlistedWord';
  constructor(
    what: 'state' | 'word',
    readonly word: string,
  ) {
    super(`the ${what} "${word}" is not in the profile`);
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

function parseReaction(shape: ReactionShape, entry: Json): (ReactionItem | ReceiptItem)[] {
  const providerMessageId = required(entry, shape.message);
  const sign = (optional(entry, shape.sign) ?? '').trim().slice(0, 32);
  const at = time(entry, shape.at);
  // Nobody feels anything about what they have not read.
  const read = { kind: 'receipt', providerMessageId, state: 'read', said: `felt ${sign}`, at } as const;
  return [...(sign ? [read] : []), { kind: 'reaction', providerMessageId, sign, at }];
}

function parseConsent(shape: ConsentShape, form: AddressForm, entry: Json): ConsentItem {
  const said = required(entry, shape.what);
  const what = Object.hasOwn(shape.words, said) ? shape.words[said] : undefined;
  if (!what) throw new UnlistedWord('word', said);
  return {
    kind: 'consent',
    from: fromProvider(required(entry, shape.from), form),
    to: fromProvider(required(entry, shape.to), form),
    what,
    said,
    at: time(entry, shape.at),
  };
}

function parseReceipt(shape: ReceiptShape, entry: Json): ReceiptItem | [] {
  const said = required(entry, shape.state);
  const code = optional(entry, shape.code);
  const state = Object.hasOwn(shape.states, said) ? shape.states[said] : undefined;
  if (!state) throw new UnlistedWord('state', said);
  if (state === 'nothing') return [];
  return {
    kind: 'receipt',
    providerMessageId: required(entry, shape.providerMessageId),
    reference: optional(entry, shape.reference),
    state,
    cause: state === 'undelivered' ? undeliveredCause(shape.codes, code) : undefined,
    said: code ? `${said} (${code})` : said,
    at: time(entry, shape.at),
  };
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
