/** Mixed traffic, each piece with words of its own, and the ledger of what was accepted. */

import { lasting } from './lasting';
import type { Random } from './random';
import { PEOPLE, type World } from './world';

export interface Ledger {
  /** Words of messages that Windgap accepted, by the way they were ordered. */
  ordered: Map<string, 'provider' | 'trunk' | 'hook'>;
  /** Words that were typed on handsets. */
  typed: Map<string, 'provider' | 'trunk'>;
  /** Words that may have been typed: the bench did not answer. */
  unknown: Set<string>;
  /** Orders that were answered with a refusal, with it. */
  refused: string[];
}

export interface Traffic {
  ledger: Ledger;
  /** Begins nothing more, and ends when everything that was begun has been answered. */
  stop(): Promise<void>;
}

export function startTraffic(world: World, random: Random, perSecond: number): Traffic {
  const { house, mossgate, trunk, hookUrl } = world;
  const ledger: Ledger = { ordered: new Map(), typed: new Map(), unknown: new Set(), refused: [] };
  const underWay = new Set<Promise<void>>();
  let stopping = false;
  let count = 0;

  /** Asked again with the same key until somebody answers: what a client does that must not lose anything. */
  async function ask(url: string, body: object, headers: Record<string, string>): Promise<number> {
    for (;;) {
      const answer = await fetch(url, {
        method: 'POST',
        headers: { 'content-type': 'application/json', ...headers },
        body: JSON.stringify(body),
        signal: AbortSignal.timeout(30_000),
      }).catch(() => undefined);
      await answer?.arrayBuffer().catch(() => undefined);
      if (answer && answer.status < 500 && answer.status !== 429) return answer.status;
      await lasting(200);
    }
  }

  async function order(way: 'provider' | 'trunk' | 'hook', words: string, to: string) {
    const headers = { 'idempotency-key': words };
    const status =
      way === 'hook'
        ? await ask(hookUrl, { phone: to, words }, headers)
        : await ask(
            `${house.origin}/api/v1/messages`,
            { to, from: (way === 'trunk' ? trunk : mossgate).channel.id, text: words },
            { ...headers, authorization: `Bearer ${mossgate.apiKey}` },
          );
    if (status < 300) ledger.ordered.set(words, way);
    else ledger.refused.push(`${words}: ${status}`);
  }

  async function type(way: 'provider' | 'trunk', words: string, from: string) {
    const to = (way === 'trunk' ? trunk : mossgate).channel.address;
    try {
      await house.bench.type(from, to, words);
      ledger.typed.set(words, way);
    } catch {
      // Whether the handset has it is not known: it may come in, and need not.
      ledger.unknown.add(words);
    }
  }

  function begin() {
    const words = `Chaos ${++count}`;
    const person = random.pick(PEOPLE);
    const dice = random.next();
    const work =
      dice < 0.3
        ? order('provider', words, person)
        : dice < 0.5
          ? order('trunk', words, person)
          : dice < 0.65
            ? order('hook', words, person)
            : type(dice < 0.9 ? 'provider' : 'trunk', words, person);
    const ended = work.finally(() => underWay.delete(ended));
    underWay.add(ended);
  }

  const going = (async () => {
    while (!stopping) {
      begin();
      await lasting(1000 / perSecond);
    }
  })();

  return {
    ledger,
    async stop() {
      stopping = true;
      await going;
      await Promise.all(underWay);
    },
  };
}
