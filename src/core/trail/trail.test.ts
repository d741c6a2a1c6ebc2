import { describe, expect, test } from 'vitest';
import type { TrailDelivery } from './delivery';
import { type InboundFacts, inboundTrail } from './inbound';
import { type OutboundFacts, outboundTrail, type TrailEvent } from './outbound';

const delivery = (more: Partial<TrailDelivery> = {}): TrailDelivery => ({
  id: 'dlv_1',
  app: 'Lockbook',
  eventType: 'windgap.message.received',
  state: 'delivered',
  attempts: 1,
  createdAt: 1000,
  deliveredAt: 1040,
  dueAt: 1000,
  lastStatus: 204,
  exchangeIds: ['exc_1'],
  ...more,
});

const inbound = (more: Partial<InboundFacts> = {}): InboundFacts => ({
  providerName: 'Main account',
  ends: { between: 'Network', theirs: 'Handset' },
  channelName: 'Harbour desk',
  from: '+44 7700 900123',
  to: '+44 20 7946 0114',
  deliveries: [],
  sentAt: 100,
  receivedAt: 800,
  processedAt: 812,
  signature: 'valid',
  inboundRequestId: 'inb_1',
  viaFallback: false,
  contactName: 'Ines Calder',
  routing: {
    outcome: 'routed',
    routes: ['Everything'],
    revision: 3,
    at: 812,
    because: ['Because it comes in: yes'],
    steps: [],
  },
  repeats: 0,
  ...more,
});

const outbound = (events: TrailEvent[], more: Partial<OutboundFacts> = {}): OutboundFacts => ({
  id: 'msg_out',
  providerName: 'Main account',
  ends: { between: 'Network', theirs: 'Handset' },
  channelName: 'Harbour desk',
  from: '+44 20 7946 0114',
  to: '+44 7700 900123',
  deliveries: [],
  origin: { kind: 'app', name: 'Lockbook' },
  createdAt: 1000,
  parts: 1,
  encoding: 'GSM-7',
  events,
  ...more,
});

const event = (kind: TrailEvent['kind'], at: number, more: Partial<TrailEvent> = {}): TrailEvent => ({
  kind,
  at,
  ...more,
});
const hop = (facts: OutboundFacts, place: string, nth = 0) =>
  outboundTrail(facts).filter((entry) => entry.place === place)[nth];

describe('the trail of a text that came in', () => {
  test('is a hop for each place, with real time between them and the request as evidence', () => {
    const hops = inboundTrail(inbound({ deliveries: [delivery()] }));
    expect(hops.map((entry) => [entry.place, entry.state, entry.elapsed])).toEqual([
      ['Handset', 'proven', undefined],
      ['Main account', 'proven', 700],
      ['Inbound URL', 'proven', 0],
      ['Harbour desk', 'proven', 12],
      ['Route', 'proven', 0],
      ['Lockbook', 'proven', 228],
    ]);
    expect(hops[2]?.evidence).toEqual([{ kind: 'inbound-request', id: 'inb_1' }]);
  });

  test('says when the fallback was used, when it was posted again, and how the provider wrote the number', () => {
    const hops = inboundTrail(inbound({ viaFallback: true, repeats: 2, writtenFrom: '07700 900123' }));
    expect(hops[1]).toMatchObject({
      what: 'Posted it to the fallback address',
      notes: [expect.stringContaining('no 2xx')],
    });
    expect(hops[3]?.notes).toEqual([
      'The provider wrote the sender as 07700 900123',
      'Posted 3 times; the repeats changed nothing',
    ]);
  });

  test('an unsigned connector leaves the inbound URL unproven', () => {
    const hops = inboundTrail(inbound({ signature: 'not-used', routing: undefined }));
    expect(hops[2]).toMatchObject({ state: 'unproven', notes: [expect.stringContaining('anyone with the address')] });
    expect(hops[4]).toMatchObject({ state: 'unproven', what: expect.stringContaining('before routes were kept') });
  });

  test('what was decided, why, what was done; and what no route took, or was held, with its cause', () => {
    const routing = inbound().routing as NonNullable<InboundFacts['routing']>;
    const hopFor = (more: Partial<typeof routing>) => inboundTrail(inbound({ routing: { ...routing, ...more } }))[4];
    expect(
      hopFor({
        steps: [
          { said: 'Tagged lock', at: 900 },
          { said: 'until noon', at: 950, waits: true },
        ],
      }),
    ).toMatchObject({
      what: 'Handled by “Everything”',
      state: 'proven',
      notes: [
        'Revision 3 of the routes decided',
        'Because it comes in: yes',
        'Step: Tagged lock',
        'Waiting: until noon',
      ],
    });
    expect(hopFor({ outcome: 'unrouted', routes: [], cause: 'no-route' })).toMatchObject({
      state: 'broken',
      failure: { code: 'no-route', remedy: expect.stringContaining('Add a route') },
    });
    expect(hopFor({ outcome: 'held', cause: 'auto-reply-loop' })?.failure?.explanation).toContain(
      'Ines Calder was answered by a route again',
    );
    const failed = { problem: 'The sheet is gone.', remedy: 'Choose another.' };
    expect(hopFor({ steps: [{ said: '', at: 900, failed }] })).toMatchObject({
      state: 'broken',
      failure: { explanation: 'The sheet is gone.', remedy: 'Choose another.' },
    });
    expect(hopFor({ outcome: 'answer' })?.what).toBe('Answered what “Everything” had asked');
  });

  test('not worked through yet, the time the provider did not give, and clocks that disagree', () => {
    const waiting = inboundTrail(inbound({ processedAt: undefined, sentAt: undefined }));
    expect(waiting[0]).toMatchObject({ at: undefined, notes: ['The provider did not say when'] });
    expect(waiting[3]?.state).toBe('unproven');
    expect(inboundTrail(inbound({ sentAt: 5000 }))[1]?.elapsed).toBe(0);
  });

  test('an app that cannot be told: cause, fix and the next attempt; given up when it is over', () => {
    const retrying = inboundTrail(
      inbound({
        deliveries: [
          delivery({ state: 'due', attempts: 3, cause: 'app-error', lastStatus: 500, deliveredAt: undefined }),
        ],
      }),
    ).at(-1);
    expect(retrying).toMatchObject({
      state: 'broken',
      failure: { code: 'app-error', explanation: 'Lockbook answered 500.' },
    });
    expect(retrying?.notes).toEqual(
      expect.arrayContaining([
        '3 attempts',
        expect.stringMatching(/^Next attempt \d{4}-\d\d-\d\d \d\d:\d\d:\d\d UTC$/),
      ]),
    );
    const over = inboundTrail(inbound({ deliveries: [delivery({ state: 'given-up', cause: 'app-unreachable' })] })).at(
      -1,
    );
    expect(over?.what).toBe('Could not be delivered');
    expect(inboundTrail(inbound({ deliveries: [delivery({ state: 'due', attempts: 0 })] })).at(-1)).toMatchObject({
      state: 'unproven',
      what: 'Waiting to be sent',
    });
  });
});

describe('the trail of a text that goes out', () => {
  const queued = event('queued', 1000, { attempt: 0 });
  const attempted = event('attempted', 1030, { attempt: 1 });
  const accepted = event('accepted', 1080, { attempt: 1, exchangeId: 'exc_7' });

  test('only asked for: everything after the asking is unproven', () => {
    expect(outboundTrail(outbound([queued])).map((entry) => entry.state)).toEqual([
      'proven',
      'unproven',
      'unproven',
      'unproven',
      'unproven',
    ]);
  });

  test('delivered: every hop proven, the answer and the receipts as evidence', () => {
    const facts = outbound([
      queued,
      attempted,
      accepted,
      event('sent', 1500, { inboundRequestId: 'inb_2' }),
      event('delivered', 3800, { inboundRequestId: 'inb_3' }),
    ]);
    expect(outboundTrail(facts).map((entry) => entry.state)).toEqual([
      'proven',
      'proven',
      'proven',
      'proven',
      'proven',
    ]);
    expect(hop(facts, 'Main account')?.evidence).toEqual([{ kind: 'exchange', id: 'exc_7' }]);
    expect(hop(facts, 'Handset')).toMatchObject({
      what: 'Delivered to +44 7700 900123',
      elapsed: 2300,
      evidence: [{ kind: 'inbound-request', id: 'inb_3' }],
    });
  });

  test('a network that never said it passed it on is still proven by the arrival', () => {
    expect(hop(outbound([queued, attempted, accepted, event('delivered', 3800)]), 'Network')).toMatchObject({
      state: 'proven',
      what: 'Passed it on without saying so',
    });
  });

  test('refused: broken at the provider, and what comes after does not apply', () => {
    const facts = outbound([
      queued,
      attempted,
      event('refused', 1080, { attempt: 1, cause: 'credit-gone', exchangeId: 'exc_8' }),
    ]);
    expect(outboundTrail(facts).map((entry) => entry.state)).toEqual([
      'proven',
      'proven',
      'broken',
      'not-applicable',
      'not-applicable',
    ]);
    expect(hop(facts, 'Main account')?.failure).toMatchObject({
      code: 'credit-gone',
      remedy: expect.stringContaining('Top up'),
    });
    expect(outboundTrail(facts).map(({ again }) => again)).toEqual([
      undefined,
      undefined,
      'msg_out',
      undefined,
      undefined,
    ]);
  });

  test('deferred attempts are told one by one; the hop is broken until one is taken', () => {
    const deferred = event('deferred', 1060, { attempt: 1, cause: 'provider-unreachable', said: 'ECONNREFUSED' });
    expect(hop(outbound([queued, attempted, deferred]), 'Main account')).toMatchObject({
      state: 'broken',
      failure: { code: 'provider-unreachable' },
    });
    const later = outbound([
      queued,
      attempted,
      deferred,
      event('attempted', 3100, { attempt: 2 }),
      event('accepted', 3200, { attempt: 2 }),
    ]);
    expect(hop(later, 'Main account')).toMatchObject({
      state: 'proven',
      notes: ['Attempt 1: the provider could not be reached'],
    });
    expect(hop(later, 'Outbox')?.notes).toEqual(['2 attempts']);
  });

  test('uncertain says so; a receipt, a person’s word and a second sending each change it', () => {
    const unsure = [queued, attempted, event('uncertain', 1090, { attempt: 1, cause: 'outcome-unknown' })];
    expect(hop(outbound(unsure), 'Main account')).toMatchObject({ state: 'broken', what: 'May or may not have it' });
    expect(hop(outbound([...unsure, event('delivered', 4000)]), 'Main account')).toMatchObject({
      state: 'proven',
      what: 'Has it: a receipt came for it',
    });
    expect(hop(outbound([...unsure, event('settled', 5000, { by: 'Jonas Wherry' })]), 'Handset')).toMatchObject({
      state: 'unproven',
      what: 'Jonas Wherry says +44 7700 900123 got it',
    });
    expect(hop(outbound([...unsure, event('requeued', 5000, { by: 'Jonas Wherry' })]), 'Outbox')?.notes).toEqual([
      'Jonas Wherry chose to send it again',
    ]);
  });

  test('lost: broken at the handset with the cause; contradicted by an arrival, the arrival counts', () => {
    const lost = event('undelivered', 9000, { cause: 'handset-unreachable', inboundRequestId: 'inb_4' });
    expect(hop(outbound([queued, attempted, accepted, lost]), 'Handset')).toMatchObject({
      state: 'broken',
      again: 'msg_out',
      failure: { code: 'handset-unreachable' },
    });
    const both = hop(outbound([queued, attempted, accepted, lost, event('delivered', 9500)]), 'Handset');
    expect(both?.state).toBe('proven');
    expect(both?.notes).toContain('The provider also reported it lost; the report of arrival is believed');
  });

  test('receipts that came early, reversed or twice are said to have', () => {
    const early = outbound([queued, attempted, event('delivered', 1070), accepted]);
    expect(hop(early, 'Handset')?.notes).toContain('The receipt came before the provider’s own answer');
    const reversed = outbound([
      queued,
      attempted,
      accepted,
      event('delivered', 3800, { cameAt: 3900 }),
      event('sent', 1500, { cameAt: 3950 }),
    ]);
    expect(hop(reversed, 'Handset')?.notes).toContain('The receipts came in reverse order');
    const twice = outbound([queued, attempted, accepted, event('delivered', 3800), event('delivered', 3800)]);
    expect(hop(twice, 'Handset')?.notes).toContain('The receipt came 2 times');
  });

  test('what counts is when receipts came, in whatever order they were noted; in one millisecond, that order', () => {
    const cameAt = (ms: number) => outbound([queued, attempted, accepted, event('delivered', 3800, { cameAt: ms })]);
    expect(hop(cameAt(1079), 'Handset')?.notes).toContain('The receipt came before the provider’s own answer');
    expect(hop(cameAt(1080), 'Handset')?.notes).toEqual([]);
    const notedFirst = outbound([queued, attempted, event('delivered', 1000, { cameAt: 1090 }), accepted]);
    expect(hop(notedFirst, 'Handset')?.notes).toEqual([]);
    const together = [event('delivered', 3800, { cameAt: 3900 }), event('sent', 1500, { cameAt: 3900 })];
    const reversed = 'The receipts came in reverse order';
    expect(hop(outbound([queued, accepted, ...together]), 'Handset')?.notes).toContain(reversed);
    expect(hop(outbound([queued, accepted, ...together.reverse()]), 'Handset')?.notes).not.toContain(reversed);
  });

  test('read is said beside delivered, and who wrote it', () => {
    const facts = outbound([queued, attempted, accepted, event('delivered', 3800), event('read', 9000)], {
      origin: { kind: 'user', name: 'Jonas Wherry' },
    });
    expect(hop(facts, 'Handset')?.what).toBe('Delivered to +44 7700 900123 and read');
    expect(outboundTrail(facts)[0]).toMatchObject({ place: 'Jonas Wherry', what: 'Wrote it in the conversation' });
  });

  test('where no receipt can come, it says so and waits for none; and a mail goes to no handset', () => {
    const noReceipts = 'This mail server reports no deliveries.';
    const ends = { between: 'Mail systems', theirs: 'Their mailbox' };
    const facts = { ...outbound([queued, attempted, accepted]), noReceipts, ends };
    expect(hop(facts, 'Mail systems')).toMatchObject({ state: 'not-applicable' });
    expect(hop(facts, 'Their mailbox')).toMatchObject({ state: 'unproven', notes: [noReceipts] });
    expect(hop(facts, 'Handset')).toBeUndefined();
  });
});
