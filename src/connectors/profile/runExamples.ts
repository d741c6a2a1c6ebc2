/** Runs the examples recorded in a profile: they are its tests. */
import { type Clock, systemClock } from '../../clock/clock';
import type { Finding } from '../../core/finding';
import type { Connector } from '../connector';
import { httpConnector } from '../http/profileConnector';
import type { Example } from './example';
import type { HttpProfile } from './schema';

export type Outcome = { reads: unknown } | { refused: string; said?: string };

/** What the profile makes of an example. */
export async function readExample(profile: HttpProfile, one: Example, clock: Clock = systemClock): Promise<Outcome> {
  let calls = 0;
  const answer = 'answers' in one ? { status: one.status, body: one.body } : { status: 503, body: '' };
  const http = async () => ({ headers: {}, ...(calls++ === 0 ? answer : { status: 503, body: '' }) });
  const connector = httpConnector(profile, http, clock);
  if ('posts' in one) {
    const query = connector.inboundMethod === 'GET' ? `?${one.posts}` : '';
    const parsed = await connector.parse(
      {
        method: connector.inboundMethod,
        url: `https://example.invalid/${query}`,
        headers: {},
        body: Buffer.from(one.posts),
      },
      {},
    );
    if (!parsed.ok) return { refused: 'a post of no known kind', said: parsed.reason };
    const [unread] = parsed.unread ?? [];
    return unread
      ? { refused: `a ${unread.what} that cannot be read`, said: unread.reason }
      : { reads: plain(parsed.items) };
  }
  const outcome = await called(connector, one.answers, credentialsFor(profile));
  if (!outcome) return { refused: 'no such request' };
  return outcome.ok ? { reads: plain(outcome.value) } : { refused: outcome.failure.cause, said: outcome.failure.said };
}

function called(connector: Connector, what: 'account' | 'numbers' | 'send', credentials: Record<string, string>) {
  if (what === 'account') return connector.checkAccount(credentials, {});
  if (what === 'numbers') return connector.listNumbers?.(credentials);
  const somebody = '+447700900123';
  return connector.send?.(credentials, {
    reference: 'example',
    sender: somebody,
    recipient: somebody,
    text: 'An example',
    receiptUrl: 'https://example.invalid/in',
    numberId: '1',
  });
}

/** Each an address: where one stands at the beginning of an address that is what it must be, and elsewhere it may be anything. */
const credentialsFor = ({ credentials }: HttpProfile) =>
  Object.fromEntries(credentials.map(({ name }) => [name, 'https://example.invalid']));

/** As it is written down: what is undefined is not there. */
const plain = (value: unknown): unknown => JSON.parse(JSON.stringify(value ?? null));

/** A finding for each example that is read otherwise than it says; `place` gives where it stands in the text. */
export async function runExamples(
  profile: HttpProfile,
  place: (path: PropertyKey[]) => Finding['place'],
  clock?: Clock,
): Promise<Finding[]> {
  const findings: Finding[] = [];
  for (const [index, one] of (profile.examples ?? []).entries()) {
    const outcome = await readExample(profile, one, clock);
    const said = differenceOf(one, outcome);
    if (said)
      findings.push({
        code: 'example-fails',
        severity: 'error',
        problem: `Example ${index + 1}: ${said}.`,
        remedy: 'Either the profile reads it wrongly, or the example says what is no longer so.',
        place: place(['examples', index]),
      });
  }
  return findings;
}

/** How what is read differs from what the example says; undefined where it does not. */
function differenceOf(one: Example, outcome: Outcome): string | undefined {
  const refused = 'refused' in one ? one.refused : undefined;
  if ('refused' in outcome) {
    if (refused === outcome.refused) return undefined;
    return `it is read as ${outcome.refused}${outcome.said ? ` (${outcome.said})` : ''}${refused ? `, not as ${refused}` : ''}`;
  }
  if (refused) return `it is read as a success, not as ${refused}`;
  if (one.reads === undefined) return undefined;
  const where = firstDifference(one.reads, outcome.reads, '');
  return where === undefined ? undefined : `${where}`;
}

function firstDifference(expected: unknown, read: unknown, at: string): string | undefined {
  if (Array.isArray(expected)) {
    if (!Array.isArray(read) || read.length !== expected.length)
      return `${at || 'it'} has ${Array.isArray(read) ? read.length : 'no'} entries, not ${expected.length}`;
    for (const [index, entry] of expected.entries()) {
      const inner = firstDifference(entry, read[index], `${at}[${index}]`);
      if (inner) return inner;
    }
    return undefined;
  }
  if (typeof expected === 'object' && expected !== null) {
    for (const [name, value] of Object.entries(expected)) {
      const there = typeof read === 'object' && read !== null ? (read as Record<string, unknown>)[name] : undefined;
      const inner = firstDifference(value, there, at ? `${at}.${name}` : name);
      if (inner) return inner;
    }
    return undefined;
  }
  return Object.is(expected, read)
    ? undefined
    : `${at || 'it'} is read as ${read === undefined ? 'nothing' : JSON.stringify(read)}, not as ${JSON.stringify(expected)}`;
}
