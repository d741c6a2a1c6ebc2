/** The way in: from a handset to the routes and the apps. Built from stored facts alone. */
import { type CauseCode, cause } from '../delivery/causes';
import { deliveryHop, type TrailEnds } from './delivery';
import { type EvidenceRef, type TrailHop, withElapsed } from './hop';

export interface InboundFacts extends TrailEnds {
  /** When the provider says it was sent. */
  sentAt?: number;
  receivedAt: number;
  processedAt?: number;
  signature: string;
  /** What the request was answered, where it was turned away at first and taken later. */
  refusedWith?: number;
  inboundRequestId?: string;
  viaFallback: boolean;
  /** The form in which the provider wrote the sender, when we changed it. */
  writtenFrom?: string;
  contactName: string;
  routing?: RoutingFacts;
  repeats: number;
}

/** What was decided of a message, and what became of it. */
export interface RoutingFacts {
  outcome: 'routed' | 'unrouted' | 'answer' | 'consent' | 'automatic' | 'held' | 'asking';
  /** In order. */
  routes: string[];
  revision: number;
  at: number;
  cause?: CauseCode;
  /** Conditions with what they saw. */
  because: string[];
  steps: { said: string; at: number; failed?: { problem: string; remedy: string }; waits?: boolean }[];
}

/** What came over a connection that we hold open to the provider: nobody else can have sent it. */
const HELD: Readonly<Record<string, { place: string; what: string }>> = {
  bind: { place: 'Bind', what: 'Delivered it over the trunk' },
  fetched: { place: 'Mailbox', what: 'Had it in the mailbox, where it was read' },
};

/** Where it was taken in, and whether it is known who posted it. */
function intakeHop({ signature, refusedWith, receivedAt }: InboundFacts, evidence: EvidenceRef[]): TrailHop {
  const held = HELD[signature];
  return {
    place: held?.place ?? 'Inbound URL',
    what: [
      refusedWith === undefined
        ? 'Stored before it was answered'
        : `Refused with ${refusedWith} at first, and taken later`,
      ...(held ? [] : [`signature ${signature}`]),
    ].join('; '),
    state: held || signature === 'valid' ? 'proven' : 'unproven',
    at: receivedAt,
    notes:
      signature === 'not-used'
        ? ['This connector has no signature, so anyone with the address could have posted it']
        : [],
    evidence,
  };
}

export function inboundTrail(facts: InboundFacts): TrailHop[] {
  const evidence: EvidenceRef[] = facts.inboundRequestId
    ? [{ kind: 'inbound-request', id: facts.inboundRequestId }]
    : [];
  const hops: TrailHop[] = [
    {
      place: facts.ends.theirs,
      what: `${facts.from} wrote to ${facts.to}`,
      state: 'proven',
      at: facts.sentAt,
      notes: facts.sentAt === undefined ? ['The provider did not say when'] : ['Time as the provider gives it'],
      evidence: [],
    },
    {
      place: facts.providerName,
      what:
        HELD[facts.signature]?.what ??
        (facts.viaFallback ? 'Posted it to the fallback address' : 'Posted it to the inbound URL'),
      state: 'proven',
      at: facts.receivedAt,
      notes: facts.viaFallback ? ['The provider got no 2xx from the inbound URL itself'] : [],
      evidence,
    },
    intakeHop(facts, evidence),
    {
      place: facts.channelName,
      what: `Read as a message from ${facts.contactName}`,
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
    routeHop(facts),
  ];
  return withElapsed([...hops, ...facts.deliveries.map(deliveryHop)]);
}

function routeHop({ routing, contactName, processedAt }: InboundFacts): TrailHop {
  const base = { place: 'Route', at: routing?.at ?? processedAt, evidence: [] };
  if (!routing)
    return { ...base, what: 'Came before routes were kept; it is on the shared desk', state: 'unproven', notes: [] };
  const names = routing.routes.map((name) => `“${name}”`).join(', then ');
  const broken = routing.steps.find(({ failed }) => failed)?.failed;
  const code = routing.cause ?? (broken ? 'automation-failed' : undefined);
  const known = code && cause(code);
  const notes = [
    ...(routing.revision > 0 ? [`Revision ${routing.revision} of the routes decided`] : []),
    ...routing.because,
    ...routing.steps.map(({ said, failed, waits }) => `${waits ? 'Waiting: ' : 'Step: '}${failed?.problem ?? said}`),
  ];
  return {
    ...base,
    what: {
      routed: `Handled by ${names}`,
      unrouted: 'No route matched; it is on the shared desk only',
      answer: `Answered what ${names} had asked`,
      consent: 'An opt-out or opt-in word, which goes before any route',
      automatic: 'A program wrote it, so no route answers it; it is in the conversation',
      held: `${names} would handle it, but no automatic answer was sent`,
      asking: 'An app is being asked before it is decided',
    }[routing.outcome],
    state: known ? 'broken' : routing.outcome === 'asking' ? 'unproven' : 'proven',
    notes,
    ...(known && code
      ? {
          failure: {
            code,
            title: known.title,
            explanation: broken?.problem ?? known.explain({ subject: contactName }),
            remedy: broken?.remedy ?? known.remedy,
          },
        }
      : {}),
  };
}
