/** Compares what everybody outside has with what the store says: nothing lost, nothing doubled, nothing stuck. */
import type { AppContext } from '../../src/operations/context';
import type { MessageRow } from '../../src/store/schema/rows';
import type { Ledger } from './traffic';
import type { World } from './world';

export interface Verdict {
  lost: string[];
  doubled: string[];
  stuck: string[];
  /** Texts over the trunk whose outcome nobody can know, and which say so. */
  uncertain: number;
  /** Texts a carrier brought again because the answer to the first was cut off: a deliver_sm has no id to know it by. */
  brought: number;
  /** Texts their provider gave up because nobody listened at any of its tries, which a jumping clock makes follow on one another. */
  unreached: number;
  ordered: number;
  typed: number;
}

export async function checkAll({ house, app }: World, { ordered, typed }: Ledger): Promise<Verdict> {
  const { ctx, bench } = house;
  const lost: string[] = [];
  const doubled: string[] = [];
  const stuck: string[] = [];
  const messages = await ctx.store.messages.all();
  const of = (direction: 'in' | 'out') => {
    const found = new Map<string, typeof messages>();
    for (const message of messages)
      if (message.direction === direction) found.set(message.text, [...(found.get(message.text) ?? []), message]);
    return found;
  };
  const out = of('out');
  const inbound = of('in');
  const provider = counted((await bench.texts()).filter(({ direction }) => direction === 'out'));
  const carrier = counted(await bench.ostrelTexts());
  const givenUp = await bench.givenUp();
  const triedInVain = (words: string) => givenUp.find(({ body }) => JSON.stringify(body).includes(`"${words}"`));
  /** Nobody was there to take it, so nobody took it and lost it. */
  const neverReached = (words: string) =>
    typed.get(words) === 'provider' &&
    triedInVain(words)?.answers.every((answer) => answer === 'ECONNREFUSED') === true;
  /** Evidence of a text that never came in: what its provider was answered, and what is stored of it. */
  async function whatBecameOf(words: string): Promise<string> {
    const tried = triedInVain(words);
    const stored = await ctx.store.select<Record<string, unknown>>(
      `SELECT id, state, cause, signature, answer_status, received_at, processed_at, outcome FROM inbound_requests
        WHERE instr(CAST(body AS TEXT), :words) > 0`,
      { words: `"${words}"` },
    );
    return `given up after ${JSON.stringify(tried?.answers)}, stored as ${JSON.stringify(stored)}`;
  }
  let uncertain = 0;
  let brought = 0;
  let unreached = 0;
  for (const [words, way] of ordered) {
    const [message, ...more] = out.get(words) ?? [];
    const copies = (way === 'trunk' ? carrier : provider).get(words) ?? 0;
    if (!message) lost.push(`${words} (${way}): accepted, and there is no message`);
    else if (more.length > 0) doubled.push(`${words} (${way}): ${more.length + 1} messages`);
    else if (message.state === 'uncertain' && way === 'trunk') uncertain += 1;
    else if (!['sent', 'delivered', 'read'].includes(message.state))
      lost.push(`${words} (${way}): ${message.state} ${message.cause ?? ''}`);
    else if (copies === 0) lost.push(`${words} (${way}): ${message.state}, and nobody outside has it`);
    // A carrier knows no reference: only what a person sends again can be there twice, and nobody did.
    if (copies > 1) doubled.push(`${words} (${way}): ${copies} times outside, ${message?.state}`);
  }
  for (const [words, way] of typed) {
    const n = inbound.get(words)?.length ?? 0;
    if (n === 0 && neverReached(words)) unreached += 1;
    else if (n === 0) lost.push(`${words}: typed (${way}), and it never came in; ${await whatBecameOf(words)}`);
    if (n > 1 && way === 'trunk' && (await overSeveralLinks(ctx, inbound.get(words) ?? []))) brought += 1;
    else if (n > 1) doubled.push(`${words}: typed once (${way}), in ${n} times`);
    if (n > 0 && !app.texts.has(words)) lost.push(`${words}: in, and the app was never told`);
  }
  const [open] = await ctx.store.select<Record<string, number>>(
    `SELECT (SELECT count(*) FROM inbound_requests WHERE state IN ('stored', 'unreadable')) AS requests,
            (SELECT count(*) FROM outbox WHERE state <> 'uncertain') AS sends,
            (SELECT count(*) FROM webhook_deliveries WHERE state NOT IN ('delivered')) AS events,
            (SELECT count(*) FROM runs WHERE state NOT IN ('done', 'cancelled')) AS runs,
            (SELECT count(*) FROM failed_work WHERE aside_at IS NOT NULL AND ended_at IS NULL) AS aside`,
  );
  for (const [name, n] of Object.entries(open ?? {})) if (n > 0) stuck.push(`${n} ${name}`);
  return { lost, doubled, stuck, uncertain, brought, unreached, ordered: ordered.size, typed: typed.size };
}

function counted(texts: readonly { text: string }[]): Map<string, number> {
  const counts = new Map<string, number>();
  for (const { text } of texts) counts.set(text, (counts.get(text) ?? 0) + 1);
  return counts;
}

/** Each copy came over a link of its own: the carrier brought it anew after the one before was cut. */
async function overSeveralLinks(ctx: AppContext, copies: readonly MessageRow[]): Promise<boolean> {
  const requests = await ctx.store.inbound.allBy(
    'id',
    copies.map(({ inbound_request_id }) => inbound_request_id ?? ''),
  );
  const links = requests.map(({ headers }) => headers.windgap_arrival?.split('-')[0]);
  return new Set(links).size === copies.length && !links.includes(undefined);
}
