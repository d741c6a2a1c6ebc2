/** What is posted to us: which event brings a text and which says what became of one, where each value stands, and how a post proves itself. */
import type { CauseCode } from '../../core/delivery/causes';
import { cause } from '../../core/delivery/causes';
import { eachOf, isRead, type PostEvent } from './events';
import { type Credentials, choice, type Parts, present } from './given';
import { likeliest, meaningOf, type Part, wordsOf } from './parts';
import { ALGORITHMS, ENCODINGS, findSeal, SIGNED } from './seal';

const TEXTS = 'Inbound text';
const RECEIPTS = 'Delivery receipts';
const PROOF = 'Webhook verification';

const LOST: readonly CauseCode[] = [
  'handset-unreachable',
  'number-not-in-service',
  'message-expired',
  'carrier-refused',
  'content-refused',
];

export function inboundOf(parts: Parts, credentials: Credentials, unknown: string[]): object {
  const { questions, events } = parts;
  const offered = events.map(({ key, label }): [string, string] => [key, label]);
  const pick = (key: string, group: string, label: string, rate: (event: PostEvent) => number, must: boolean) => {
    const best = events.map((event) => ({ event, points: rate(event) })).sort((a, b) => b.points - a.points)[0];
    const chosen = questions.ask({
      key,
      group,
      label,
      options: offered,
      proposal: best && best.points > 0 ? best.event.key : undefined,
      must,
    });
    return events.find((event) => event.key === chosen);
  };
  const text = pick('in.event', TEXTS, 'Event', textPoints, true);
  const receipt = pick(
    'receipt.event',
    RECEIPTS,
    'Event',
    (event) => (event === text ? 0 : receiptPoints(event)),
    false,
  );
  const field = (
    event: PostEvent | undefined,
    key: string,
    group: string,
    label: string,
    part: Part,
    taken: (string | undefined)[],
    must = false,
  ) =>
    event &&
    questions.ask({
      key,
      group,
      label,
      options: event.fields.map(choice),
      proposal: likeliest(event.fields, part, [event.mark?.path, ...taken])?.path,
      must,
    });

  const words = field(text, 'in.text', TEXTS, 'Text', 'text', [], true);
  const to = field(text, 'in.to', TEXTS, 'Recipient (our number)', 'to', [words], true);
  const from = field(text, 'in.from', TEXTS, 'Sender', 'from', [words, to], true);
  const id = field(text, 'in.id', TEXTS, 'Provider’s message id', 'messageId', [words, to, from], true);
  const at = field(text, 'in.at', TEXTS, 'Time', 'at', [words, to, from, id]);
  if (!text) unknown.push('What a text that comes in looks like: add a sample of such a post.');

  const state = field(receipt, 'receipt.state', RECEIPTS, 'State', 'state', [], true);
  const of = field(receipt, 'receipt.id', RECEIPTS, 'Provider’s message id', 'messageId', [state], true);
  const reference = field(receipt, 'receipt.reference', RECEIPTS, 'Client reference', 'reference', [state, of]);
  const code = field(receipt, 'receipt.code', RECEIPTS, 'Failure code', 'code', [state, of, reference]);
  const when = field(receipt, 'receipt.at', RECEIPTS, 'Time', 'at', [state, of, reference, code]);
  if (!receipt) unknown.push('What a receipt looks like: without one nobody learns whether a text arrived.');

  const read = isRead([text, receipt]);
  return present({
    format: read,
    ...proofOf(parts, credentials, unknown),
    texts: {
      each: text ? eachOf(text, read, receipt?.base === text.base ? words : undefined) : '$',
      providerMessageId: id ?? '$.id',
      from: from ?? '$.from',
      to: to ?? '$.to',
      text: words ?? '$.text',
      ...present({ at }),
    },
    receipts:
      receipt && state && of
        ? {
            each: eachOf(receipt, read, state),
            providerMessageId: of,
            ...present({ reference }),
            state,
            ...present({ code, at: when }),
            states: statesOf(parts, receipt, state, unknown),
            codes: codesOf(parts, receipt, code),
          }
        : undefined,
  });
}

const has = ({ fields, mark }: PostEvent, part: Part, taken: (string | undefined)[] = []) =>
  likeliest(fields, part, [mark?.path, ...taken])?.path;

function textPoints(event: PostEvent): number {
  const words = has(event, 'text');
  const to = has(event, 'to', [words]);
  return words && to && has(event, 'from', [words, to])
    ? 3 +
        (has(event, 'messageId', [words]) ? 1 : 0) -
        (event.mark && /status|report|dlr/i.test(event.mark.value) ? 3 : 0)
    : 0;
}

function receiptPoints(event: PostEvent): number {
  const state = has(event, 'state');
  return state && has(event, 'messageId', [state])
    ? 3 + (has(event, 'code', [state]) ? 1 : 0) - (has(event, 'text', [state]) ? 1 : 0)
    : 0;
}

function statesOf({ questions }: Parts, event: PostEvent, state: string, unknown: string[]): Record<string, string> {
  const values = event.fields.find(({ path }) => path === state)?.values ?? [];
  const known: Record<string, string> = {};
  for (const value of values.slice(0, 40)) {
    const means = questions.ask({
      key: `state.${value}`,
      group: RECEIPTS,
      label: `“${value}” means`,
      options: [
        ['sent', 'sent'],
        ['delivered', 'delivered'],
        ['undelivered', 'undelivered'],
        ['read', 'read'],
        ['nothing', 'ignored'],
      ],
      proposal: meaningOf(value),
    });
    if (means) known[value] = means;
  }
  const open = values.filter((value) => !Object.hasOwn(known, value));
  if (open.length > 0)
    unknown.push(
      `What the states ${open.slice(0, 8).join(', ')} mean: a receipt with one is set aside and asked about.`,
    );
  else if (values.length === 0) unknown.push('Which states there are: each is asked about when it first comes.');
  return known;
}

function codesOf({ questions }: Parts, event: PostEvent, code: string | undefined): Record<string, string> {
  const field = event.fields.find(({ path }) => path === code);
  const known: Record<string, string> = {};
  for (const value of (field?.values ?? []).slice(0, 30)) {
    const means = questions.ask({
      key: `reason.${value}`,
      group: RECEIPTS,
      label: `Failure code “${value}” means`,
      options: LOST.map((name) => [name, cause(name).title]),
      proposal: reasonOf(value),
    });
    if (means) known[value] = means;
  }
  return known;
}

function reasonOf(code: string): CauseCode | undefined {
  const said = wordsOf(code).join(' ');
  if (/absent|unreachable|switched off|handset off/.test(said)) return 'handset-unreachable';
  if (/unknown subscriber|no such number|invalid number|not in service/.test(said)) return 'number-not-in-service';
  if (/expired|too old/.test(said)) return 'message-expired';
  if (/blocked by network|refused by (network|carrier)|carrier refused/.test(said)) return 'carrier-refused';
  return undefined;
}

const USUAL =
  /^(host|user-agent|content-.*|accept.*|connection|date|x-forwarded-.*|transfer-encoding|via|traceparent|x-request-id)$/;

function proofOf({ document, samples, questions, secret }: Parts, credentials: Credentials, unknown: string[]): object {
  const described = document.posts.flatMap(({ parameters }) =>
    parameters.filter((parameter) => parameter.in === 'header'),
  );
  const posts = samples.filter(({ of }) => of === 'post');
  const headers = [
    ...new Set([
      ...described.map(({ name }) => name.toLowerCase()),
      ...posts.flatMap((post) => Object.keys(post.headers)),
    ]),
  ].filter((name) => !USUAL.test(name));
  const found = secret ? posts.map((post) => findSeal(post, secret)).find((seal) => seal !== undefined) : undefined;
  const seal = found && !('token' in found) ? found : undefined;
  if (secret && posts.some((post) => Object.keys(post.headers).length > 0) && !found)
    unknown.push('How the sample was sealed: no usual way fits it with this secret.');
  const likely = headers.find((name) => /sign|seal|hash|hmac|mac|digest|sum/.test(name));
  const tokenLike = headers.find((name) => /token|key|word|auth|secret/.test(name));
  const proposal = seal
    ? `seal ${seal.header}`
    : found && 'token' in found
      ? `token ${found.token}`
      : likely
        ? `seal ${likely}`
        : tokenLike
          ? `token ${tokenLike}`
          : 'none';
  const chosen = questions.ask({
    key: 'proof',
    group: PROOF,
    label: 'Method',
    options: [
      ...headers.flatMap((name) => [
        [`token ${name}`, `Token in the header ${name}`] as const,
        [`seal ${name}`, `Signature (HMAC) in the header ${name}`] as const,
      ]),
      ['none', 'None'],
    ],
    proposal,
    must: true,
  });
  const [kind, header = ''] = (chosen ?? 'none').split(' ');
  if (kind === 'none') {
    unknown.push('How a post proves that it comes from the provider: nothing is checked.');
    return {};
  }
  const secrets = credentials.list.filter((credential) => credential.secret);
  const which = questions.ask({
    key: 'proof.key',
    group: PROOF,
    label: 'Secret',
    options: [['own', 'A separate one'], ...secrets.map(({ name, label }) => [name, label] as const)],
    proposal: 'own',
    must: true,
  });
  const key =
    which && which !== 'own'
      ? `{{ credentials.${which} }}`
      : credentials.ask({
          name: 'webhookSecret',
          label: 'Webhook secret',
          help: 'The secret its webhooks are signed or marked with.',
          secret: true,
        });
  if (kind === 'token') return { token: { header, equals: key } };
  const said = described.find(({ name }) => name.toLowerCase() === header)?.description ?? '';
  if (!seal) unknown.push('Exactly how posts are sealed was not tried: add a sample with its headers and the secret.');
  const ask = (part: string, label: string, options: readonly (readonly [string, string])[], value: string) =>
    questions.ask({ key: `seal.${part}`, group: PROOF, label, options, proposal: value, must: true }) ?? value;
  const time = ask(
    'time',
    'Timestamp header',
    [['none', 'None'], ...headers.filter((name) => name !== header).map((name) => [name, name] as const)],
    seal?.timestampHeader ?? 'none',
  );
  return {
    signature: present({
      header,
      timestampHeader: time === 'none' ? undefined : time,
      algorithm: ask(
        'algorithm',
        'Algorithm',
        ALGORITHMS.map((name) => [name, name]),
        seal?.algorithm ??
          ALGORITHMS.find((name) => new RegExp(name.replace('sha', 'sha-?'), 'i').test(said)) ??
          'sha256',
      ),
      encoding: ask(
        'encoding',
        'Encoding',
        ENCODINGS.map((name) => [name, name]),
        seal?.encoding ?? (/base64/i.test(said) ? 'base64' : 'hex'),
      ),
      prefix: seal?.prefix || undefined,
      key,
      signed: ask(
        'signed',
        'Signed content',
        SIGNED.map((template) => [
          template,
          template.replaceAll('\n', '⏎').replaceAll('{{ ', '').replaceAll(' }}', ' ').trim(),
        ]),
        seal?.signed ?? '{{ body }}',
      ),
    }),
  };
}
