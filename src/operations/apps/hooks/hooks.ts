/** Send hooks: addresses Windgap gives to apps. A record posted there becomes a message. */
import { randomBytes } from 'node:crypto';
import type { KnownPeople } from '../../../core/contacts/attributes';
import type { Finding } from '../../../core/finding';
import { examineHook, type HookExamination, meantFor } from '../../../core/hooks/examineHook';
import type { HookDefinition, HookSender } from '../../../core/hooks/order';
import { recordsIn } from '../../../core/hooks/postedRecord';
import { newWebhookSecret } from '../../../core/signing/standardWebhooks';
import { allVariables } from '../../../core/templates/template';
import { listFields, type PostedRecord } from '../../../core/text/fields';
import { mergeText } from '../../../core/text/merge';
import { newId } from '../../../store/ids';
import type { HookGuard, HookPostRow, RunRow, SendHookRow, TemplateUse } from '../../../store/schema/rows';
import type { Tables } from '../../../store/schema/tables';
import type { Unit } from '../../../store/store';
import { knownIn, withPeople } from '../../contacts';
import {
  type Actor,
  type AppContext,
  found,
  hasRole,
  invalid,
  invalidText,
  newToken,
  requireRole,
  withoutTokens,
} from '../../context';
import { beginProofs, groupProofs, type HopProof } from '../../proofs';
import { noteAutomation } from '../../runs';
import { problemOf, servedContent } from '../../templates';

export const HOOK_HOPS = ['call-in'] as const;

/** `/hooks/` name `-` token: the name so that a pasted address can be recognised, the token because it cannot be guessed. */
export function hookUrl(ctx: AppContext, hook: Pick<SendHookRow, 'slug' | 'token'>): string {
  return `${ctx.config.publicUrl}/hooks/${hook.slug}-${hook.token}`;
}

export async function createHook(
  ctx: AppContext,
  actor: Actor,
  input: { appId: string; name: string },
): Promise<{ id: string; url: string }> {
  requireRole(actor, 'administrator');
  const app = found(await ctx.store.apps.one({ id: input.appId }), 'app');
  const at = ctx.now();
  const id = newId('hok', at);
  const address = newToken(input.name, 'hook');
  const cut = address.lastIndexOf('-');
  const slug = address.slice(0, cut);
  const token = address.slice(cut + 1);
  await ctx.store.write(async (unit) => {
    const name = await readName(unit, app.id, input.name);
    await unit.hooks.insert([
      {
        id,
        app_id: app.id,
        name,
        slug,
        token,
        text: '',
        phone_field: '',
        country: null,
        sender: null,
        media_field: null,
        tags: [],
        template: null,
        guard: 'address',
        sealed_secret: null,
        created_at: at,
        changed_at: at,
        disabled_at: null,
        disabled_why: null,
      },
    ]);
    await beginProofs(unit, id, HOOK_HOPS, at);
    await noteAutomation(
      unit,
      actor,
      at,
      { id, app_id: app.id },
      { action: 'hook.created', summary: `${app.name} gets the send hook “${name}”` },
    );
  });
  return { id, url: hookUrl(ctx, { slug, token }) };
}

async function readName(unit: Unit, appId: string, text: string, own?: string): Promise<string> {
  const name = text.trim();
  if (!name) throw invalidText('name', 'The send hook has no name.', 'Say what it sends, such as “Booking confirmed”.');
  const same = await unit.hooks.one({ app_id: appId, name });
  if (same && same.id !== own)
    throw invalidText('name', `This app has a send hook called ${name} already.`, 'Choose another name.');
  return name;
}

/** How a message of records leaves. */
export interface SenderInput {
  sender: HookSender;
}

export interface HookInput extends SenderInput {
  name: string;
  text: string;
  phoneField: string;
  country?: string;
  mediaField?: string;
  tags?: string[];
  /** Sent instead of the text. */
  template?: TemplateUse;
}

export async function changeHook(ctx: AppContext, actor: Actor, id: string, input: HookInput): Promise<void> {
  requireRole(actor, 'administrator');
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    const before = found(await unit.hooks.one({ id }), 'send hook');
    const message = await readMessage(unit, input);
    const name = await readName(unit, before.app_id, input.name, id);
    await unit.hooks.change({ id }, { ...message, name, changed_at: at });
    await noteAutomation(unit, actor, at, before, {
      action: 'hook.changed',
      summary: `Changed the send hook “${name}”`,
      touches: HOOK_HOPS,
      note: 'its message was changed',
    });
  });
}

/** What records become, as its columns hold it. Throws what is wrong at its field. */
export async function readMessage(unit: Unit, input: HookInput) {
  if (input.template) await requireTemplate(unit, input.template);
  else requireText(input.text);
  if (!input.phoneField.trim())
    throw invalidText('phoneField', 'The field with the phone number is not chosen.', 'Choose it from a real post.');
  await requireSender(unit, input.sender);
  return {
    text: input.template ? '' : input.text.trim(),
    phone_field: input.phoneField.trim(),
    country: input.country || null,
    sender: input.sender,
    media_field: input.mediaField || null,
    template: input.template ?? null,
    tags: [...new Set((input.tags ?? []).map((tag) => tag.trim()).filter(Boolean))],
  };
}

function requireText(text: string): void {
  if (!text.trim()) throw invalidText('text', 'There is no message.', 'Write what is to be sent.');
  // Findings about a field need a post; what no post could fix is refused here.
  const broken = mergeText(text, {}).findings.find((finding) => finding.code === 'merge-broken');
  if (broken) throw invalid('text', broken);
}

async function requireTemplate(unit: Unit, { id, mapping }: TemplateUse): Promise<void> {
  const served = await servedContent(unit, id);
  if (!served) throw invalidText('template', 'There is no such template.', 'Choose one.');
  const missing = allVariables(served.content.variants).find((name) => mapping[name] === undefined);
  if (missing !== undefined)
    throw invalidText(
      `template.${missing}`,
      `Nothing is mapped to {{ ${missing} }}.`,
      'Choose a field, an attribute or a constant.',
    );
}

async function requireSender(unit: Unit, sender: HookSender): Promise<void> {
  const id = sender.by === 'channel' ? sender.channel : sender.by === 'thread' ? sender.otherwise : undefined;
  if (id !== undefined && !(await unit.channels.one({ id })))
    throw invalidText('channel', 'The number to send from is not chosen.', 'Choose a channel.');
  if (sender.by === 'field' && !sender.field)
    throw invalidText('senderField', 'The field that names the sender is not chosen.', 'Choose a field.');
}

/** How the app shows that it is the one. The secret or token is answered this once. */
export async function guardHook(
  ctx: AppContext,
  actor: Actor,
  id: string,
  guard: HookGuard,
): Promise<{ secret: string | undefined }> {
  requireRole(actor, 'administrator');
  const at = ctx.now();
  const secret =
    guard === 'signature' ? newWebhookSecret() : guard === 'token' ? randomBytes(24).toString('base64url') : undefined;
  await ctx.store.write(async (unit) => {
    const before = found(await unit.hooks.one({ id }), 'send hook');
    await unit.hooks.change({ id }, { guard, sealed_secret: secret ? ctx.sealer.seal([secret]) : null });
    const words = { address: 'its address alone', token: 'a token', signature: 'a signature' }[guard];
    await noteAutomation(unit, actor, at, before, {
      action: 'hook.guarded',
      summary: `“${before.name}” is now guarded by ${words}`,
      touches: HOOK_HOPS,
      note: 'how it is guarded was changed',
    });
  });
  return { secret };
}

/** A hook that is switched off answers 410 with the reason, so that the app's people learn it where they look. */
export async function switchHook(ctx: AppContext, actor: Actor, id: string, on: boolean, why = ''): Promise<void> {
  requireRole(actor, 'administrator');
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    const before = found(await unit.hooks.one({ id }), 'send hook');
    await unit.hooks.change({ id }, { disabled_at: on ? null : at, disabled_why: on ? null : why.trim() || null });
    const summary = `Switched the send hook “${before.name}” ${on ? 'on' : 'off'}`;
    await noteAutomation(unit, actor, at, before, {
      action: on ? 'hook.on' : 'hook.off',
      summary: summary,
      touches: HOOK_HOPS,
      note: on ? 'it was switched on' : 'it was switched off',
    });
  });
}

type MessageColumns = Pick<SendHookRow, 'text' | 'phone_field' | 'country' | 'sender' | 'media_field' | 'template'>;

/** What a hook makes of posts; undefined while nobody has written its message. */
export async function definitionOf(tables: Tables, hook: MessageColumns): Promise<HookDefinition | undefined> {
  if (!hook.sender || !isWritten(hook)) return undefined;
  const served = hook.template ? await servedContent(tables, hook.template.id) : undefined;
  if (hook.template && !served) return undefined;
  return {
    ...(hook.template && served ? { template: { ...hook.template, variants: served.content.variants } } : {}),
    text: hook.text,
    phoneField: hook.phone_field,
    country: hook.country ?? undefined,
    sender: hook.sender,
    mediaField: hook.media_field ?? undefined,
  };
}

function isWritten({ text, template, sender }: Pick<MessageColumns, 'text' | 'template' | 'sender'>): boolean {
  return (text !== '' || template !== null) && sender !== null;
}

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
  post: HookPostRow;
  /** What became of it; absent when nothing was to. */
  run?: Pick<RunRow, 'state' | 'results' | 'due_at'>;
  messageId?: string;
}

export interface HookView {
  summary: HookSummary;
  hook: Omit<SendHookRow, 'token' | 'sealed_secret'>;
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
    hook,
    app: { id: app.id, name: app.name },
    posts: posts.map((post) => {
      const run = runs.get(post.run_id ?? '');
      return {
        post: { ...post, path: withoutTokens(post.path) },
        run,
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
