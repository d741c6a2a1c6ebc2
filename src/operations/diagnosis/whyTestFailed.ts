/** Why a delivery test failed, as Diagnosis would say it of the message the test made. */
import type { Round } from '../../core/deliveryTest/judge';
import type { Symptom } from '../../core/diagnosis/symptoms';
import type { DeliveryTestRunRow } from '../../store/schema/rows';
import { type AppContext, SYSTEM } from '../context';
import type { Scope } from './complaintEvidence';
import { diagnoseComplaint } from './diagnose';

/** In a few sentences: where it is, the cause where one is known, and the fix. Undefined where nothing can be said. */
export async function whyTestFailed(
  ctx: AppContext,
  run: Pick<DeliveryTestRunRow, 'content'>,
  rounds: readonly Round[],
): Promise<string | undefined> {
  const round = rounds.find(({ verdicts }) => verdicts.some(({ holds }) => holds !== true));
  const complaint = round && (await complaintOf(ctx, run, round));
  if (!complaint) return undefined;
  const { verdict, where, cause } = await diagnoseComplaint(ctx, SYSTEM, { ...complaint, answers: {} });
  // Of what was refused before it became a message the way says nothing.
  if (!cause && !where.segment.sure) return undefined;
  const why = cause?.title
    ? `${verdict === 'determined' ? '' : verdict === 'likely' ? 'Likely: ' : ''}${cause.title}. ${cause.explanation} Fix: ${cause.remedy}`
    : `Why is not known. Fix: ask ${where.ask ?? 'whoever owns that part'}, with the report from Diagnosis.`;
  return where.segment.sure ? `${where.said}. ${why}` : why;
}

async function complaintOf(
  ctx: AppContext,
  { content: { stimulus, expectations } }: Pick<DeliveryTestRunRow, 'content'>,
  { messages, verdicts }: Round,
): Promise<{ symptom: Symptom; scope: Scope } | undefined> {
  const made = await ctx.store.messages.allBy('id', messages, ['id', 'direction', 'channel_id', 'state']);
  const out = made
    .filter(({ direction, state }) => direction === 'out' && !['delivered', 'read'].includes(state))
    .at(-1);
  if (out) return { symptom: 'nothing-arrives', scope: { channel: out.channel_id, message: out.id } };
  const failed = expectations.filter((_, place) => verdicts[place]?.holds !== true);
  const told = failed.find(({ expect }) => expect === 'told' || expect === 'record');
  const came = made.find(({ direction }) => direction === 'in');
  if (stimulus.kind === 'text') {
    const { channel, phone } = stimulus;
    if (!came) return { symptom: 'replies-missing', scope: { channel, phone } };
    if (told && 'app' in told) return { symptom: 'app-silent', scope: { channel, app: told.app, message: came.id } };
    return undefined;
  }
  if (made.length > 0) return undefined;
  if (stimulus.kind === 'order')
    return { symptom: 'nothing-arrives', scope: { channel: stimulus.channel, phone: stimulus.phone } };
  return undefined;
}
