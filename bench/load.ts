/** A bounded load on loopback: so many requests, so many at once, over kept connections. */
import { Agent, request } from 'node:http';

export interface Shot {
  url: string;
  headers: Record<string, string>;
  body: string;
}

/** Sends `total` requests made by `shot`, `atOnce` in flight. Answers requests per second; any other status than `expected` is an error. */
export async function load(
  total: number,
  atOnce: number,
  expected: number,
  shot: (index: number) => Shot,
): Promise<number> {
  const agent = new Agent({ keepAlive: true, maxSockets: atOnce });
  let next = 0;
  const began = performance.now();
  async function worker() {
    while (next < total) {
      const status = await post(agent, shot(next++));
      if (status !== expected) throw new Error(`Answered ${status} instead of ${expected}`);
    }
  }
  await Promise.all(Array.from({ length: atOnce }, worker));
  agent.destroy();
  return (total * 1000) / (performance.now() - began);
}

function post(agent: Agent, { url, headers, body }: Shot): Promise<number> {
  return new Promise((resolve, reject) => {
    const call = request(
      url,
      { method: 'POST', agent, headers: { ...headers, 'content-length': Buffer.byteLength(body) } },
      (answer) => {
        answer.resume();
        answer.on('end', () => resolve(answer.statusCode ?? 0));
      },
    );
    call.on('error', reject);
    call.end(body);
  });
}

export function median(values: readonly number[]): number {
  const sorted = [...values].sort((a, b) => a - b);
  return sorted[Math.floor(sorted.length / 2)] ?? Number.NaN;
}
