/** What Windgap knows of the paths a complaint is about: causes that evidence names, and what was observed. */
import type { Evidence, Named, Observed } from '../../core/diagnosis/diagnose';
import type { ObservationId } from '../../core/diagnosis/observations';
import type { Symptom } from '../../core/diagnosis/symptoms';
import type { ReadinessFinding } from '../../core/readiness/readiness';
import type { AppContext } from '../context';
import { examineNow } from '../readiness';
import { type Found, LOOKED_BACK, type Scope } from './complaintEvidence';
import { healedEvents, inEvidence, refusedRequests } from './evidenceOfReceiving';
import { askedEvidence, refusedCalls } from './evidenceOfRequests';
import { foreseenEvidence, outEvidence, refusedOrders, twiceEvidence } from './evidenceOfSending';

export type Gathered = Pick<Evidence, 'named' | 'observed' | 'traffic' | 'healed'>;

/** Complaints about what people wrote. */
const INWARD: ReadonlySet<Symptom> = new Set(['replies-missing', 'app-silent']);

export async function gatherEvidence(ctx: AppContext, symptom: Symptom, scope: Scope): Promise<Gathered> {
  const since = ctx.now() - LOOKED_BACK;
  const [readiness, out, inward, asked, refusedIn, twice, foreseen, refused, calls, events] = await Promise.all([
    examineNow(ctx),
    outEvidence(ctx, symptom, scope, since),
    inEvidence(ctx, scope, since),
    askedEvidence(ctx, scope, since),
    refusedRequests(ctx, scope, since),
    twiceEvidence(ctx, scope, since),
    foreseenEvidence(ctx, symptom, scope),
    refusedOrders(ctx, symptom, scope, since),
    refusedCalls(ctx, scope, since),
    healedEvents(ctx, scope, since),
  ]);
  const relevant = await scopeFilter(ctx, scope);
  const setUp = [...readiness.open, ...readiness.muted].filter(
    (finding) => finding.code !== 'unproven' && relevant(finding),
  );
  const found = [out, inward, asked, refusedIn, twice, foreseen, refused, calls];
  const outgoing = !INWARD.has(symptom);
  const healed = outgoing ? out.healed : (refusedIn.healed ?? events.healed);
  return {
    named: [...setUp.map(asNamed), ...found.flatMap(({ named }) => named)].map(withDoubt),
    observed: newestFirst([calls, refused, foreseen, out, inward, asked, refusedIn, twice]),
    traffic: found.some(({ traffic }) => traffic),
    ...(healed ? { healed } : {}),
  };
}

/** One observation of each kind: what was refused at once is newer than what arrived before it. */
function newestFirst(found: readonly Found[]): Observed[] {
  const seenOnce = new Map<ObservationId, Observed>();
  for (const { observed } of found)
    for (const each of observed) if (!seenOnce.has(each.id)) seenOnce.set(each.id, each);
  if (seenOnce.get('out-taken')?.value === false) {
    const delivered = seenOnce.get('out-delivered');
    if (delivered?.value) seenOnce.delete('out-delivered');
  }
  return [...seenOnce.values()];
}

/** What the other side says of credentials that it accepted before is its word: somebody on the way may have taken them out. */
function withDoubt(named: Named, _: number, all: readonly Named[]): Named {
  if (named.code === 'sender-not-owned' && !all.some(({ code }) => code === 'number-gone'))
    return {
      ...named,
      doubt: 'Its own list has the number for this account: what came there may not be what was sent from here.',
    };
  if (named.doubt || !OF_CREDENTIALS.has(named.code)) return named;
  return {
    ...named,
    doubt:
      'The same credentials were accepted before, and were not changed here: they were changed there, or something on the way takes them out of the request.',
  };
}

/** Credentials are saved only once they were accepted. */
const OF_CREDENTIALS = new Set(['credential-refused', 'credential-id-unknown', 'credential-secret-wrong']);

/** A hop that traffic broke was named by that traffic, and not by looking at settings. */
function asNamed(finding: ReadinessFinding): Named {
  const broken = finding.severity === 'error' && finding.since !== undefined && PROOF_HOPS.has(finding.about ?? '');
  return {
    code: finding.code,
    by: broken ? 'told' : 'set-up',
    ...(finding.subject.kind === 'engine' ? { own: true as const } : {}),
    ...(broken && !SHOWN_BY_SETTINGS.has(finding.code) ? { stands: true as const } : {}),
    said: `${finding.subject.name}: ${finding.problem}`,
    remedy: finding.remedy,
    subject: finding.subject.name,
    href: finding.subject.href,
    ...(finding.action ? { action: finding.action } : {}),
    ...(finding.since === undefined ? {} : { at: finding.since }),
  };
}

/** Where the provider’s own settings, read since, say otherwise, what was met came too late to count. */
const SHOWN_BY_SETTINGS = new Set(['inbound-method']);

const PROOF_HOPS = new Set(['credential', 'outbound', 'receipt', 'inbound', 'call-in', 'call-out']);

async function scopeFilter(ctx: AppContext, { channel, app }: Scope): Promise<(finding: ReadinessFinding) => boolean> {
  if (!channel && !app) return () => true;
  const row = channel ? await ctx.store.channels.one({ id: channel }) : undefined;
  return ({ subject, affects }) => {
    if (subject.kind === 'channel') return !channel || subject.id === channel;
    if (subject.kind === 'account') return !channel || subject.id === row?.account_id;
    if (subject.kind === 'app') return !app || subject.id === app;
    if (subject.kind === 'automation') return !app || subject.href.startsWith(`/apps/${app}`);
    return affects.length === 0 || affects.includes('*') || affects.includes(channel ?? '');
  };
}
