/** Puts the draft of a profile together, part by part, asking for whatever is not certain. */
import { acceptanceOf, errorsOf } from './errorsOf';
import type { Field } from './fields';
import { Credentials, choice, type Parts, present } from './given';
import { inboundOf } from './inboundOf';
import { type CallPart, isPhone, likeliest, type Part, wordsOf } from './parts';
import { requestOf } from './request';

export function profileOf(parts: Parts): { profile: object; unknown: string[] } {
  const { document, chosen, questions } = parts;
  const unknown: string[] = [];
  const credentials = new Credentials();
  const base = credentials.ask({
    name: 'address',
    label: 'API address',
    help: 'Where its documentation says the API is.',
    pattern: '^https?://[^\\s]+$',
    ...(document.server ? { initial: document.server } : {}),
  });
  const http = { base, ...provesItself(parts, credentials, unknown) };
  const field = (
    key: string,
    group: string,
    label: string,
    fields: readonly Field[],
    part: Part,
    taken: (string | undefined)[] = [],
    must = false,
  ) =>
    questions.ask({
      key,
      group,
      label,
      options: fields.map(choice),
      proposal: likeliest(fields, part, taken)?.path,
      must,
    });
  const request = (part: CallPart, body: [string | undefined, string][]) => {
    const call = chosen[part]?.call;
    if (!call) return { method: 'GET', path: '/' };
    return requestOf(document, call, {
      body: new Map(body.flatMap(([path, template]) => (path ? [[path, template] as const] : []))),
      parameter: (name, fallback, required) => parameterOf(parts, credentials, part, name, fallback, required),
      asked: (name) => credentials.ask({ name, label: labelOf(name), help: '' }),
    });
  };

  const given = chosen.account?.gives ?? [];
  const balance = field('account.balance', 'Account', 'Balance', given, 'balance');
  const account = {
    request: request(chosen.account ? 'account' : 'numbers', []),
    read: present({
      name: field('account.name', 'Account', 'Name', given, 'accountName', [balance]),
      balance,
      currency: field('account.currency', 'Account', 'Currency', given, 'currency'),
    }),
  };
  if (!chosen.account) unknown.push('Which request proves the credentials: the list of numbers is asked for instead.');

  const rows = (chosen.numbers?.gives ?? []).filter(({ path }) => path.includes('[*]'));
  const address = field('numbers.address', 'Numbers', 'Number', rows, 'address', [], true);
  const each = address ? address.slice(0, address.lastIndexOf('[*]') + 3) : '$[*]';
  const inRow = rows
    .filter(({ path }) => path.startsWith(each))
    .map((row) => ({ ...row, path: `$${row.path.slice(each.length)}` }));
  const own = address && `$${address.slice(each.length)}`;
  const remoteId = field('numbers.id', 'Numbers', 'Provider’s id', inRow, 'numberId', [own]) ?? own;
  const inboundUrl = field('numbers.inboundUrl', 'Numbers', 'Inbound URL', inRow, 'inboundUrl', [own, remoteId]);
  if (!chosen.numbers) unknown.push('Which request lists the numbers.');

  const takes = chosen.send?.takes ?? [];
  const sends = (key: string, label: string, part: Part, taken: (string | undefined)[], must = false) =>
    field(`send.${key}`, 'Outbound text', label, takes, part, taken, must);
  const to = sends('to', 'Recipient', 'to', [], true);
  const text = sends('text', 'Text', 'text', [to], true);
  const from = sends('from', 'Sender', 'from', [to, text]);
  const reference = sends('reference', 'Client reference', 'reference', [to, text, from]);
  const receiptUrl = sends('receiptUrl', 'Receipt URL', 'receiptUrl', [to, text, from, reference]);
  const answered = chosen.send?.gives ?? [];
  const sentId = field('send.id', 'Outbound text', 'Provider’s message id', answered, 'messageId', [], true);
  const price = field('send.price', 'Outbound text', 'Price', answered, 'price', [sentId]);
  const currency = price && field('send.currency', 'Outbound text', 'Currency', answered, 'currency');
  const sender = from && isSenderId(takes, from) ? '{{ message.numberId }}' : '{{ message.sender }}';
  const send = {
    request: request('send', [
      [to, '{{ message.recipient }}'],
      [text, '{{ message.text }}'],
      [from, sender],
      [reference, '{{ message.reference }}'],
      [receiptUrl, '{{ message.receiptUrl }}'],
    ]),
    read: { providerMessageId: sentId ?? '$.id', ...present({ price, currency }) },
  };

  const url = field(
    'setInbound.url',
    'Inbound URL',
    'Field with the URL',
    chosen.setInbound?.takes ?? [],
    'inboundUrl',
  );
  const setInbound =
    chosen.setInbound && url ? { request: request('setInbound', [[url, '{{ address.url }}']]) } : undefined;
  const ofNumber = JSON.stringify(setInbound ?? '').includes('number.remoteId');

  const { errors, unknown: refusalsUnknown } = errorsOf(parts, acceptanceOf(parts, sentId));
  const inbound = inboundOf(parts, credentials, unknown);
  unknown.push(...refusalsUnknown);
  unknown.push('The send rate: 1 message a second is assumed.');
  unknown.push('Whether a repeated reference is recognised: it is not assumed, so that no text is sent twice.');

  const name =
    document.title
      .replace(/\b(messaging|gateway|API|REST|HTTP)\b/gi, '')
      .replace(/\s+/g, ' ')
      .trim() || document.title;
  const phones = [...takes, ...rows, ...parts.events.flatMap((event) => event.fields)].filter(isPhone);
  const addressForm = questions.ask({
    key: 'addressForm',
    group: 'Formats',
    label: 'Phone numbers',
    options: [
      ['plus', '+447700900123'],
      ['digits', '447700900123'],
    ],
    proposal: phones.some(writtenBare) && !phones.some(writtenWithPlus) ? 'digits' : 'plus',
    must: true,
  });
  const amounts =
    balance || price
      ? amountsOf(
          parts,
          [...given, ...answered].filter(({ path }) => path === balance || path === price),
          unknown,
        )
      : undefined;
  return {
    unknown,
    profile: present({
      profile: 1,
      id: slug(name),
      name: name.slice(0, 60),
      kind: 'sms-http',
      summary: `Drafted from what ${name} publishes.`.slice(0, 300),
      preconditions: [`An account at ${name}, with its API credentials.`],
      credentials: credentials.list,
      addressForm: addressForm ?? 'plus',
      amounts,
      http,
      errors,
      account,
      numbers: {
        request: request('numbers', []),
        each,
        read: present({ remoteId: remoteId ?? '$.id', address: own ?? '$.number', inboundUrl }),
      },
      setInbound: setInbound && { ...(ofNumber ? {} : { belongsTo: 'account' }), ...setInbound },
      handover: [{ text: `Where ${name} asks for the address of posts, paste this one.`, value: 'inbound-url' }],
      send,
      inbound,
      limits: { pace: 1 },
    }),
  };
}

const writtenWithPlus = ({ values, pattern }: Field) =>
  values.some((value) => /^\+\d{7,}/.test(value)) || /^\^?\\*\+/.test(pattern);
const writtenBare = ({ values }: Field) => values.some((value) => /^[1-9]\d{8,14}$/.test(value));

/** A sender that is named by the provider’s id of it and not by its number. */
const isSenderId = (takes: readonly Field[], path: string) => {
  const field = takes.find((entry) => entry.path === path);
  return field !== undefined && !isPhone(field) && /id$/i.test(field.name);
};

const labelOf = (name: string) => {
  const words = wordsOf(name).join(' ');
  return words.charAt(0).toUpperCase() + words.slice(1);
};

const slug = (name: string) => {
  const made = name
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^[^a-z]+|-+$/g, '')
    .slice(0, 30);
  return made.length > 1 ? made : 'my-provider';
};

/** How requests say who asks, by the document’s security schemes. */
function provesItself({ document, chosen }: Parts, credentials: Credentials, unknown: string[]): object {
  const names = chosen.send?.call.security ?? chosen.account?.call.security ?? [];
  const made: { basic?: object; bearer?: string; headers?: Record<string, string>; query?: Record<string, string> } =
    {};
  for (const name of names) {
    const scheme = document.schemes[name];
    if (!scheme || scheme.type === 'other') {
      unknown.push(`How requests prove who asks: “${name}” is no scheme a draft can fill in.`);
      continue;
    }
    const secret = { secret: true, help: scheme.description };
    if (scheme.type === 'basic')
      made.basic = {
        user: credentials.ask({ name: 'user', label: 'User', help: scheme.description }),
        password: credentials.ask({ name: 'password', label: 'Password', ...secret }),
      };
    else if (scheme.type === 'bearer') made.bearer = credentials.ask({ name: 'token', label: 'Token', ...secret });
    else {
      const value = credentials.ask({ name: 'key', label: labelOf(scheme.name), ...secret });
      if (scheme.type === 'header') made.headers = { [scheme.name]: value };
      else made.query = { [scheme.name]: value };
    }
  }
  if (names.length === 0) unknown.push('How requests prove who asks: the document names no scheme for them.');
  return made;
}

function parameterOf(
  { questions }: Parts,
  credentials: Credentials,
  part: CallPart,
  name: string,
  fallback: unknown,
  required: boolean,
): string | undefined {
  const ofNumber = part === 'setInbound' || part === 'send';
  const plain = fallback === undefined ? undefined : String(fallback);
  const aboutNumber = wordsOf(name).some((word) => ['line', 'number', 'msisdn', 'phone', 'sender'].includes(word));
  const chosen = questions.ask({
    key: `param.${name}`,
    group: 'Parameters of requests',
    label: name,
    options: [
      ['asked', 'Asked for when the provider is connected'],
      ['number', 'The provider’s id of the number'],
      ['address', 'The number itself'],
      ...(plain === undefined ? [] : [['plain', `Always ${plain}`] as const]),
    ],
    proposal: required ? (plain !== undefined ? 'plain' : ofNumber && aboutNumber ? 'number' : 'asked') : undefined,
    must: required,
  });
  if (chosen === 'plain') return plain;
  if (chosen === 'number') return part === 'send' ? '{{ message.numberId }}' : '{{ number.remoteId }}';
  if (chosen === 'address') return part === 'send' ? '{{ message.sender }}' : '{{ number.address }}';
  return chosen === 'asked' || required ? credentials.ask({ name, label: labelOf(name), help: '' }) : undefined;
}

function amountsOf({ document, questions }: Parts, fields: readonly Field[], unknown: string[]): string {
  const said = `${document.prose} ${fields.map(({ name, description }) => `${name} ${description}`).join(' ')}`;
  const proposal = /\b(cents?|pence|penn(y|ies)|minor|smallest unit)/i.test(said)
    ? 'minor'
    : /\bmicro|millionth/i.test(said)
      ? 'micro'
      : undefined;
  const whole =
    fields.length > 0 &&
    fields.every(
      ({ type, values, format }) =>
        type === 'number' && !/double|float/.test(format) && values.every((value) => !value.includes('.')),
    );
  if (!proposal && whole) unknown.push('In which unit amounts are written: whole units are assumed.');
  return (
    questions.ask({
      key: 'amounts',
      group: 'Formats',
      label: 'Amounts',
      options: [
        ['major', '1.25 is one pound twenty-five'],
        ['minor', '125 is one pound twenty-five'],
        ['micro', '1250000 is one pound twenty-five'],
      ],
      proposal: proposal ?? 'major',
      must: true,
    }) ?? 'major'
  );
}
