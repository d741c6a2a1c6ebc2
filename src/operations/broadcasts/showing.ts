/** “Send it to me first”: a message as a real recipient would get it, to a phone of our own. */
import { displayAddress } from '../../core/addresses/display';
import { testPhones } from '../bench';
import { type Actor, type AppContext, invalidText, noteChanges, recordAudit, requireRole } from '../context';
import type { Sender } from '../outbound';
import { previewBroadcast } from './views';
import { reachedBroadcast } from './writing/reached';

/** The first message of the plan, sent to a bench handset or a verified phone; what it says is what its recipient gets. */
export async function showBroadcast(
  ctx: AppContext,
  actor: Actor,
  send: Sender,
  id: string,
  to: string,
): Promise<{ messageId: string }> {
  requireRole(actor, 'agent');
  const row = await reachedBroadcast(ctx.store, actor, id);
  if (!(await testPhones(ctx)).some(({ number }) => number === to))
    throw invalidText(
      'to',
      'This is neither a handset of the bench nor a verified phone.',
      'Choose a phone of your own that is known here.',
    );
  const shown = (await previewBroadcast(ctx, actor, id)).find(({ judged }) => judged.goes)?.judged;
  if (!shown?.goes)
    throw invalidText('plan', 'There is no message to show: nobody would get it.', 'Plan it, and read the reasons.');
  const { message } = shown;
  const { template } = row.definition.message;
  const answer = await send(actor, {
    to,
    from: message.channelId,
    onlyThisWay: true,
    tags: ['shown first'],
    ...(message.template && template
      ? { text: '', template: { id: template.id, values: message.template.values, language: message.language } }
      : { text: message.text, ...(message.choices?.asButtons ? { choices: message.choices.labels } : {}) }),
  });
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    await unit.broadcasts.change({ id }, { shown_to: { to, at, by: actor.name, messageId: answer.message.id } });
    await recordAudit(unit, actor, at, {
      action: 'broadcast.shown',
      subject: id,
      summary: `Sent the broadcast ${row.name} to ${displayAddress(to)} first`,
    });
    await noteChanges(unit, at, [['broadcast', id]]);
  });
  return { messageId: answer.message.id };
}
