/** Three providers nobody here has seen, as their documents describe them: strict about what they are sent, and each with its own way of posting. */
import { createHmac } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { createServer, type IncomingMessage, type ServerResponse } from 'node:http';
import type { AddressInfo } from 'node:net';
import { join } from 'node:path';

export interface Provider {
  address: string;
  sent: { to: string; from: string; text: string }[];
  /** A person texts the line. Answers the status of the post. */
  personWrites(person: string, words: string): Promise<number>;
  /** Posts that the last text arrived. */
  arrived(): Promise<number>;
  /** Where its texts go, for those that are told by hand. */
  hook: string;
  stop(): Promise<void>;
}

export const documentOf = (name: string) => readFileSync(join(import.meta.dirname, name), 'utf8');

async function bodyOf(request: IncomingMessage): Promise<string> {
  const chunks: Buffer[] = [];
  for await (const chunk of request) chunks.push(chunk as Buffer);
  return Buffer.concat(chunks).toString('utf8');
}

type Answers = (request: IncomingMessage, body: string, answer: (status: number, content: unknown) => void) => void;

async function listen(answers: Answers) {
  const server = createServer(async (request: IncomingMessage, response: ServerResponse) => {
    const body = await bodyOf(request);
    answers(request, body, (status, content) => {
      response.writeHead(status, { 'content-type': 'application/json' });
      response.end(JSON.stringify(content));
    });
  });
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  return {
    origin: `http://127.0.0.1:${(server.address() as AddressInfo).port}`,
    stop: () => new Promise<void>((resolve) => server.close(() => resolve())),
  };
}

const post = async (url: string, body: string, headers: Record<string, string>) =>
  (await fetch(url, { method: 'POST', headers, body })).status;

export const LARKRISE = { line: '+447700900881', key: 'lk_9f2c41d7', account: 'acc_m0ssgate', secret: 'whs_3d8a0c' };

export async function startLarkrise(): Promise<Provider> {
  let last = { id: '', reference: '' };
  let ids = 0;
  const seal = (body: string) => ({
    'content-type': 'application/json',
    'larkrise-signature': createHmac('sha256', LARKRISE.secret).update(body).digest('base64'),
  });
  let statusHook = '';
  const { origin, stop } = await listen((request, body, answer) => {
    const problem = (status: number, code: string) =>
      answer(status, { title: code, status, detail: `It is ${code}.`, error_code: code });
    if (request.headers['x-larkrise-key'] !== LARKRISE.key) return problem(401, 'key_invalid');
    const base = `/v2/accounts/${LARKRISE.account}`;
    const path = (request.url ?? '').split('?')[0];
    if (path === base)
      return answer(200, {
        account_id: LARKRISE.account,
        display_name: 'Mossgate',
        credit: { amount: '182.40', currency: 'EUR' },
        status: 'active',
      });
    const line = {
      line_id: 'ln_1',
      number: LARKRISE.line,
      friendly_name: 'Desk',
      inbound_webhook: provider.hook || null,
      created_at: '2026-01-02T03:04:05Z',
    };
    if (path === `${base}/sender-lines`) return answer(200, { data: [line], paging: { next_cursor: null } });
    if (path === `${base}/sender-lines/ln_1` && request.method === 'PATCH') {
      provider.hook = (JSON.parse(body) as { inbound_webhook: string }).inbound_webhook;
      return answer(200, { ...line, inbound_webhook: provider.hook });
    }
    if (path !== `${base}/texts`) return problem(404, 'not_found');
    const text = JSON.parse(body) as {
      from: string;
      recipients: string[];
      content: { type: string; body: string };
      client_reference?: string;
      status_webhook?: string;
    };
    if (text.content?.type !== 'text' || !Array.isArray(text.recipients)) return problem(400, 'recipient_invalid');
    if (text.from !== LARKRISE.line) return problem(403, 'line_not_owned');
    last = { id: `txt_${++ids}`, reference: text.client_reference ?? '' };
    statusHook = text.status_webhook ?? '';
    provider.sent.push({ to: text.recipients[0] ?? '', from: text.from, text: text.content.body });
    answer(202, {
      batch_id: '0f8e2c1a-0000-4000-8000-000000000001',
      texts: [
        { text_id: last.id, recipient: text.recipients[0], segments: 1, price: { amount: '0.0450', currency: 'EUR' } },
      ],
    });
  });
  const provider: Provider = {
    address: `${origin}/v2`,
    sent: [],
    hook: '',
    personWrites: (person, words) => {
      const body = JSON.stringify({
        text_id: `txt_in_${++ids}`,
        event: 'text.received',
        sender: person,
        line: LARKRISE.line,
        content: { type: 'text', body: words },
        received_at: new Date().toISOString(),
      });
      return post(provider.hook, body, seal(body));
    },
    arrived: () => {
      const body = JSON.stringify({
        text_id: last.id,
        event: 'text.status',
        status: 'delivered',
        reason_code: null,
        client_reference: last.reference,
        occurred_at: new Date().toISOString(),
      });
      return post(statusHook, body, seal(body));
    },
    stop,
  };
  return provider;
}

export const PELLOW = { line: '447700900882', token: 'plw-7710', word: 'kestrel-wall' };

export async function startPellow(): Promise<Provider> {
  let ref = 7000;
  let tracking: string | null = null;
  const { origin, stop } = await listen((request, body, answer) => {
    const failed = (no: number, text: string) => answer(200, { outcome: 'failed', failure: { no, text } });
    if (request.headers.authorization !== `Bearer ${PELLOW.token}`) return failed(10, 'Token unknown');
    if (request.url === '/whoami')
      return answer(200, { outcome: 'ok', customer: { label: 'Mossgate', balance: 4250, ccy: 'GBP' } });
    if (request.url === '/numbers')
      return answer(200, { outcome: 'ok', numbers: [{ handle: 12, msisdn: PELLOW.line, rent: 100 }] });
    if (request.url !== '/messages' || request.method !== 'POST') return failed(30, 'No such thing');
    const text = JSON.parse(body) as Record<string, string>;
    if (text.channel !== 'sms' || /\D/.test(text.destination ?? '+')) return failed(21, 'Destination wrong');
    tracking = text.tracking ?? null;
    provider.sent.push({ to: text.destination ?? '', from: text.source ?? '', text: text.payload ?? '' });
    answer(200, { outcome: 'ok', ref: ++ref, cost: 4, ccy: 'GBP' });
  });
  const events = (...list: object[]) =>
    post(provider.hook, JSON.stringify({ batch: 1, events: list }), {
      'content-type': 'application/json',
      'x-pellow-token': PELLOW.word,
    });
  const provider: Provider = {
    address: origin,
    sent: [],
    hook: '',
    personWrites: (person, words) =>
      events({
        kind: 'mo',
        ts: Date.now(),
        ref: ++ref,
        source: person.replace('+', ''),
        destination: PELLOW.line,
        payload: words,
      }),
    arrived: () => events({ kind: 'dlr', ts: Date.now(), ref, tracking, result: 'DELIVRD', err: null }),
    stop,
  };
  return provider;
}

export const SEDGE = { line: '447700900883', user: 'mossgate', password: 'reed-bunting-9' };

export async function startSedge(): Promise<Provider> {
  let id = 100;
  let own = '';
  let reports = '';
  const { origin, stop } = await listen((request, body, answer) => {
    const given = Buffer.from(`${SEDGE.user}:${SEDGE.password}`).toString('base64');
    if (request.headers.authorization !== `Basic ${given}`) return answer(401, {});
    if (request.url === '/api/balance.json')
      return answer(200, { Customer: 'Mossgate', Balance: 12.5, Currency: 'GBP' });
    if (request.url === '/api/shortlist.json') return answer(200, [{ NumberID: 5, Number: SEDGE.line }]);
    const form = new URLSearchParams(body);
    if (request.url !== '/api/submit.json') return answer(404, {});
    if (form.get('Originator') !== SEDGE.line)
      return answer(400, { ErrorCode: 17, ErrorText: 'Originator is not yours' });
    own = form.get('MyID') ?? '';
    reports = form.get('DeliveryURL') ?? '';
    provider.sent.push({
      to: form.get('Recipient') ?? '',
      from: form.get('Originator') ?? '',
      text: form.get('Body') ?? '',
    });
    answer(200, { MessageID: String(++id), Parts: 1 });
  });
  const send = (url: string, fields: Record<string, string>) => {
    const body = new URLSearchParams(fields).toString();
    return post(url, body, {
      'content-type': 'application/x-www-form-urlencoded',
      'x-sedge-sum': createHmac('sha1', SEDGE.password).update(body).digest('hex'),
    });
  };
  const time = () => new Date().toISOString().slice(0, 19).replace('T', ' ');
  const provider: Provider = {
    address: `${origin}/api`,
    sent: [],
    hook: '',
    personWrites: (person, words) =>
      send(provider.hook, {
        Type: 'sms',
        MessageID: String(++id),
        Originator: person.replace('+', ''),
        Recipient: SEDGE.line,
        Body: words,
        Received: time(),
      }),
    arrived: () => send(reports, { Type: 'report', MessageID: String(id), MyID: own, Status: '3', Time: time() }),
    stop,
  };
  return provider;
}

/** What Sedge’s people send along when asked: its posts are in no document. */
export const SEDGE_SAMPLES = {
  text: sealed(
    'Type=sms&MessageID=81&Originator=447700900305&Recipient=447700900883&Body=Is+the+lock+open%3F&Received=2026-11-02+08%3A15%3A00',
  ),
  report: sealed('Type=report&MessageID=79&MyID=a-1&Status=3&Time=2026-11-02+08%3A16%3A00'),
};

function sealed(body: string): string {
  const sum = createHmac('sha1', SEDGE.password).update(body).digest('hex');
  return `Content-Type: application/x-www-form-urlencoded\nX-Sedge-Sum: ${sum}\n\n${body}`;
}
