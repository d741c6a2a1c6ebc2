/** Send hooks as pages show them, with their latest posts. */
import type { KnownPeople } from '../../../core/contacts/attributes';
import type { Finding } from '../../../core/finding';
import { examineHook, type HookExamination, meantFor } from '../../../core/hooks/examineHook';
import { recordsIn } from '../../../core/hooks/postedRecord';
import { listFields, type PostedRecord } from '../../../core/text/fields';
import type { HookPostRow, RunRow, SendHookRow } from '../../../store/schema/rows';
import { noteReading } from '../../audit';
import { knownIn, withPeople } from '../../contacts';
import {
  type Actor,
  type AppContext,
  asView,
  found,
  hasRole,
  requireReached,
  requireRole,
  type View,
  withoutTokens,
} from '../../context';
import { groupProofs, type HopProof } from '../../proofs';
import { problemOf } from '../../templates';
import { definitionOf, isWritten } from './hookMessage';
import { hookUrl } from './hooks';

export interface HookSummary {
  id: string;
  name: string;
  url: string;
  proofs: HopProof[];
  disabledAt: number | null;
  disabledWhy: string | null;
  /** Whether it has a message yet. */
  ready: boolean;
  lastPostAt: number | null;
  /** Within the last seven days. */
  taken: number;
  refused: number;
}

const WEEK = 7 * 24 * 3_600_000;

/** The address is whole for those who may set the app up; whoever knows it can send messages. */
export async function listHooks(ctx: AppContext, actor: Actor, appId: string): Promise<HookSummary[]> {
  await requireReached(ctx.store, actor, 'app', appId);
  const mayKnow = hasRole(actor, 'administrator');
  const hooks = await ctx.store.hooks.all({ app_id: appId }, { order: [['id', 'ASC']] });
  const ids = hooks.map(({ id }) => id);
  const [proofs, counts] = await Promise.all([
    ctx.store.proofs.all({ subject_id: ids }),
    ctx.store.select<{ id: string; last: number; taken: number; refused: number }>(
      `SELECT hook_id AS id, max(received_at) AS last, sum(state = 'taken') AS taken, sum(state = 'refused') AS refused
         FROM hook_posts WHERE hook_id IN (:ids) AND received_at > :since GROUP BY hook_id`,
      { ids: ids.length > 0 ? ids : [''], since: ctx.now() - WEEK },
    ),
  ]);
  const grouped = groupProofs(proofs, ctx.now());
  const counted = new Map(counts.map((row) => [row.id, row]));
  return hooks.map((hook) => ({
    id: hook.id,
    name: hook.name,
    url: mayKnow ? hookUrl(ctx, hook) : withoutTokens(hookUrl(ctx, hook)),
    proofs: grouped.get(hook.id) ?? [],
    disabledAt: hook.disabled_at,
    disabledWhy: hook.disabled_why,
    ready: isWritten(hook),
    lastPostAt: counted.get(hook.id)?.last ?? null,
    taken: counted.get(hook.id)?.taken ?? 0,
    refused: counted.get(hook.id)?.refused ?? 0,
  }));
}

export interface HookPostView {
  post: View<HookPostRow>;
  /** What became of it; absent when nothing was to. */
  run?: View<Pick<RunRow, 'state' | 'results' | 'due_at'>>;
  messageId?: string;
}

export interface HookView {
  summary: HookSummary;
  hook: View<Omit<SendHookRow, 'token' | 'sealed_secret'>>;
  app: { id: string; name: string };
  posts: HookPostView[];
  /** The latest records, newest first, to choose fields from and to preview with. */
  samples: PostedRecord[];
  /** Those whom the samples name. */
  people: KnownPeople;
  examination?: HookExamination;
  /** What keeps its template from being sent. */
  templateProblem?: Finding;
}

/** Samples a hook is examined with. */
const SAMPLES = 20;

const POSTS_SHOWN = 25;

export async function getHook(ctx: AppContext, actor: Actor, id: string): Promise<HookView> {
  requireRole(actor, 'viewer');
  const { token: _, sealed_secret: __, ...hook } = found(await ctx.store.hooks.one({ id }), 'send hook');
  const app = found(await ctx.store.apps.one({ id: hook.app_id }), 'app');
  const summary = found(
    (await listHooks(ctx, actor, hook.app_id)).find((entry) => entry.id === id),
    'send hook',
  );
  await noteReading(ctx, actor, id, `the address of the send hook ${hook.name}`);
  const posts = await ctx.store.hookPosts.all({ hook_id: id }, { order: [['id', 'DESC']], limit: POSTS_SHOWN });
  const runIds = posts.flatMap(({ run_id }) => run_id ?? []);
  const runs = new Map((await ctx.store.runs.allBy('id', runIds)).map((row) => [row.id, row]));
  const samples = recordsOf(posts).slice(0, SAMPLES);
  const written = await definitionOf(ctx.store, hook);
  const definition = written && (await withPeople(ctx.store, written, samples));
  const templateProblem = hook.template ? await problemOf(ctx.store, hook.template.id) : undefined;
  const examined = definition && samples.length > 0 ? examineHook(definition, samples) : undefined;
  return {
    summary,
    hook: asView(hook),
    app: { id: app.id, name: app.name },
    posts: posts.map((post) => {
      const run = runs.get(post.run_id ?? '');
      return {
        post: asView({ ...post, path: withoutTokens(post.path) }),
        run: run && asView(run),
        messageId: run?.results.find((result) => result.ref?.startsWith('msg_'))?.ref,
      };
    }),
    samples,
    people: await knownIn(ctx.store, samples, hook.country ?? undefined),
    examination: examined,
    templateProblem,
  };
}

/** Records of posts that could be read, in the order given. A post to a wrong address is no sample. */
function recordsOf(posts: readonly HookPostRow[]): PostedRecord[] {
  return recordsIn(posts.filter(({ cause }) => cause !== 'hook-name-mismatch' && cause !== 'hook-guard-refused'));
}

/** The hook of the same installation whose posts look like this one, when it is another. */
export async function otherHookLike(
  ctx: AppContext,
  hook: SendHookRow,
  record: PostedRecord,
): Promise<string | undefined> {
  const shape = async ({ id, name }: Pick<SendHookRow, 'id' | 'name'>) => {
    const [post] = await ctx.store.hookPosts.all(
      { hook_id: id, state: 'taken' },
      { order: [['id', 'DESC']], limit: 1 },
    );
    const [known] = post ? recordsOf([post]) : [];
    return { id, name, fields: known ? listFields(known).map((field) => field.name) : [] };
  };
  const others = (await ctx.store.hooks.all()).filter(({ id }) => id !== hook.id);
  return meantFor(record, await shape(hook), await Promise.all(others.map(shape)))?.name;
}
