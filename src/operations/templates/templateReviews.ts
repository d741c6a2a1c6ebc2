/** Templates and their platform: submitting, asking after them, and hearing what became of them. */
import type { ReviewItem, TemplateReview } from '../../connectors/connector';
import { cause } from '../../core/delivery/causes';
import {
  type Decided,
  type History,
  type HitRate,
  hitRate,
  learnAll,
  type Prediction,
  predictRejection,
} from '../../core/templates/prediction';
import { mayBecome } from '../../core/templates/standing';
import type { ProviderAccountRow, TemplateRow, TemplateVersionRow } from '../../store/schema/rows';
import type { Unit } from '../../store/store';
import {
  type Actor,
  type AppContext,
  exchangeRows,
  found,
  noteChanges,
  notOnTrial,
  OperationError,
  recordAudit,
  requireRole,
} from '../context';
import { tellAdministrators } from '../people';
import { openCredentials, syncProfiles } from '../profiles';
import { examineStored, note } from './templates';

const MINUTE = 60_000;

/** How soon a review is asked after first, and how often at least. */
const ASK_AGAIN = 2000;

const ASK_AT_LEAST_EVERY = 60 * MINUTE;

/** An approved template can be paused at any time; a platform that cannot tell by itself is asked now and then. */
const ASK_OF_APPROVED_EVERY = 6 * 60 * MINUTE;

/** What this installation has seen of rejections, and how often its predictions came true. */
export async function readReviewHistory(ctx: AppContext): Promise<{ history: History; rate: HitRate }> {
  const decided = await ctx.store.select<{ state: string; findings: string; likelihood: number }>(
    `SELECT state, findings, likelihood FROM template_versions WHERE decided_at IS NOT NULL ORDER BY id`,
  );
  const outcomes = decided.map(({ state, findings, likelihood }) => ({
    findings: JSON.parse(findings) as Decided['findings'],
    rejected: state === 'rejected',
    likelihood,
  }));
  return { history: learnAll(outcomes), rate: hitRate(outcomes) };
}

export async function predictFor(
  ctx: AppContext,
  actor: Actor,
  id: string,
): Promise<{ prediction: Prediction; rate: HitRate }> {
  requireRole(actor, 'viewer');
  const row = found(await ctx.store.templates.one({ id }), 'template');
  const [findings, { history, rate }] = await Promise.all([examineStored(ctx, row), readReviewHistory(ctx)]);
  return { prediction: predictRejection(findings, history), rate };
}

export async function platformFor(ctx: AppContext, row: TemplateRow) {
  await syncProfiles(ctx);
  const account = found(row.account_id ? await ctx.store.accounts.one({ id: row.account_id }) : undefined, 'account');
  return { account, connector: ctx.connectors.get(account.connector) };
}

/** Soon at first, as some decide within seconds, then ever more seldom. `waitedMs`: since it was submitted. */
export function untilNextCheck(waitedMs: number): number {
  return Math.min(Math.max(waitedMs / 2, ASK_AGAIN), ASK_AT_LEAST_EVERY);
}

/** Asks the platform now. */
export async function checkTemplate(ctx: AppContext, actor: Actor, id: string): Promise<void> {
  requireRole(actor, 'administrator');
  await askAfter(ctx, id);
}

export async function askAfter(ctx: AppContext, templateId: string): Promise<void> {
  const row = found(await ctx.store.templates.one({ id: templateId }), 'template');
  const { account, connector } = await platformFor(ctx, row);
  const answers =
    row.remote_id && account.disabled_at === null
      ? await connector.fetchTemplate?.(openCredentials(ctx, account), row.remote_id)
      : undefined;
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    if (answers) await unit.exchanges.insert(exchangeRows('template', templateId, answers));
    for (const version of await unit.templateVersions.all({ template_id: templateId })) {
      if (version.next_check_at === null) continue;
      const wait = version.state === 'in-review' ? untilNextCheck(at - version.submitted_at) : ASK_OF_APPROVED_EVERY;
      await unit.templateVersions.change({ id: version.id }, { checked_at: at, next_check_at: at + wait });
    }
    if (answers?.ok) await takeReviews(unit, account, answers.value, at);
    await noteChanges(unit, at, [['template', templateId]]);
  });
}

/** What a platform says of templates, by callback or when asked. Repeats change nothing. */
export async function takeReviews(
  unit: Unit,
  account: Pick<ProviderAccountRow, 'id' | 'name'>,
  reviews: readonly TemplateReview[],
  at: number,
): Promise<void> {
  for (const review of reviews) {
    const versions = await unit.templateVersions.all({ remote_id: review.remoteId });
    const version = versions.find(({ edition }) => edition === review.edition);
    const template = version && (await unit.templates.one({ id: version.template_id, account_id: account.id }));
    if (
      !version ||
      !template ||
      !mayBecome({ state: version.state, decidedAt: version.decided_at ?? undefined }, review)
    )
      continue;
    await takeReview(unit, account, { template, version, review }, at);
  }
}

interface Taken {
  template: TemplateRow;
  version: TemplateVersionRow;
  review: TemplateReview;
}

async function takeReview(
  unit: Unit,
  account: Pick<ProviderAccountRow, 'name'>,
  { template, version, review }: Taken,
  at: number,
): Promise<void> {
  const refiled = review.category !== undefined && review.category !== version.content.category;
  await unit.templateVersions.change(
    { id: version.id },
    {
      state: review.state,
      reasons: review.reasons,
      filed_as: review.category ?? null,
      decided_at: review.decidedAt ?? at,
      next_check_at: review.state === 'approved' ? at + ASK_OF_APPROVED_EVERY : null,
    },
  );
  if (review.state === version.state) return;
  const said = review.reasons.map(({ text }) => text).join(' ');
  await note(unit, { name: account.name }, at, template.id, {
    what: review.state as TemplateVersionRow['state'],
    version: version.number,
    detail: said ? { said } : null,
  });
  if (refiled) {
    const detail = { said: `filed as ${review.category} instead of ${version.content.category}` };
    await note(unit, { name: account.name }, at, template.id, { what: 'refiled', version: version.number, detail });
  }
  if (review.state === 'paused')
    await tellAdministrators(
      unit,
      template.id,
      version.id,
      'A template is paused',
      `${account.name} paused ${template.name}: ${said}`,
      at,
    );
}

/** Reviews among what a platform posted, by the account they were posted to. */
export async function receiveReviews(
  unit: Unit,
  received: readonly { account: ProviderAccountRow; item: ReviewItem }[],
  at: number,
): Promise<void> {
  for (const { account, item } of received) await takeReviews(unit, account, [item.review], at);
}

/** Takes a template out of use at its platform. */
export async function retireTemplate(ctx: AppContext, actor: Actor, id: string): Promise<void> {
  notOnTrial('A template that is retired does not come back');
  requireRole(actor, 'administrator');
  const row = found(await ctx.store.templates.one({ id }), 'template');
  const { account, connector } = await platformFor(ctx, row);
  if (!row.remote_id || !connector.retireTemplate)
    throw new OperationError('conflict', `${account.name} has no such template.`);
  const outcome = await connector.retireTemplate(openCredentials(ctx, account), row.remote_id);
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    await unit.exchanges.insert(exchangeRows('template', id, outcome));
    if (!outcome.ok && outcome.failure.cause !== 'template-unknown') return;
    await unit.templateVersions.change({ template_id: id }, { state: 'retired', next_check_at: null });
    await unit.templates.change({ id }, { remote_id: null });
    await note(unit, actor, at, id, { what: 'retired' });
    await recordAudit(unit, actor, at, {
      action: 'template.retired',
      subject: id,
      summary: `Took ${row.name} out of use at ${account.name}`,
    });
  });
  if (!outcome.ok && outcome.failure.cause !== 'template-unknown')
    throw new OperationError(
      'conflict',
      cause(outcome.failure.cause).explain({ who: account.name, said: outcome.failure.said }),
    );
}
