/** Sending again to those whom a broadcast did not reach, where the cause may be over by now. */
import { newId } from '../../../store/ids';
import {
  type Actor,
  type AppContext,
  invalidText,
  noteChanges,
  OperationError,
  recordAudit,
  requireAccess,
} from '../../context';
import { passingCauses } from '../audience';
import { requireMay } from '../settings';
import { emptyBroadcast, LONGEST_NAME } from './drafts';
import { reachedBroadcast } from './reached';

/**
 * A draft that says the same to them; it is planned and started like any other. People of its list who are no contacts come
 * along as a list of their own.
 */
export async function resendToFailed(ctx: AppContext, actor: Actor, id: string): Promise<{ id: string }> {
  requireAccess(actor, 'agent', 'broadcasts:write');
  await requireMay(ctx.store, actor, 'prepare');
  const at = ctx.now();
  const again = newId('bct', at);
  const list = newId('bct', at);
  await ctx.store.write(async (unit) => {
    const row = await reachedBroadcast(unit, actor, id);
    if (row.state !== 'finished' && row.state !== 'cancelled')
      throw new OperationError('conflict', 'It is not over yet: what becomes of all its messages is not known.');
    const causes = [...passingCauses(), ''];
    const lines = await unit.execute(
      `INSERT INTO broadcast_people (list_id, line, address, fields)
         SELECT :list, row_number() OVER (ORDER BY seq), value, fields FROM broadcast_recipients
          WHERE broadcast_id = :id AND state = 'failed' AND reason IN (:causes) AND fields IS NOT NULL`,
      { list, id, causes },
    );
    const [contacts] = await unit.select<{ n: number }>(
      `SELECT count(*) AS n FROM broadcast_recipients
        WHERE broadcast_id = :id AND state = 'failed' AND reason IN (:causes) AND fields IS NULL`,
      { id, causes },
    );
    const some = (contacts?.n ?? 0) > 0;
    if (lines === 0 && !some)
      throw invalidText('audience', 'Nobody failed for a cause that passes.', 'What they failed for is in the table.');
    await unit.broadcasts.insert([
      {
        ...emptyBroadcast(again, `${row.name.slice(0, LONGEST_NAME - 20)}, to those missed`, actor, at),
        definition: {
          ...row.definition,
          audience: {
            include: [
              ...(some ? [{ by: 'failed' as const, id }] : []),
              ...(lines > 0 ? [{ by: 'list' as const }] : []),
            ],
            exclude: row.definition.audience.exclude,
          },
          when: { at: 'once' },
        },
        list_id: lines > 0 ? list : null,
      },
    ]);
    await recordAudit(unit, actor, at, {
      action: 'broadcast.resent',
      subject: again,
      summary: `Began to send the broadcast ${row.name} again to whom it did not reach`,
    });
    await noteChanges(unit, at, [['broadcast', again]]);
  });
  return { id: again };
}
