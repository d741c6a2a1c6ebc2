/**
 * The way of one message as hops in order, each with what is known of it, when it
 * happened and what to open to read the evidence. Built from stored facts alone.
 */
import { type CauseCode, cause } from '../delivery/causes';
import type { MessageEventKind } from '../delivery/lifecycle';
import type { ProofState } from '../proof/proofs';

export interface EvidenceRef {
  kind: 'inbound-request' | 'exchange';
  id: string;
}

export interface TrailHop {
  /** Who or what the message was at. */
  place: string;
  /** What happened there, one sentence without a full stop. */
  what: string;
  state: ProofState;
  /** Epoch milliseconds; undefined when it has not happened. */
  at?: number;
  /** Real time since the hop before, milliseconds. */
  elapsed?: number;
  failure?: { code: CauseCode; title: string; explanation: string; mend: string };
  /** Further facts worth reading: retries, repeats, mapped fields. */
  notes: string[];
  evidence: EvidenceRef[];
}

export interface TrailEvent {
  kind: MessageEventKind;
  at: number;
  /** When word of it reached us, by our own clock; absent where it is our own doing, which is known at once. */
  cameAt?: number;
  attempt?: number;
  cause?: CauseCode;
  said?: string;
  by?: string;
  nextAttemptAt?: number;
  exchangeId?: string;
  inboundRequestId?: string;
}

export interface TrailDelivery {
  app: string;
  eventType: string;
  state: 'due' | 'leased' | 'delivered' | 'given-up';
  attempts: number;
  createdAt: number;
  deliveredAt?: number;
  dueAt: number;
  cause?: CauseCode;
  lastStatus?: number;
  exchangeIds: string[];
}

interface Common {
  providerName: string;
  channelName: string;
  from: string;
  to: string;
  deliveries: TrailDelivery[];
}

export interface InboundFacts extends Common {
  /** When the provider says the handset sent it. */
  sentAt?: number;
  receivedAt: number;
  processedAt?: number;
  signature: string;
  inboundRequestId?: string;
  viaFallback: boolean;
  /** The form in which the provider wrote the sender, when we changed it. */
  writtenFrom?: string;
  contactName: string;
  route?: string;
  repeats: number;
}

export interface OutboundFacts extends Common {
  origin: { kind: 'user' | 'app' | 'provider' | 'consent'; name: string };
  createdAt: number;
  parts: number;
  encoding: string;
  /** In the order in which they became known. */
  events: TrailEvent[];
}

export function inboundTrail(facts: InboundFacts): TrailHop[] {
  const evidence: EvidenceRef[] = facts.inboundRequestId
    ? [{ kind: 'inbound-request', id: facts.inboundRequestId }]
    : [];
  const hops: TrailHop[] = [
    {
      place: 'Handset',
      what: `${facts.from} sent a text to ${facts.to}`,
      state: 'proven',
      at: facts.sentAt,
      notes: facts.sentAt === undefined ? ['The provider did not say when'] : ['Time as the provider gives it'],
      evidence: [],
    },
    {
      place: facts.providerName,
      what:
        facts.signature === 'bind'
          ? 'Delivered it over the trunk'
          : facts.viaFallback
            ? 'Posted it to the fallback address'
            : 'Posted it to the inbound URL',
      state: 'proven',
      at: facts.receivedAt,
      notes: facts.viaFallback ? ['The provider got no 2xx from the inbound URL itself'] : [],
      evidence,
    },
    {
      place: facts.signature === 'bind' ? 'Bind' : 'Inbound URL',
      what:
        facts.signature === 'bind'
          ? 'Stored before it was answered'
          : `Stored before it was answered; signature ${facts.signature}`,
      state: facts.signature === 'valid' || facts.signature === 'bind' ? 'proven' : 'unproven',
      at: facts.receivedAt,
      notes:
        facts.signature === 'not-used'
          ? ['This connector has no signature, so anyone with the address could have posted it']
          : [],
      evidence,
    },
    {
      place: facts.channelName,
      what: `Read as a text from ${facts.contactName}`,
      state: facts.processedAt === undefined ? 'unproven' : 'proven',
      at: facts.processedAt,
      notes: [
        ...(facts.writtenFrom && facts.writtenFrom !== facts.from
          ? [`The provider wrote the sender as ${facts.writtenFrom}`]
          : []),
        ...(facts.repeats > 0 ? [`Posted ${facts.repeats + 1} times; the repeats changed nothing`] : []),
      ],
      evidence: [],
    },
    facts.route
      ? {
          place: 'Route',
          what: `Taken by “${facts.route}”`,
          state: 'proven',
          at: facts.processedAt,
          notes: [],
          evidence: [],
        }
      : {
          place: 'Route',
          what: 'No route took it; it is on the shared desk only',
          state: 'unproven',
          at: facts.processedAt,
          notes: [],
          evidence: [],
        },
  ];
  return withElapsed([...hops, ...facts.deliveries.map(deliveryHop)]);
}

export function outboundTrail(facts: OutboundFacts): TrailHop[] {
  const hops = [askedHop(facts), outboxHop(facts), providerHop(facts), networkHop(facts), handsetHop(facts)];
  return withElapsed([...hops, ...facts.deliveries.map(deliveryHop)]);
}

function askedHop(facts: OutboundFacts): TrailHop {
  const { kind, name } = facts.origin;
  return {
    place: name,
    what: kind === 'app' ? 'Asked for it through the API' : 'Wrote it in the conversation',
    state: 'proven',
    at: facts.createdAt,
    notes: [`${facts.encoding}, ${facts.parts} ${facts.parts === 1 ? 'part' : 'parts'}`],
    evidence: [],
  };
}

function outboxHop(facts: OutboundFacts): TrailHop {
  const attempts = facts.events.filter((event) => event.kind === 'attempted');
  const last = attempts.at(-1);
  const requeued = facts.events.filter((event) => event.kind === 'requeued');
  return {
    place: 'Outbox',
    what: last
      ? `Handed to ${facts.providerName} on ${facts.channelName}`
      : `Waiting for its turn on ${facts.channelName}`,
    state: last ? 'proven' : 'unproven',
    at: attempts[0]?.at,
    notes: [
      ...(attempts.length > 1 ? [`${attempts.length} attempts`] : []),
      ...requeued.map((event) => `${event.by ?? 'Somebody'} chose to send it again`),
    ],
    evidence: [],
  };
}

function providerHop(facts: OutboundFacts): TrailHop {
  const accepted = facts.events.find((event) => event.kind === 'accepted');
  const refused = facts.events.find((event) => event.kind === 'refused');
  const uncertain = facts.events.findLast((event) => event.kind === 'uncertain');
  const deferred = facts.events.filter((event) => event.kind === 'deferred');
  const last = deferred.at(-1);
  const evidence = exchangeEvidence(
    facts.events.filter((event) => ['accepted', 'refused', 'deferred', 'uncertain'].includes(event.kind)),
  );
  const base = { place: facts.providerName, notes: deferred.map(deferredNote), evidence };
  if (accepted) return { ...base, what: 'Accepted it', state: 'proven', at: accepted.at };
  // A receipt came although our own note of the answer is missing: the provider has it.
  if (facts.events.some(isReceipt)) return { ...base, what: 'Has it: a receipt came for it', state: 'proven' };
  if (refused)
    return {
      ...base,
      what: 'Refused it',
      state: 'broken',
      at: refused.at,
      failure: explain(refused, facts.providerName),
    };
  if (uncertain) {
    return {
      ...base,
      what: 'May or may not have it',
      state: 'broken',
      at: uncertain.at,
      failure: explain(uncertain, facts.providerName),
    };
  }
  if (last) {
    const failure = last.cause ? explain(last, facts.providerName) : undefined;
    return {
      ...base,
      what: 'Has not taken it yet; Windgap keeps trying',
      state: failure ? 'broken' : 'unproven',
      at: last.at,
      failure,
    };
  }
  return { ...base, what: 'Has not been asked yet', state: 'unproven' };
}

function networkHop(facts: OutboundFacts): TrailHop {
  const passedOn = facts.events.find((event) => event.kind === 'sent');
  const later = facts.events.some(
    (event) => event.kind === 'delivered' || event.kind === 'read' || event.kind === 'undelivered',
  );
  const failedEarlier = facts.events.some((event) => event.kind === 'refused');
  return {
    place: 'Network',
    what: passedOn
      ? 'Passed on towards the handset'
      : later
        ? 'Passed it on without saying so'
        : 'No receipt from the network yet',
    state: passedOn || later ? 'proven' : failedEarlier ? 'not-applicable' : 'unproven',
    at: passedOn?.at,
    notes: passedOn ? receiptNotes(facts.events, 'sent') : [],
    evidence: requestEvidence(facts.events.filter((event) => event.kind === 'sent')),
  };
}

function handsetHop(facts: OutboundFacts): TrailHop {
  const place = 'Handset';
  const delivered = facts.events.find((event) => event.kind === 'delivered');
  const read = facts.events.find((event) => event.kind === 'read');
  const settled = facts.events.find((event) => event.kind === 'settled');
  const lost = facts.events.find((event) => event.kind === 'undelivered');
  const evidence = requestEvidence(
    facts.events.filter((event) => ['delivered', 'read', 'undelivered'].includes(event.kind)),
  );
  const arrival = delivered ?? read;
  if (arrival) {
    const notes = [
      ...receiptNotes(facts.events, arrival.kind),
      ...(lost ? ['The provider also reported it lost; the report of arrival is believed'] : []),
      ...earlyNotes(facts.events, arrival),
    ];
    return {
      place,
      what: `Delivered to ${facts.to}${read ? ' and read' : ''}`,
      state: 'proven',
      at: arrival.at,
      notes,
      evidence,
    };
  }
  if (settled)
    return {
      place,
      what: `${settled.by ?? 'Somebody'} says ${facts.to} got it`,
      state: 'unproven',
      at: settled.at,
      notes: [],
      evidence,
    };
  if (lost) {
    return {
      place,
      what: `${facts.to} did not get it`,
      state: 'broken',
      at: lost.at,
      failure: explain(lost, facts.providerName, facts.to),
      notes: [],
      evidence,
    };
  }
  const refused = facts.events.some((event) => event.kind === 'refused');
  return {
    place,
    what: refused ? `${facts.to} was never reached` : `No delivery receipt for ${facts.to} yet`,
    state: refused ? 'not-applicable' : 'unproven',
    notes: [],
    evidence,
  };
}

function deliveryHop(delivery: TrailDelivery): TrailHop {
  const evidence = delivery.exchangeIds.map((id): EvidenceRef => ({ kind: 'exchange', id }));
  const notes = [
    `Event ${delivery.eventType}`,
    ...(delivery.attempts > 1 ? [`${delivery.attempts} attempts`] : []),
    ...(delivery.state === 'due' && delivery.attempts > 0
      ? [`Next attempt ${new Date(delivery.dueAt).toISOString()}`]
      : []),
  ];
  if (delivery.state === 'delivered') {
    const what = `Told by webhook; it answered ${delivery.lastStatus ?? '2xx'}`;
    return { place: delivery.app, what, state: 'proven', at: delivery.deliveredAt, notes, evidence };
  }
  if (!delivery.cause) return { place: delivery.app, what: 'Waiting to be told', state: 'unproven', notes, evidence };
  const failure = explainCause(
    delivery.cause,
    delivery.app,
    delivery.lastStatus ? String(delivery.lastStatus) : undefined,
  );
  const what = delivery.state === 'given-up' ? 'Could not be told' : 'Not told yet; Windgap keeps trying';
  return { place: delivery.app, what, state: 'broken', notes, evidence, failure };
}

function explain(event: TrailEvent, who: string, subject?: string): TrailHop['failure'] {
  return event.cause ? explainCause(event.cause, who, event.said, subject) : undefined;
}

function explainCause(code: CauseCode, who: string, said?: string, subject?: string) {
  const { title, explain: words, mend } = cause(code);
  return { code, title, explanation: words({ who, said, subject }), mend };
}

function deferredNote(event: TrailEvent): string {
  const reason = event.cause ? cause(event.cause).title : (event.said ?? 'no reason noted');
  return `Attempt ${event.attempt ?? '?'}: ${reason.charAt(0).toLowerCase()}${reason.slice(1)}`;
}

function isReceipt(event: TrailEvent): boolean {
  return ['sent', 'delivered', 'undelivered', 'read'].includes(event.kind);
}

function receiptNotes(events: readonly TrailEvent[], kind: MessageEventKind): string[] {
  const repeats = events.filter((event) => event.kind === kind).length - 1;
  return repeats > 0 ? [`The receipt came ${repeats + 1} times`] : [];
}

/** Receipts in an unusual order are worth saying: they confuse whoever reads the provider's log. */
function earlyNotes(events: readonly TrailEvent[], arrival: TrailEvent): string[] {
  // When they came, and not when they were noted: a busy engine notes them in any order. Those of one millisecond go by place.
  const came = (event: TrailEvent) => event.cameAt ?? event.at;
  const before = (kind: MessageEventKind) => {
    const other = events.find((event) => event.kind === kind);
    if (!other) return false;
    return came(arrival) === came(other)
      ? events.indexOf(arrival) < events.indexOf(other)
      : came(arrival) < came(other);
  };
  return [
    ...(before('accepted') ? ['The receipt came before the provider’s own answer'] : []),
    ...(before('sent') ? ['The receipts came in reverse order'] : []),
  ];
}

function exchangeEvidence(events: readonly TrailEvent[]): EvidenceRef[] {
  return events.flatMap((event) => (event.exchangeId ? [{ kind: 'exchange' as const, id: event.exchangeId }] : []));
}

function requestEvidence(events: readonly TrailEvent[]): EvidenceRef[] {
  return events.flatMap((event) =>
    event.inboundRequestId ? [{ kind: 'inbound-request' as const, id: event.inboundRequestId }] : [],
  );
}

/** Clocks of different machines disagree a little, so a hop is never said to have happened before the last one. */
function withElapsed(hops: TrailHop[]): TrailHop[] {
  let before: number | undefined;
  return hops.map((hop) => {
    if (hop.at === undefined) return hop;
    const elapsed = before === undefined ? undefined : Math.max(0, hop.at - before);
    before = Math.max(before ?? 0, hop.at);
    return { ...hop, elapsed };
  });
}
