/** The way out: from who asked for a message to the handset, and back as receipts. Built from stored facts alone. */
import { type CauseCode, cause } from '../delivery/causes';
import type { MessageEventKind } from '../delivery/lifecycle';
import { deliveryHop, type TrailEnds } from './delivery';
import { exchangeEvidence, explainCause, requestEvidence, type TrailHop, withElapsed } from './hop';

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

export interface OutboundFacts extends TrailEnds {
  id: string;
  origin: { kind: 'user' | 'app' | 'route' | 'provider' | 'consent' | 'broadcast'; name: string };
  createdAt: number;
  parts: number;
  encoding: string;
  /** Why no receipt can come, as a sentence; absent where they do. */
  noReceipts?: string;
  /** In the order in which they became known. */
  events: TrailEvent[];
  /** The second way it has, or would have had. */
  fallback?: FallbackFacts;
}

export interface FallbackFacts {
  /** The channel. */
  over: string;
  state: 'watched' | 'waits' | 'gone' | 'stays' | 'impossible' | 'aside';
  said?: string;
  /** When it is looked at, or was. */
  at?: number;
  /** So long the first way has. */
  until?: number;
}

export function outboundTrail(facts: OutboundFacts): TrailHop[] {
  const hops = [
    askedHop(facts),
    outboxHop(facts),
    providerHop(facts),
    betweenHop(facts),
    theirHop(facts),
    ...(facts.fallback ? [fallbackHop(facts, facts.fallback)] : []),
  ];
  return withElapsed([...hops, ...facts.deliveries.map(deliveryHop)]);
}

const ORIGINS: Record<OutboundFacts['origin']['kind'], string> = {
  app: 'Asked for it through the API',
  route: 'Sent by an automation',
  consent: 'Confirmed the opt-out or opt-in',
  broadcast: 'Sent it to its audience',
  user: 'Wrote it in the conversation',
  provider: 'Wrote it in the conversation',
};

function askedHop(facts: OutboundFacts): TrailHop {
  const { kind, name } = facts.origin;
  return {
    place: name,
    what: ORIGINS[kind],
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
      again: facts.fallback?.state === 'gone' ? undefined : facts.id,
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

function betweenHop(facts: OutboundFacts): TrailHop {
  const passedOn = facts.events.find((event) => event.kind === 'sent');
  const later = facts.events.some(
    (event) => event.kind === 'delivered' || event.kind === 'read' || event.kind === 'undelivered',
  );
  const failedEarlier = facts.events.some((event) => event.kind === 'refused');
  return {
    place: facts.ends.between,
    what: passedOn
      ? 'Passed on'
      : later
        ? 'Passed it on without saying so'
        : facts.noReceipts
          ? 'Nothing is heard of what happens here'
          : 'No receipt from here yet',
    state: passedOn || later ? 'proven' : failedEarlier || facts.noReceipts ? 'not-applicable' : 'unproven',
    at: passedOn?.at,
    notes: passedOn ? receiptNotes(facts.events, 'sent') : [],
    evidence: requestEvidence(facts.events.filter((event) => event.kind === 'sent')),
  };
}

function theirHop(facts: OutboundFacts): TrailHop {
  const place = facts.ends.theirs;
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
      again: facts.fallback?.state === 'gone' ? undefined : facts.id,
    };
  }
  const refused = facts.events.some((event) => event.kind === 'refused');
  return {
    place,
    what: refused
      ? `${facts.to} was never reached`
      : facts.noReceipts
        ? `Whether ${facts.to} got it is not known`
        : `No delivery receipt for ${facts.to} yet`,
    state: refused ? 'not-applicable' : 'unproven',
    notes: !refused && facts.noReceipts ? [facts.noReceipts] : [],
    evidence,
  };
}

function fallbackHop({ events }: OutboundFacts, { over, state, said, at, until }: FallbackFacts): TrailHop {
  const place = 'Second way';
  const base = { place, at, evidence: [], notes: said ? [said] : [] };
  const arrived = events.some(({ kind }) => kind === 'delivered' || kind === 'read');
  switch (state) {
    case 'gone':
      return {
        ...base,
        what: `Went over ${over}`,
        state: 'proven',
        notes: [...base.notes, ...(arrived ? ['The first arrived later after all: the person has it twice'] : [])],
      };
    case 'watched': {
      const when = until === undefined ? 'if this one fails' : `if it is not delivered by ${timeOf(until)}`;
      return { ...base, at: undefined, what: `Goes over ${over} ${when}`, state: 'unproven' };
    }
    case 'waits':
      return { ...base, what: `Goes over ${over} only once this one is known to have failed`, state: 'unproven' };
    case 'stays':
      return { ...base, what: `Did not go over ${over}`, state: 'not-applicable' };
    case 'aside':
      return { ...base, what: `Windgap failed at sending it over ${over}; it is set aside`, state: 'unproven' };
    case 'impossible':
      return { ...base, what: `Could not go over ${over}`, state: 'unproven' };
  }
}

const timeOf = (at: number) => `${new Date(at).toISOString().slice(11, 19)} UTC`;

function explain(event: TrailEvent, who: string, subject?: string): TrailHop['failure'] {
  return event.cause ? explainCause(event.cause, who, event.said, subject) : undefined;
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
