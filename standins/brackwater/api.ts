/** Brackwater's HTTP API, version 2. Errors are `{ problem: { code, text } }`. */
import { type Context, Hono } from 'hono';
import { now } from '../clock';
import { during, pause, rest } from '../underWay';
import type { BrackwaterAccount, BrackwaterText } from './accounts';
import type { Brackwater, SendRequest } from './brackwater';

/** An answer is held back for its reports no longer than this, in milliseconds. */
const MOST_WAITED = 5000;

type Env = { Variables: { account: BrackwaterAccount } };

export function brackwaterApi(brackwater: Brackwater): Hono<Env> {
  const api = new Hono<Env>();

  api.use(async (c, next) => {
    if (brackwater.faults.hangs) return new Promise<Response>(() => undefined);
    if (brackwater.faults.portal)
      return c.html('<!doctype html><title>Guest network</title><h1>Sign in to the guest network</h1>', 403);
    if (brackwater.faults.answers500) return problem(c, 500, 'ours', 'Something broke on our side');
    if (brackwater.faults.slowAnswers) await pause(brackwater.faults.slowAnswers);
    const [id, secret] = basicPair(c.req.header('authorization'));
    const account = brackwater.account(id);
    if (!account) return refuse(c, brackwater, id || '?', 401, 'account-unknown', 'No account has this id');
    if (account.secret !== secret)
      return refuse(c, brackwater, id, 401, 'secret-wrong', 'The secret does not belong to this account');
    if (brackwater.faults.secretEnded || (account.secretEnds && Date.parse(account.secretEnds) <= now()))
      return refuse(c, brackwater, id, 401, 'secret-ended', 'This secret has ended');
    c.set('account', account);
    await next();
    brackwater.note({ account: id, kind: 'api', summary: `${c.req.method} ${c.req.path}`, status: c.res.status });
  });

  api.get('/account', (c) => {
    const account = c.get('account');
    return c.json({
      account: {
        id: account.id,
        name: account.name,
        credit: { amount: brackwater.creditOf(account) / 1e6, currency: account.currency },
        regions: brackwater.regionsOf(account),
        trial: brackwater.onTrial(account),
        verified_phones: account.verifiedPhones,
        registrations: account.registrations,
        secret_ends: account.secretEnds,
      },
    });
  });

  api.post('/account/phones', async (c) => {
    const { phone = '' } = (await c.req.json().catch(() => ({}))) as { phone?: string };
    if (!/^\+[1-9]\d{6,14}$/.test(phone)) return problem(c, 400, 'number-malformed', `"${phone}" is not a phone`);
    brackwater.startPhone(c.get('account'), phone);
    return c.json({ sent: true }, 202);
  });

  api.post('/account/phones/confirm', async (c) => {
    const { phone = '', code = '' } = (await c.req.json().catch(() => ({}))) as { phone?: string; code?: string };
    if (!brackwater.confirmPhone(c.get('account'), phone, code))
      return problem(c, 400, 'code-wrong', 'This is not the code');
    return c.json({ verified_phones: c.get('account').verifiedPhones });
  });

  for (const step of ['brand', 'use'] as const) {
    api.post(`/registrations/${step}`, async (c) => {
      const body = (await c.req.json().catch(() => ({}))) as { country?: string; name?: string; details?: string };
      if (!/^[A-Z]{2}$/.test(body.country ?? '')) return problem(c, 400, 'country-unknown', 'country is two letters');
      const refusal = brackwater.register(c.get('account'), step, body.country ?? '', body.details ?? '');
      if (refusal) return problem(c, refusal.status, refusal.code, refusal.text);
      return c.json({ registrations: c.get('account').registrations }, 202);
    });
  }

  api.get('/numbers/offers', (c) =>
    c.json({
      offers: brackwater.search(c.req.query('country') ?? '', c.req.query('area') ?? '', c.req.query('digits') ?? ''),
    }),
  );

  api.post('/numbers', async (c) => {
    const { offer = '' } = (await c.req.json().catch(() => ({}))) as { offer?: string };
    const result = brackwater.claim(c.get('account'), offer);
    return 'status' in result ? problem(c, result.status, result.code, result.text) : c.json({ number: result }, 201);
  });

  api.delete('/numbers/:handle', (c) =>
    brackwater.release(c.get('account'), c.req.param('handle'))
      ? c.body(null, 204)
      : problem(c, 404, 'number-unknown', 'This account has no such number'),
  );

  api.get('/numbers', (c) => c.json({ numbers: c.get('account').numbers }));

  api.put('/numbers/:handle/inbound', async (c) => {
    const number = c.get('account').numbers.find((entry) => entry.handle === c.req.param('handle'));
    if (!number) return problem(c, 404, 'number-unknown', 'This account has no such number');
    const wanted = (await c.req.json().catch(() => ({}))) as Partial<typeof number.inbound>;
    if (wanted.method !== 'POST' && wanted.method !== 'GET')
      return problem(c, 400, 'method-unknown', 'method is POST or GET');
    for (const address of [wanted.primary, wanted.fallback]) {
      if (address && !/^https?:\/\//.test(address))
        return problem(c, 400, 'address-malformed', 'An address starts with http:// or https://');
    }
    number.inbound = { method: wanted.method, primary: wanted.primary ?? '', fallback: wanted.fallback ?? '' };
    return c.json({ number });
  });

  api.post('/texts', async (c) => {
    const request = await readSend(c);
    if (!request) return problem(c, 400, 'body-unreadable', 'Send JSON or a form');
    const result = brackwater.send(c.get('account'), request);
    if ('status' in result) {
      if (result.status === 429) c.header('Retry-After', '1');
      return problem(c, result.status, result.code, result.text);
    }
    // The answer waits for its own reports, but not for ones that nobody takes.
    if (brackwater.faults.reportsBeforeAnswer) await during(() => Promise.race([result.reported, rest(MOST_WAITED)]));
    return c.json(
      { text: textJson(result.text, c.get('account').currency), repeated: result.repeated },
      result.repeated ? 200 : 201,
    );
  });

  api.get('/texts/:id', (c) => {
    const account = c.get('account');
    const text = brackwater.texts.find((entry) => entry.id === c.req.param('id') && entry.account === account.id);
    return text ? c.json({ text: textJson(text, account.currency) }) : problem(c, 404, 'text-unknown', 'No such text');
  });

  return api;
}

function textJson(text: BrackwaterText, currency: string) {
  const { account: _, price, reportTo, ...rest } = text;
  return { ...rest, report_to: reportTo, price: { amount: price / 1e6, currency } };
}

async function readSend(c: Context): Promise<SendRequest | undefined> {
  const type = c.req.header('content-type') ?? '';
  try {
    if (type.startsWith('application/json')) return asSend((await c.req.json()) as Record<string, unknown>);
    if (type.startsWith('application/x-www-form-urlencoded')) return asSend(await c.req.parseBody());
  } catch {
    // Answered as unreadable.
  }
  return undefined;
}

function asSend(body: Record<string, unknown>): SendRequest {
  const text = (name: string) => (typeof body[name] === 'string' ? (body[name] as string) : '');
  return {
    from: text('from'),
    to: text('to'),
    text: text('text'),
    file: asFile(body.file),
    reference: text('reference') || undefined,
    valid_seconds: Number(body.valid_seconds) > 0 ? Number(body.valid_seconds) : undefined,
    report_to: text('report_to') || undefined,
  };
}

function asFile(value: unknown): SendRequest['file'] {
  if (typeof value !== 'object' || value === null) return undefined;
  const { address, type } = value as Record<string, unknown>;
  return { address: String(address ?? ''), type: String(type ?? '') };
}

function basicPair(header: string | undefined): [string, string] {
  const match = /^Basic (.+)$/.exec(header ?? '');
  const pair = match?.[1] ? Buffer.from(match[1], 'base64').toString('utf8') : '';
  const colon = pair.indexOf(':');
  return colon < 0 ? ['', ''] : [pair.slice(0, colon), pair.slice(colon + 1)];
}

function refuse(c: Context, brackwater: Brackwater, account: string, status: 401, code: string, text: string) {
  brackwater.note({ account, kind: 'api', summary: `${c.req.method} ${c.req.path}: ${code}`, status });
  return problem(c, status, code, text);
}

function problem(c: Context, status: 400 | 401 | 402 | 403 | 404 | 409 | 429 | 500, code: string, text: string) {
  return c.json({ problem: { code, text } }, status);
}
