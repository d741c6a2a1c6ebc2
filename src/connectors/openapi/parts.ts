/** Which of a document's fields and calls likely play which part: a proposal, which whoever knows the provider corrects. */
import type { Described } from './document';
import type { Field } from './fields';

/** What is looked for, by the words its name may have; earlier words weigh more. */
interface Looks {
  words: readonly string[];
  /** Words that speak against it. */
  not?: readonly string[];
  /** Adds to the score of a field that is fit to be it; a negative number for one that is not. */
  fits?: (field: Field) => number;
}

const PHONE = /^\+?[1-9]\d{6,14}$/;
export const isPhone = (field: Field): boolean =>
  field.values.some((value) => PHONE.test(value) && value.length >= 8) || /\[1-9\]/.test(field.pattern);
const isWhen = (field: Field): boolean =>
  field.format === 'date-time' ||
  field.values.some((value) => /^\d{4}-\d\d-\d\d[T ]/.test(value) || /^1\d{9,12}$/.test(value));
const isAddress = (field: Field): boolean =>
  /^ur[il]/.test(field.format) || field.values.some((value) => /^https?:/.test(value));
const phone = (field: Field) =>
  isPhone(field) ? 2 : isWhen(field) || isAddress(field) || field.type === 'truth' ? -4 : 0;
const plain = (field: Field) =>
  field.closed || isPhone(field) || isWhen(field) || isAddress(field) || field.type === 'truth' ? -3 : 0;
const id = (field: Field) => (isPhone(field) || isWhen(field) || isAddress(field) || field.closed ? -4 : 0);
const amount = (field: Field) =>
  field.type === 'number' || field.values.some((value) => /^-?\d+(\.\d+)?$/.test(value))
    ? 1
    : field.type === 'text'
      ? -0.5
      : -2;

export const LOOKS = {
  to: {
    words: [
      'recipient',
      'recipients',
      'destination',
      'to',
      'dest',
      'receiver',
      'receivers',
      'target',
      'msisdn',
      'phone',
      'line',
      'number',
      'mobile',
    ],
    not: ['from', 'sender', 'url', 'webhook'],
    fits: phone,
  },
  from: {
    words: ['originator', 'sender', 'source', 'from', 'origin', 'caller', 'person', 'line', 'number', 'msisdn'],
    not: ['to', 'recipient', 'destination'],
    fits: phone,
  },
  text: {
    words: ['text', 'body', 'payload', 'words', 'content', 'message', 'msg'],
    not: ['id', 'type', 'ref', 'status', 'format'],
    fits: plain,
  },
  messageId: {
    words: ['messageid', 'textid', 'id', 'ref', 'uuid', 'handle', 'slip', 'sid', 'reference', 'message'],
    not: ['batch', 'account', 'client', 'my', 'custom', 'tracking', 'line', 'customer', 'user'],
    fits: id,
  },
  reference: {
    words: ['reference', 'tracking', 'correlation', 'client', 'custom', 'external', 'my', 'tag', 'own'],
    not: ['url', 'webhook'],
    fits: id,
  },
  receiptUrl: {
    words: ['status', 'receipt', 'delivery', 'report', 'dlr', 'notify', 'callback', 'webhook'],
    not: ['inbound', 'reply'],
    fits: (field: Field) => (isAddress(field) || /ur[il]|webhook|callback|address/i.test(field.name) ? 2 : -6),
  },
  inboundUrl: {
    words: ['inbound', 'incoming', 'webhook', 'mo', 'reply', 'hook', 'target', 'callback', 'url'],
    not: ['status', 'delivery'],
    fits: (field: Field) => (isAddress(field) || /ur[il]|webhook|callback|hook/i.test(field.name) ? 2 : -6),
  },
  numberId: {
    words: ['numberid', 'lineid', 'id', 'handle', 'ref', 'uuid', 'sid'],
    not: ['account', 'customer'],
    fits: id,
  },
  address: { words: ['number', 'msisdn', 'line', 'phone', 'address', 'digits', 'e164'], not: ['id'], fits: phone },
  state: {
    words: ['status', 'state', 'result', 'fate', 'outcome'],
    not: ['code', 'url'],
    fits: (field: Field) => (isPhone(field) || isWhen(field) ? -4 : field.values.length > 1 ? 1 : 0),
  },
  code: {
    words: ['reason', 'code', 'err', 'error', 'because', 'cause', 'no', 'why'],
    not: ['text', 'message', 'country'],
    fits: (field: Field) => (isPhone(field) || isWhen(field) ? -4 : 0),
  },
  said: {
    words: ['detail', 'message', 'text', 'description', 'note', 'words', 'title', 'reason'],
    not: ['code', 'type'],
    fits: plain,
  },
  at: {
    words: ['occurred', 'received', 'timestamp', 'ts', 'time', 'at', 'date', 'when'],
    fits: (field: Field) => (isWhen(field) ? 3 : isPhone(field) ? -4 : 0),
  },
  accountName: {
    words: ['name', 'label', 'title', 'customer', 'company', 'display'],
    not: ['id', 'balance'],
    fits: plain,
  },
  balance: { words: ['balance', 'credit', 'left', 'funds', 'amount'], not: ['currency', 'name'], fits: amount },
  price: { words: ['price', 'cost', 'charge', 'amount', 'fee'], not: ['currency'], fits: amount },
  currency: { words: ['currency', 'ccy', 'coin'], fits: () => 0 },
} as const satisfies Record<string, Looks>;

export type Part = keyof typeof LOOKS;

/** The words of a name: `inboundWebhook`, `inbound_webhook` and `InboundWebhook` have the same two. */
export function wordsOf(name: string): string[] {
  return name
    .replace(/([a-z0-9])([A-Z])/g, '$1 $2')
    .replace(/([A-Z]+)([A-Z][a-z])/g, '$1 $2')
    .toLowerCase()
    .split(/[^a-z0-9]+/)
    .filter(Boolean);
}

/** How well a field fits a part; nothing is proposed at zero or less. The last name of its path counts most. */
function score(field: Field, part: Part): number {
  const { words, not = [], fits = () => 0 }: Looks = LOOKS[part];
  const own = wordsOf(field.name);
  const around = wordsOf(field.path).filter((word) => !own.includes(word));
  const weight = (word: string) => {
    const at = words.indexOf(word);
    return at < 0 ? 0 : 3 - (2 * at) / words.length;
  };
  const joined = weight(own.join(''));
  const named = Math.max(joined, ...own.map(weight), 0);
  const near = Math.max(...around.map(weight), 0) * 0.6;
  if (named === 0 && near === 0) return fits(field) > 1 ? 0.5 : 0;
  const against = own.some((word) => not.includes(word)) && joined === 0 ? 2.5 : 0;
  return Math.max(named, near) + near * 0.1 + fits(field) - against + (own.length === 1 ? 0.2 : 0);
}

/** The field that fits best; undefined where none does. Earlier ones win a tie. */
export function likeliest(
  fields: readonly Field[],
  part: Part,
  taken: readonly (string | undefined)[] = [],
): Field | undefined {
  const rated = fields
    .filter(({ path }) => !taken.includes(path))
    .map((field) => ({ field, points: score(field, part) }))
    .sort((a, b) => b.points - a.points);
  return rated[0] && rated[0].points > 0.9 ? rated[0].field : undefined;
}

export const CALLS = ['account', 'numbers', 'send', 'setInbound'] as const;
export type CallPart = (typeof CALLS)[number];

/** The fields of what a call takes and of its best answer. */
export interface CallFields {
  call: Described;
  takes: Field[];
  gives: Field[];
}

/** The call that likely does something; undefined where none looks like it. */
export function likeliestCall(calls: readonly CallFields[], part: CallPart): CallFields | undefined {
  const rated = calls
    .map((entry) => ({ entry, points: callScore(entry, part) }))
    .sort((a, b) => b.points - a.points || a.entry.call.path.length - b.entry.call.path.length);
  return rated[0] && rated[0].points >= 3 ? rated[0].entry : undefined;
}

function callScore({ call, takes, gives }: CallFields, part: CallPart): number {
  const named = new Set([...wordsOf(call.path.replace(/\{[^}]*\}/g, '')), ...wordsOf(call.summary)]);
  const says = (...words: string[]) => words.filter((word) => named.has(word)).length;
  const isList = gives.some(({ path }) => path.includes('[*]'));
  const inItems = gives.filter(({ path }) => path.includes('[*]'));
  if (part === 'send') {
    if (call.method !== 'POST') return 0;
    return (
      (likeliest(takes, 'to') ? 2 : -3) +
      (likeliest(takes, 'text') ? 2 : -3) +
      says('send', 'submit', 'message', 'messages', 'text', 'texts', 'sms') * 0.5
    );
  }
  if (part === 'account') {
    if (call.method !== 'GET' || isList) return 0;
    return (
      (likeliest(gives, 'balance') ? 2.5 : 0) +
      (likeliest(gives, 'accountName') ? 1 : 0) +
      says('account', 'balance', 'me', 'whoami', 'credit', 'profile', 'money', 'desk') +
      (likeliest(gives, 'text') && says('message', 'messages') ? -3 : 0)
    );
  }
  if (part === 'numbers') {
    if (call.method !== 'GET' || !isList) return 0;
    return (
      (likeliest(inItems, 'address') && inItems.some(isPhone) ? 3 : 0) +
      says('number', 'numbers', 'lines', 'line', 'senders', 'rented') -
      says('message', 'messages', 'available', 'search', 'history') * 2
    );
  }
  if (!['POST', 'PUT', 'PATCH'].includes(call.method) || likeliest(takes, 'text')) return 0;
  return (
    (likeliest(takes, 'inboundUrl') ? 2.5 : -3) +
    says('number', 'numbers', 'lines', 'line', 'inbound', 'webhook', 'hook', 'target') * 0.7
  );
}

/** What a provider's word for a state likely means; undefined where that is not plain. */
export function meaningOf(word: string): 'sent' | 'delivered' | 'undelivered' | 'read' | 'nothing' | undefined {
  const plainWord = wordsOf(word).join(' ');
  if (/^(un|not |non )|undeliv|fail|reject|expire|lost|bounce|invalid|blocked|cancel|dead/.test(plainWord))
    return 'undelivered';
  if (/deliv|arrived|received by/.test(plainWord)) return 'delivered';
  if (/^(read|seen|displayed|opened)$/.test(plainWord)) return 'read';
  if (/^sent|sent to|passed on|forwarded|submitted|dispatched/.test(plainWord)) return 'sent';
  if (/queue|accept|acceptd|pending|buffered|scheduled|created|processing|enroute/.test(plainWord)) return 'nothing';
  return undefined;
}
