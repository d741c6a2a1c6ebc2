/**
 * A delivery test: something is done at one end of a path, and what must then be seen at its
 * other ends, and by when. Durations are whole seconds.
 */
import { z } from 'zod';

const seconds = z.number().int().min(1).max(600);
const phone = z.string().regex(/^\+\d{7,15}$/, 'a number in E.164');
const id = z.string().min(1).max(80);
const words = z.string().max(1600);

/** What sets the test going. `{{ run }}` in a text becomes a word no other run has. */
export const stimulus = z.discriminatedUnion('kind', [
  /** A handset writes to a channel. */
  z.object({ kind: z.literal('text'), phone, channel: id, text: words.min(1) }),
  /** An app asks for a message, or Windgap itself does. */
  z.object({ kind: z.literal('order'), app: id.optional(), channel: id, phone, text: words.min(1) }),
  /** An app posts a record, as JSON, to a send hook. */
  z.object({ kind: z.literal('hook'), hook: id, record: words.min(2) }),
  /** An event with the phone in it is put into the calendar of the bench, soon enough to be reminded of at once. */
  z.object({ kind: z.literal('event'), feed: id, phone, title: words.min(1) }),
  /** A telephone system reports a call. */
  z.object({ kind: z.literal('call'), system: id, phone, event: z.enum(['missed', 'incoming', 'voicemail-box']) }),
]);

export const expectation = z.discriminatedUnion('expect', [
  /** A text is seen on the handset, or, where nobody sees the handset, its receipt says so. */
  z.object({
    expect: z.literal('arrives'),
    phone,
    within: seconds,
    way: z.enum(['anything', 'is', 'contains']),
    text: words,
  }),
  /** A route takes what came in; an empty id means that none does. */
  z.object({ expect: z.literal('routed'), route: z.string().max(80) }),
  /** The app took the event, and where a field is named, it held this. */
  z.object({ expect: z.literal('told'), app: id, within: seconds, field: z.string().max(120), value: words }),
  /** The app has a record of the phone that it did not have before. */
  z.object({ expect: z.literal('record'), app: id, record: id, phone, within: seconds }),
  /** The message the test made is reported delivered. */
  z.object({ expect: z.literal('delivered'), within: seconds }),
  /** The reply to what came in is reported delivered. */
  z.object({ expect: z.literal('round-trip'), within: seconds }),
  /** Of what arrived nothing arrives a second time. */
  z.object({ expect: z.literal('once'), during: seconds }),
  /** Nothing of this test arrives. */
  z.object({ expect: z.literal('silence'), phone, during: seconds }),
  /** It must be refused, and for this cause; an empty one is any. */
  z.object({ expect: z.literal('refused'), cause: z.string().max(60) }),
]);

export const deliveryTest = z.object({
  stimulus,
  expectations: z.array(expectation).min(1).max(12),
  /** How often it is done in one run. */
  times: z.number().int().min(1).max(20).default(1),
  /** Of the times to the last thing awaited, this share must be within so many milliseconds. */
  pace: z.object({ percentile: z.number().int().min(50).max(100), withinMs: z.number().int().min(1) }).optional(),
});

export type Stimulus = z.infer<typeof stimulus>;
export type Expectation = z.infer<typeof expectation>;
export type DeliveryTest = z.infer<typeof deliveryTest>;

/** What of the set-up a test goes through: ids of channels, apps, routes, hooks, feeds and telephone systems. */
export function coverageOf({ stimulus, expectations }: DeliveryTest): Set<string> {
  const covered = new Set<string>();
  const add = (value: string | undefined) => value && covered.add(value);
  if ('channel' in stimulus) add(stimulus.channel);
  if (stimulus.kind === 'order') add(stimulus.app);
  if (stimulus.kind === 'hook') add(stimulus.hook);
  if (stimulus.kind === 'call') add(stimulus.system);
  if (stimulus.kind === 'event') add(stimulus.feed);
  for (const each of expectations) {
    if (each.expect === 'routed') add(each.route);
    if (each.expect === 'told' || each.expect === 'record') add(each.app);
  }
  return covered;
}

/** Handsets it writes from or looks at; no other test uses them meanwhile. */
export function phonesOf({ stimulus, expectations }: DeliveryTest): Set<string> {
  const phones = new Set<string>();
  if ('phone' in stimulus) phones.add(stimulus.phone);
  for (const each of expectations) if ('phone' in each) phones.add(each.phone);
  return phones;
}

/** A text with the word of this run in it. */
export function withRun(text: string, run: string): string {
  return text.replace(/\{\{\s*run\s*\}\}/g, run);
}

/** A word of nine letters and digits that no other round has, not even of the same run begun again. */
export function wordOf(runId: string, round: number, at: number): string {
  return `${beginningOfWords(runId)}${round.toString(36)}${at.toString(36).slice(-4)}`.toUpperCase();
}

/** What the words of all rounds of a run begin with, also of one that was broken off. */
export function beginningOfWords(runId: string): string {
  return runId.slice(-4).toUpperCase();
}
