/** Something that stands on the way between two machines: passes everything on until it is told to do otherwise. */
import { createServer, type IncomingHttpHeaders, type Server } from 'node:http';

export interface Passing {
  method: string;
  path: string;
  headers: Record<string, string>;
  body: string;
}

export interface Answered {
  status: number;
  headers: Record<string, string>;
  body: string;
}

/** What it does with a request: an answer, or nothing any more. `on` passes a request on and returns the answer. */
export type Conduct = (
  request: Passing,
  on: (changed?: Partial<Passing>) => Promise<Answered>,
) => Promise<Answered | 'hang up' | 'never answer'>;

export interface Middle {
  url: string;
  /** Where it passes things on to. */
  leadTo(origin: string): void;
  /** What it does from now on; without a conduct it passes everything on. */
  become(conduct?: Conduct): void;
  close(): Promise<void>;
}

const HOP_BY_HOP = new Set(['connection', 'keep-alive', 'transfer-encoding', 'content-length', 'host', 'expect']);

export async function standBetween(): Promise<Middle> {
  let origin = '';
  let conduct: Conduct | undefined;
  const server: Server = createServer(async (incoming, outgoing) => {
    outgoing.sendDate = false;
    const chunks: Buffer[] = [];
    try {
      for await (const chunk of incoming) chunks.push(chunk as Buffer);
      const request: Passing = {
        method: incoming.method ?? 'GET',
        path: incoming.url ?? '/',
        headers: plain(incoming.headers),
        body: Buffer.concat(chunks).toString('utf8'),
      };
      const on = (changed: Partial<Passing> = {}) => passOn(origin, { ...request, ...changed });
      const answer = conduct ? await conduct(request, on) : await on();
      if (answer === 'hang up') return void incoming.socket.destroy();
      if (answer === 'never answer') return;
      outgoing.writeHead(answer.status, answer.headers).end(answer.body);
    } catch {
      incoming.socket.destroy();
    }
  });
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  const { port } = server.address() as { port: number };
  return {
    url: `http://127.0.0.1:${port}`,
    leadTo: (to) => {
      origin = to;
    },
    become: (wanted) => {
      conduct = wanted;
    },
    close: async () => {
      server.closeAllConnections();
      await new Promise((resolve) => server.close(resolve));
    },
  };
}

async function passOn(origin: string, { method, path, headers, body }: Passing): Promise<Answered> {
  const answer = await fetch(origin + path, {
    method,
    headers,
    redirect: 'manual',
    ...(['GET', 'HEAD'].includes(method) ? {} : { body }),
  });
  const kept = [...answer.headers].filter(([name]) => !HOP_BY_HOP.has(name) && name !== 'content-encoding');
  return { status: answer.status, headers: Object.fromEntries(kept), body: await answer.text() };
}

function plain(headers: IncomingHttpHeaders): Record<string, string> {
  return Object.fromEntries(
    Object.entries(headers).flatMap(([name, value]) =>
      value === undefined || HOP_BY_HOP.has(name) ? [] : [[name, Array.isArray(value) ? value.join(', ') : value]],
    ),
  );
}

/** A page for people, as portals and firewalls give it. */
export const page = (status: number, words: string, server = 'gate'): Answered => ({
  status,
  headers: { 'content-type': 'text/html; charset=utf-8', server },
  body: `<!doctype html><html><head><title>${words}</title></head><body><h1>${words}</h1></body></html>`,
});

export const json = (status: number, body: object): Answered => ({
  status,
  headers: { 'content-type': 'application/json' },
  body: JSON.stringify(body),
});

const known = new Set<string>();

/** The answer of a provider that takes a text and knows of it afterwards, whatever becomes of it. */
export function takes(id: string): Answered {
  known.add(id);
  return json(201, { text: { id, price: { amount: 0.038, currency: 'GBP' } }, repeated: false });
}

/** Does so with texts alone, answers for those it took as a provider does that lost them, and passes on everything else. */
export const ofTextsAlone =
  (conduct: Conduct): Conduct =>
  (request, on) => {
    const id = /\/texts\/([^/?]+)$/.exec(request.path)?.[1];
    if (request.method === 'GET' && id && known.has(id))
      return Promise.resolve(json(200, { text: { id, state: 'passed-on' } }));
    return request.method === 'POST' && request.path.endsWith('/texts') ? conduct(request, on) : on();
  };
