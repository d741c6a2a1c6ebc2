/** Submits templates to their platform: the intent is on disk before anything leaves, so that no answer is lost for good. */
import type { TemplateReview } from '../../connectors/connector';
import { cause } from '../../core/delivery/causes';
import { predictRejection } from '../../core/templates/prediction';
import { newId } from '../../store/ids';
import type { ProviderAccountRow, Submission, TemplateRow } from '../../store/schema/rows';
import type { Unit } from '../../store/store';
import {
  type Actor,
  type AppContext,
  exchangeRows,
  found,
  notOnTrial,
  OperationError,
  recordAudit,
  requireRole,
  SYSTEM,
} from '../context';
import { openCredentials } from '../profiles';
import { aloneAfterFailure } from '../workQueue';
import { reviewQueue } from './reviewQueue';
import { platformFor, readReviewHistory, takeReviews, untilNextCheck } from './templateReviews';
import { contentOf, examineStored, note } from './templates';

/**
 * Submits a template as it is saved. What the platform does not even take for review is an error with its cause. The
 * intent is written down first: an answer that is lost on the way is asked for later (`settleSubmissions`).
 */
export async function submitTemplate(ctx: AppContext, actor: Actor, id: string): Promise<{ number: number }> {
  notOnTrial('A template that is submitted is with its reviewers');
  requireRole(actor, 'administrator');
  const row = found(await ctx.store.templates.one({ id, archived_at: null }), 'template');
  const { account, connector } = await platformFor(ctx, row);
  if (!connector.submitTemplate) throw new OperationError('conflict', `${account.name} takes no templates.`);
  const findings = await examineStored(ctx, row);
  const { likelihood } = predictRejection(findings, (await readReviewHistory(ctx)).history);
  const begun = ctx.now();
  const submission = await ctx.store.write(async (unit): Promise<Submission> => {
    const versions = await unit.templateVersions.all({ template_id: id });
    if (versions.some(({ state }) => state === 'in-review'))
      throw new OperationError('conflict', cause('template-waiting').explain({ who: account.name }));
    if ((await unit.templates.one({ id }))?.submitting)
      throw new OperationError('conflict', `It is being submitted, or ${account.name} is asked what became of it.`);
    const intent: Submission = {
      number: Math.max(0, ...versions.map((version) => version.number)) + 1,
      content: contentOf(row),
      at: begun,
      by: actor.name,
      findings: findings.map(({ code, severity, grade }) => ({ code, severity, ...(grade ? { grade } : {}) })),
      likelihood,
    };
    await unit.templates.change({ id }, { submitting: intent });
    return intent;
  });
  const { number } = submission;
  const outcome = await connector.submitTemplate(openCredentials(ctx, account), {
    template: submission.content,
    remoteId: row.remote_id ?? undefined,
    mediaUrl: (file) => `${ctx.config.publicUrl}/media/${file}`,
  });
  const at = ctx.now();
  const unknown = !outcome.ok && outcome.failure.outcomeUnknown === true;
  await ctx.store.write(async (unit) => {
    await unit.exchanges.insert(exchangeRows('template', id, outcome));
    if (outcome.ok) {
      await takeSubmission(unit, account, row, submission, outcome.value, at);
      return;
    }
    if (!unknown) await unit.templates.change({ id }, { submitting: null });
    const said = cause(outcome.failure.cause).explain({ who: account.name, said: outcome.failure.said });
    await note(unit, actor, at, id, { what: 'refused', version: number, detail: { said } });
  });
  if (!outcome.ok) {
    const { cause: code, said } = outcome.failure;
    const { remedy } = cause(code);
    const asked = unknown ? `${account.name} is asked in a moment whether it has it all the same.` : remedy;
    throw new OperationError('invalid', `${cause(code).explain({ who: account.name, said })} ${asked}`);
  }
  ctx.engineWakeUp.ring('reviews');
  return { number };
}

/** What was submitted is a version, and its platform's word about it stands. */
async function takeSubmission(
  unit: Unit,
  account: ProviderAccountRow,
  row: TemplateRow,
  { number, content, at: submittedAt, by, findings, likelihood }: Submission,
  review: TemplateReview,
  at: number,
): Promise<void> {
  await unit.templates.change({ id: row.id }, { remote_id: review.remoteId, submitting: null });
  await unit.templateVersions.insert([
    {
      id: newId('tpv', at),
      template_id: row.id,
      number,
      content,
      state: 'in-review',
      remote_id: review.remoteId,
      edition: review.edition,
      filed_as: null,
      reasons: [],
      submitted_at: submittedAt,
      submitted_by: by,
      decided_at: null,
      usual_minutes: review.usualMinutes ?? null,
      checked_at: at,
      next_check_at: at + untilNextCheck(0),
      findings,
      likelihood,
    },
  ]);
  await note(unit, { name: by }, at, row.id, { what: 'submitted', version: number });
  await recordAudit(unit, { ...SYSTEM, name: by }, at, {
    action: 'template.submitted',
    subject: row.id,
    summary: `Submitted version ${number} of ${row.name} to ${account.name}`,
  });
  await takeReviews(unit, account, [review], at);
}

/** No call to a platform takes so long: after it, a submission without an answer has lost it. */
const LOST_AFTER = 60_000;

/** Asks platforms about submissions whose answer was lost: what they have of them counts, and what they do not may be submitted again. */
export async function settleSubmissions(ctx: AppContext): Promise<void> {
  const left = await ctx.store.select<{ id: string }>(
    `SELECT id FROM templates WHERE submitting IS NOT NULL AND coalesce(submitting->>'$.at', 0) < :before LIMIT 20`,
    { before: ctx.now() - LOST_AFTER },
  );
  for (const { id } of left)
    await aloneAfterFailure(ctx, reviewQueue, [id], ([one = '']) => settleSubmission(ctx, one));
}

async function settleSubmission(ctx: AppContext, id: string): Promise<void> {
  const row = found(await ctx.store.templates.one({ id }), 'template');
  const submission = row.submitting;
  if (!submission) return;
  const { account, connector } = await platformFor(ctx, row);
  const credentials = openCredentials(ctx, account);
  const asked = row.remote_id
    ? await connector.fetchTemplate?.(credentials, row.remote_id)
    : await connector.findTemplate?.(credentials, submission.content.name);
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    if (asked) await unit.exchanges.insert(exchangeRows('template', id, asked));
    if (asked && !asked.ok && cause(asked.failure.cause).transient) {
      // Asked again with growing steps, as far as the submission is old.
      await unit.templates.change({ id }, { submitting: { ...submission, at: at - LOST_AFTER / 2 } });
      return;
    }
    const known = new Set((await unit.templateVersions.all()).map((each) => `${each.remote_id} ${each.edition}`));
    const has = asked?.ok ? asked.value.filter((each) => !known.has(`${each.remoteId} ${each.edition}`)) : [];
    const newest = has.at(-1);
    if (newest) return takeSubmission(unit, account, row, submission, newest, at);
    await unit.templates.change({ id }, { submitting: null });
    const said = asked?.ok
      ? `The answer was lost, and ${account.name} does not have it. Submit it again.`
      : `The answer was lost, and ${account.name} cannot be asked. If it says that the name is taken, it has it.`;
    await note(unit, SYSTEM, at, id, { what: 'refused', version: submission.number, detail: { said } });
  });
}
