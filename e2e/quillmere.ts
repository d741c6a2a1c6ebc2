/** A provider nobody has seen before, as docs/connector-profiles.md describes it: other names, shapes, seals and codes,
 * refusals with a status of 200, pence, and times in milliseconds. */
import { createHmac } from 'node:crypto';
import { createServer, type IncomingMessage, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';

export const CALLER = 'mgw4711';
export const KEY = 'k3yForQuillmere0000000xY';
export const LINE = '447700900830';

export interface Quillmere {
  address: string;
  /** Texts sent through it. */
  sent: { person: string; words: string }[];
  /** A person texts the line. Answers the status of the post. */
  personWrites(person: string, words: string): Promise<number>;
  stop(): Promise<void>;
}

export async function startQuillmere(): Promise<Quillmere> {
  const sent: Quillmere['sent'] = [];
  let target = '';
  let slips = 0;

  const server: Server = createServer(async (request, response) => {
    const body = await bodyOf(request);
    const answer = (status: number, content: object) => {
      response.writeHead(status, { 'content-type': 'application/json' });
      response.end(JSON.stringify(content));
    };
    const { 'q-caller': caller, 'q-time': time, 'q-mac': mac } = request.headers;
    if (caller !== CALLER) return answer(200, { ok: 0, why: 'E11', note: 'who is calling?' });
    const expected = createHmac('sha512', KEY)
      .update(`${request.method}\n${request.url}\n${time}\n${body}`)
      .digest('hex');
    if (mac !== expected) return answer(200, { ok: 0, why: 'E12', note: 'the seal is broken' });
    const form = new URLSearchParams(body);
    if (request.url === '/desk') return answer(200, { ok: 1, desk: { title: 'Mossgate', left: '1250', coin: 'EUR' } });
    if (request.url === '/lines') return answer(200, { ok: 1, lines: [{ ref: 7, digits: LINE, target }] });
    if (request.url === '/lines/7/target') {
      target = form.get('to') ?? '';
      return answer(200, { ok: 1 });
    }
    if (request.url === '/out') {
      if (form.get('line') !== '7') return answer(200, { ok: 0, why: 'E41', note: 'not your line' });
      const slip = `Q-${++slips}`;
      sent.push({ person: form.get('person') ?? '', words: form.get('words') ?? '' });
      answer(200, { ok: 1, slip });
      const fate = (state: string) =>
        post(form.get('fates') ?? '', { type: 'fate', slip, tag: form.get('tag') ?? '', fate: state });
      await fate('2');
      await fate('3');
      return;
    }
    answer(200, { ok: 0, why: 'E90', note: 'no such thing' });
  });
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  return {
    address: `http://127.0.0.1:${(server.address() as AddressInfo).port}`,
    sent,
    personWrites: (person, words) =>
      post(target, { type: 'word', slip: `W-${++slips}`, line: LINE, person, words, at: String(Date.now()) }),
    stop: () => new Promise((resolve) => server.close(() => resolve())),
  };
}

async function post(url: string, fields: Record<string, string>): Promise<number> {
  const sorted = Object.keys(fields)
    .sort()
    .map((name) => name + fields[name])
    .join('');
  const seal = createHmac('sha1', KEY)
    .update(url + sorted)
    .digest('base64');
  const answer = await fetch(url, {
    method: 'POST',
    headers: { 'content-type': 'application/x-www-form-urlencoded', 'q-seal': seal },
    body: new URLSearchParams(fields),
  });
  return answer.status;
}

async function bodyOf(request: IncomingMessage): Promise<string> {
  const chunks: Buffer[] = [];
  for await (const chunk of request) chunks.push(chunk as Buffer);
  return Buffer.concat(chunks).toString('utf8');
}
