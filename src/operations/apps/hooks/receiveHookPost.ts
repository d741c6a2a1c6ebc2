/**
 * What happens while an app waits for the answer to its post: the post is judged, mapped and
 * stored with the run it begins, and answered with every reason when there is none.
 */
import { timingSafeEqual } from 'node:crypto';
import { clientOf } from '../../../core/addresses/client';
import { type CauseCode, cause } from '../../../core/delivery/causes';
import { type HookFinding, type HookOrder, orderFrom } from '../../../core/hooks/order';
import { readPost } from '../../../core/hooks/post';
import { signatureProblem } from '../../../core/signing/standardWebhooks';
import type { SendStep } from '../../../core/steps/steps';
import type { PostedRecord } from '../../../core/text/fields';
import { newId } from '../../../store/ids';
import type { HookPostRow, SendHookRow } from '../../../store/schema/rows';
import type { Unit } from '../../../store/store';
import { orderOfRecord } from '../../broadcasts';
import { withPeople } from '../../contacts';
import { type AppContext, noteChanges } from '../../context';
import { fault, recordFacts, type SubjectFact } from '../../proofs';
import { beginRun } from '../../runs';
import { definitionOf, isWritten } from './hookMessage';
import { otherHookLike } from './hookPages';

export const LARGEST_POST = 256 * 1024;
const KEPT_OF_UNREADABLE = 16 * 1024;

export interface HookPost {
  /** What stands behind `/hooks/`. */
  address: string;
  method: string;
  headers: Record<string, string>;
  /** Undefined when it was over the limit and not read. */
  body: Buffer | undefined;
  remoteAddress: string | null;
  /** Posted by a delivery test, which proves nothing of the app. */
  asTest?: boolean;
}

export interface HookAnswer {
  status: number;
  /** Of the stored post; absent when nobody's address was called. */
  postId?: string;
  reason: string;
  findings: HookFinding[];
  /** The answer was given before, to the same idempotency key. */
  replayed?: boolean;
}

function refused(status: number, code: CauseCode, reason: string): Verdict {
  return { status, state: 'refused', cause: code, reason };
}

interface Verdict {
  status: number;
  state: HookPostRow['state'];
  reason: string;
  cause?: CauseCode;
  findings?: HookFinding[];
  order?: HookOrder;
  /** What was read of the post. */
  record?: PostedRecord;
}

const DAY = 24 * 3_600_000;

export async function takeHookPost(ctx: AppContext, post: HookPost): Promise<HookAnswer> {
  const cut = post.address.lastIndexOf('-');
  const hook = await ctx.store.hooks.one({ token: post.address.slice(cut + 1) });
  if (!hook) return { status: 404, reason: 'There is no send hook at this address.', findings: [] };
  const at = ctx.now();
  const key = post.headers['idempotency-key'] ?? post.headers['webhook-id'] ?? null;
  const verdict = await judge(ctx, hook, post, post.address.slice(0, cut));
  const id = newId('pst', at);
  // Whoever does not show that they are the app, or posts what nothing is made of, fills no disk.
  const kept =
    verdict.state === 'refused' && !post.asTest
      ? ctx.refused.keep(hook.id, clientOf(post.remoteAddress ?? ''), post.body?.length ?? 0)
      : 'whole';
  const { status, reason, findings = [] } = verdict;
  if (kept === 'not') return { status, reason, findings };
  const row: HookPostRow = {
    id,
    hook_id: hook.id,
    received_at: at,
    method: post.method,
    path: `/hooks/${post.address}`,
    headers: storable(post.headers),
    body: kept === 'whole' ? keptBody(post.body, verdict) : '',
    record: kept === 'whole' ? (verdict.record ?? null) : null,
    remote_address: post.remoteAddress,
    state: verdict.state,
    answer_status: verdict.status,
    cause: verdict.cause ?? null,
    reason: kept === 'whole' ? reason : `${reason} So many came that no more are kept within this hour.`,
    findings: verdict.findings ?? null,
    // Only what was taken must not happen again; what was refused may be corrected and sent again.
    idempotency_key: verdict.state === 'taken' ? key : null,
    run_id: null,
    broadcast_id: null,
  };
  const first = await ctx.store.write(async (unit) => {
    const before = key === null ? undefined : await unit.hookPosts.one({ hook_id: hook.id, idempotency_key: key });
    if (before && at - before.received_at < DAY) return before;
    if (before) await unit.hookPosts.change({ id: before.id }, { idempotency_key: null });
    if (verdict.order)
      row.run_id = await beginRun(unit, { ...runOf(hook, id, verdict.order), asTest: post.asTest }, at);
    if (verdict.record && goesToAudience(hook) && row.state === 'taken' && !post.asTest)
      row.broadcast_id = await beginBroadcast(unit, hook, verdict.record, at);
    await unit.hookPosts.insert([row]);
    if (!post.asTest) await recordFacts(unit, factsOf(hook, row), at);
    await noteChanges(unit, at, [
      ['app', hook.app_id],
      ['run', hook.id],
    ]);
    return row;
  });
  if (first !== row) return { status: 202, postId: first.id, reason: first.reason ?? '', findings: [], replayed: true };
  if (row.run_id) ctx.engineWakeUp.ring('runs');
  if (row.broadcast_id) ctx.engineWakeUp.ring('broadcasts');
  return { status, postId: id, reason, findings };
}

/** Written, and to people that the record does not name. */
const goesToAudience = (hook: SendHookRow) => hook.audience_id !== null && isWritten(hook);

/** The app that posts has ordered it, sees it, and is told of it. */
async function beginBroadcast(unit: Unit, hook: SendHookRow, record: PostedRecord, at: number): Promise<string> {
  const app = await unit.apps.one({ id: hook.app_id });
  if (!hook.audience_id || hook.sender?.by !== 'channel') throw new Error('A send hook has no audience or no channel');
  return orderOfRecord(
    unit,
    {
      name: hook.name,
      by: { id: hook.app_id, name: app?.name ?? hook.name },
      text: hook.text,
      ...(hook.template ? { template: hook.template } : {}),
      audienceId: hook.audience_id,
      channelId: hook.sender.channel,
      record,
    },
    at,
  );
}

/** Whole, as a record may be read of it; of what is no record the beginning shows what it was. */
function keptBody(body: Buffer = Buffer.alloc(0), { cause }: Verdict): string {
  return cause === 'hook-unreadable' ? body.subarray(0, KEPT_OF_UNREADABLE).toString('utf8') : body.toString('utf8');
}

function runOf(hook: SendHookRow, postId: string, order: HookOrder) {
  if (!hook.sender) throw new Error('A send hook made a message without a sender');
  const step: SendStep = { kind: 'send', ...order, sender: hook.sender, tags: hook.tags };
  return { appId: hook.app_id, source: 'hook' as const, sourceId: hook.id, subjectId: postId, steps: [step] };
}

/** A taken post shows that the app reaches us; the hook itself is proven by the message that comes of it. */
function factsOf(hook: SendHookRow, row: HookPostRow): SubjectFact[] {
  const { received_at: at, id: ref } = row;
  if (row.cause) return [fault(hook.id, row.cause, at, ref)];
  return [{ subject: hook.app_id, fact: { kind: 'called-in', began: at, at, ref } }];
}

async function judge(ctx: AppContext, hook: SendHookRow, post: HookPost, slug: string): Promise<Verdict> {
  if (slug !== hook.slug) {
    const { explain } = cause('hook-name-mismatch');
    return refused(409, 'hook-name-mismatch', explain({ subject: `“${slug}”`, who: `“${hook.slug}”` }));
  }
  if (hook.disabled_at !== null) {
    const why = hook.disabled_why ? `: ${hook.disabled_why}` : '';
    return refused(410, 'hook-off', `The send hook “${hook.name}” is switched off${why}.`);
  }
  if (post.method !== 'POST') return refused(405, 'hook-unreadable', `${post.method} is not taken here; use POST.`);
  if (!post.body) return refused(413, 'hook-unreadable', `The post is over ${LARGEST_POST / 1024} KB.`);
  const text = post.body.toString('utf8');
  const guard = guardProblem(ctx, hook, post.headers, text);
  if (guard) return refused(401, 'hook-guard-refused', guard);
  const read = readPost(post.headers['content-type'], text);
  if (!read.ok) return refused(422, 'hook-unreadable', `The post cannot be read: ${read.reason}.`);
  if (goesToAudience(hook))
    return {
      status: 202,
      state: 'taken',
      reason: post.asTest ? 'A test begins no broadcast.' : 'A broadcast to the audience begins.',
      record: read.record,
    };
  return { ...(await judgeRecord(ctx, hook, read.record)), record: read.record };
}

/** What a post that could be read becomes. */
async function judgeRecord(ctx: AppContext, hook: SendHookRow, record: PostedRecord): Promise<Verdict> {
  const definition = await definitionOf(ctx.store, hook);
  if (!definition)
    return { status: 202, state: 'sample', reason: 'Kept as a sample: nobody has written this hook’s message yet.' };
  const result = orderFrom(await withPeople(ctx.store, definition, [record]), record);
  if (result.ok) return { status: 202, state: 'taken', reason: 'A message is on its way.', order: result.order };
  const { findings } = result;
  const other = await otherHookLike(ctx, hook, record);
  if (other) {
    const { explain, remedy } = cause('hook-other-shape');
    const reason = `${explain({ subject: other })} ${remedy}`;
    return { ...refused(422, 'hook-other-shape', reason), findings };
  }
  const reason = findings.map((finding) => finding.problem).join(' ');
  return { ...refused(422, 'hook-record-refused', reason), findings };
}

/** What is wrong with the proof that it is the app that posts; undefined when nothing is. */
function guardProblem(
  ctx: AppContext,
  hook: SendHookRow,
  headers: Record<string, string>,
  body: string,
): string | undefined {
  if (hook.guard === 'address' || !hook.sealed_secret) return undefined;
  const [secret = ''] = ctx.sealer.open<string[]>(hook.sealed_secret);
  if (hook.guard === 'token') {
    const given = /^Bearer (\S+)$/i.exec(headers.authorization ?? '')?.[1];
    if (given === undefined) return 'there is no bearer token in the Authorization header';
    return sameText(given, secret) ? undefined : 'the bearer token is not this hook’s';
  }
  const problem = signatureProblem(headers, body, secret, ctx.now());
  return problem && `the signature does not fit: ${problem}`;
}

function sameText(a: string, b: string): boolean {
  return a.length === b.length && timingSafeEqual(Buffer.from(a), Buffer.from(b));
}

/** What shows who calls is not kept. */
function storable({ authorization, cookie, ...headers }: Record<string, string>): Record<string, string> {
  return authorization ? { ...headers, authorization: '…' } : headers;
}
