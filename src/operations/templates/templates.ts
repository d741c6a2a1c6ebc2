/** Templates as people write them: making, saving, copying and putting away. */
import { z } from 'zod';
import { STANDARD_ATTRIBUTES } from '../../core/contacts/attributes';
import { recordsIn } from '../../core/hooks/postedRecord';
import { examinePlain, examineTemplate, type Surroundings } from '../../core/templates/examine';
import type { TemplateFinding } from '../../core/templates/finding';
import type { TemplateRules } from '../../core/templates/rules';
import { type Standing, sameContent, standingOf } from '../../core/templates/standing';
import { CATEGORIES, MEDIA_KINDS, type Template } from '../../core/templates/template';
import { listFields } from '../../core/text/fields';
import { detectLanguage } from '../../core/text/language';
import { newId } from '../../store/ids';
import type { TemplateEventRow, TemplateKind, TemplateRow, TemplateVersionRow } from '../../store/schema/rows';
import type { Unit } from '../../store/store';
import {
  type Actor,
  type AppContext,
  asView,
  asViews,
  found,
  invalidText,
  noteChanges,
  OperationError,
  recordAudit,
  requireRole,
  type View,
} from '../context';
import { syncProfiles } from '../profiles';

/** Far above what any platform takes; what a platform takes is a finding and not a refusal to save. */
const text = (most: number) => z.string().max(most);
const contentSchema = z.object({
  name: text(200).trim(),
  category: z.enum(CATEGORIES),
  variants: z
    .array(
      z.object({
        language: text(20).trim(),
        header: z
          .union([
            z.object({ kind: z.literal('text'), text: text(1000) }),
            z.object({
              kind: z.enum(MEDIA_KINDS),
              media: z.object({ id: text(60), name: text(200), type: text(100), bytes: z.number().int() }).optional(),
            }),
          ])
          .optional(),
        body: text(10_000),
        footer: text(1000).optional(),
        buttons: z
          .array(
            z.union([
              z.object({ kind: z.enum(['link', 'call']), label: text(200), target: text(2000) }),
              z.object({ kind: z.literal('quick-reply'), label: text(200) }),
            ]),
          )
          .max(20),
        samples: z.record(z.string().max(60), text(1000)),
      }),
    )
    .min(1)
    .max(40),
});

export type { TemplateEventRow, TemplateKind, TemplateRow, TemplateVersionRow } from '../../store/schema/rows';

export interface TemplateView {
  row: View<TemplateRow>;
  standing: Standing<View<TemplateVersionRow>>;
  /** Newest first. */
  versions: View<TemplateVersionRow>[];
}

export function contentOf({ name, category, variants }: Pick<TemplateRow, 'name' | 'category' | 'variants'>): Template {
  return { name, category, variants };
}

export async function createTemplate(
  ctx: AppContext,
  actor: Actor,
  input: { kind: TemplateKind; accountId?: string; name: string; language: string; from?: string },
): Promise<{ id: string }> {
  requireRole(actor, 'administrator');
  const copied = input.from ? found(await ctx.store.templates.one({ id: input.from }), 'template') : undefined;
  const name = input.name.trim();
  if (!name) throw invalidText('name', 'It has no name.', 'Give it one.');
  const account = input.kind === 'platform' ? await platformAccount(ctx, input.accountId ?? '') : undefined;
  const at = ctx.now();
  const id = newId('tpl', at);
  await refuseTaken(ctx, { kind: input.kind, account_id: account?.id ?? null, name });
  const blank: Template['variants'] = [{ language: input.language || 'en', body: '', buttons: [], samples: {} }];
  await ctx.store.write(async (unit) => {
    await unit.templates.insert([
      {
        id,
        kind: input.kind,
        account_id: account?.id ?? null,
        name,
        category: copied?.category ?? 'transactional',
        variants: copied?.variants ?? blank,
        remote_id: null,
        submitting: null,
        created_at: at,
        changed_at: at,
        changed_by: actor.name,
        archived_at: null,
      },
    ]);
    await note(unit, actor, at, id, { what: 'created', detail: copied ? { said: `a copy of ${copied.name}` } : null });
    await recordAudit(unit, actor, at, {
      action: 'template.created',
      subject: id,
      summary: `Began the template ${name}`,
    });
  });
  return { id };
}

async function platformAccount(ctx: AppContext, id: string) {
  await syncProfiles(ctx);
  const account = await ctx.store.accounts.one({ id });
  if (!account || !ctx.connectors.get(account.connector).templateRules)
    throw invalidText('accountId', 'This account’s platform knows no templates.', 'Choose a business-chat account.');
  return account;
}

async function refuseTaken(
  ctx: AppContext,
  row: Pick<TemplateRow, 'kind' | 'account_id' | 'name'>,
  own?: string,
): Promise<void> {
  const same = await ctx.store.templates.one({ ...row, archived_at: null });
  if (same && same.id !== own)
    throw invalidText('name', `There is a template called ${row.name} already.`, 'Choose another name.');
}

/**
 * Saves what is written; it is submitted by a deed of its own. `seen` is when it was last
 * changed as the writer knows it: what somebody else saved meanwhile is not written over.
 */
export async function saveTemplate(
  ctx: AppContext,
  actor: Actor,
  id: string,
  written: unknown,
  seen: number,
): Promise<{ changedAt: number }> {
  requireRole(actor, 'administrator');
  const row = found(await ctx.store.templates.one({ id }), 'template');
  const parsed = contentSchema.safeParse(written);
  if (!parsed.success) {
    const [issue] = parsed.error.issues;
    throw invalidText(
      issue?.path.join('.') || 'name',
      issue?.message ?? 'It cannot be read.',
      'Correct it and save again.',
    );
  }
  const content = parsed.data as Template;
  if (!content.name) throw invalidText('name', 'It has no name.', 'Give it one.');
  await refuseTaken(ctx, { ...row, name: content.name }, id);
  if (sameContent(content, contentOf(row))) return { changedAt: row.changed_at };
  const at = Math.max(ctx.now(), row.changed_at + 1);
  await ctx.store.write(async (unit) => {
    const changed = await unit.templates.change(
      { id, changed_at: seen },
      { ...content, changed_at: at, changed_by: actor.name },
    );
    if (changed === 0)
      throw new OperationError(
        'conflict',
        `${row.changed_by} saved this template while you were writing. Copy what you wrote and load the page again.`,
      );
    await note(unit, actor, at, id, { what: 'saved' });
  });
  return { changedAt: at };
}

export async function archiveTemplate(ctx: AppContext, actor: Actor, id: string): Promise<void> {
  requireRole(actor, 'administrator');
  const row = found(await ctx.store.templates.one({ id, archived_at: null }), 'template');
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    await unit.templates.change({ id }, { archived_at: at });
    await note(unit, actor, at, id, { what: 'archived' });
    await recordAudit(unit, actor, at, {
      action: 'template.archived',
      subject: id,
      summary: `Archived the template ${row.name}`,
    });
  });
}

/** Writes the history and tells whoever shows the template. */
export async function note(
  unit: Unit,
  actor: Pick<Actor, 'name'>,
  at: number,
  templateId: string,
  {
    what,
    version = null,
    detail = null,
  }: { what: TemplateEventRow['what']; version?: number | null; detail?: TemplateEventRow['detail'] },
): Promise<void> {
  await unit.templateEvents.insert([{ template_id: templateId, at, what, version, by: actor.name, detail }]);
  await noteChanges(unit, at, [['template', templateId]]);
}

/** What a template can be for, as `kind` or `kind account`, and in words. */
export async function templatePurposes(ctx: AppContext, actor: Actor): Promise<[string, string][]> {
  requireRole(actor, 'viewer');
  await syncProfiles(ctx);
  const accounts = (await ctx.store.accounts.all()).filter(
    ({ connector }) => ctx.connectors.has(connector) && ctx.connectors.get(connector).templateRules,
  );
  return [
    ...accounts.map(({ id, name }): [string, string] => [`platform ${id}`, name]),
    ['plain', 'a text over any channel'],
    ['reply', 'a reply from the desk'],
  ];
}

/** Names that variables may have because there is something to fill them with: fields that apps posted lately. */
export async function suggestedVariables(ctx: AppContext, actor: Actor): Promise<string[]> {
  requireRole(actor, 'viewer');
  const posts = await ctx.store.hookPosts.all(undefined, { order: [['id', 'DESC']], limit: 20 });
  const names = recordsIn(posts).flatMap((record) => listFields(record).map(({ name }) => variableName(name)));
  return [...new Set([...STANDARD_ATTRIBUTES.map(variableName), ...names])].filter((name) => name !== '').slice(0, 60);
}

function variableName(field: string): string {
  const last = field.split('.').at(-1) ?? field;
  return last
    .replace(/([a-z])([A-Z])/g, '$1_$2')
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '_')
    .replace(/^[^a-z]+|_+$/g, '')
    .slice(0, 40);
}

export async function listTemplates(ctx: AppContext, actor: Actor): Promise<TemplateView[]> {
  requireRole(actor, 'viewer');
  const rows = await ctx.store.templates.all({ archived_at: null }, { order: [['name', 'ASC']] });
  const versions = await ctx.store.templateVersions.allBy(
    'template_id',
    rows.map(({ id }) => id),
  );
  return rows.map((row) =>
    viewOf(
      row,
      versions.filter(({ template_id }) => template_id === row.id),
    ),
  );
}

export interface TemplatePage extends TemplateView {
  events: View<TemplateEventRow>[];
  rules?: TemplateRules;
  platform?: { accountId: string; name: string };
  around: Omit<Surroundings, 'detect'>;
}

export async function getTemplate(ctx: AppContext, actor: Actor, id: string): Promise<TemplatePage> {
  requireRole(actor, 'viewer');
  const row = found(await ctx.store.templates.one({ id }), 'template');
  const [versions, events, platform] = await Promise.all([
    ctx.store.templateVersions.all({ template_id: id }),
    ctx.store.templateEvents.all({ template_id: id }, { order: [['id', 'DESC']], limit: 100 }),
    platformOf(ctx, row),
  ]);
  return { ...viewOf(row, versions), events: asViews(events), ...platform, around: await surroundingsOf(ctx, row) };
}

function viewOf(row: TemplateRow, versions: TemplateVersionRow[]): TemplateView {
  const views = asViews(versions.sort((a, b) => b.number - a.number));
  return { row: asView(row), versions: views, standing: standingOf(contentOf(row), views) };
}

export async function platformOf(ctx: AppContext, row: TemplateRow): Promise<Pick<TemplatePage, 'rules' | 'platform'>> {
  if (!row.account_id) return {};
  await syncProfiles(ctx);
  const account = found(await ctx.store.accounts.one({ id: row.account_id }), 'account');
  const rules = ctx.connectors.get(account.connector).templateRules;
  return { platform: { accountId: account.id, name: account.name }, ...(rules ? { rules } : {}) };
}

/** What else there is that a template is compared with. */
async function surroundingsOf(ctx: AppContext, row: TemplateRow): Promise<Omit<Surroundings, 'detect'>> {
  if (!row.account_id) return {};
  const others = await ctx.store.templates.all({ account_id: row.account_id, archived_at: null });
  const rejected = await ctx.store.templateVersions.all({ state: 'rejected' }, { order: [['id', 'DESC']], limit: 100 });
  return {
    taken: others.filter(({ id }) => id !== row.id).map(({ name }) => name),
    rejected: rejected
      // Of a template's own rejection its reasons tell.
      .flatMap(({ content, reasons, template_id }) =>
        content.variants.map(({ body }) => ({
          id: template_id,
          name: content.name,
          body,
          reason: reasons[0]?.text ?? 'no reason was given',
        })),
      )
      .filter(({ id }) => id !== row.id)
      .map(({ id: _, ...text }) => text),
  };
}

/** Everything the examination has to say of a template as it is saved. */
export async function examineStored(ctx: AppContext, row: TemplateRow): Promise<TemplateFinding[]> {
  const { rules } = await platformOf(ctx, row);
  const around = { ...(await surroundingsOf(ctx, row)), detect: detectLanguage };
  return rules ? examineTemplate(contentOf(row), rules, around) : examinePlain(contentOf(row), around);
}
