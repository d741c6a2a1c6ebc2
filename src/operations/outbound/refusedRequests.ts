/** Orders refused at once: they become no message, and that they were refused is kept. */
import { isCauseCode } from '../../core/delivery/causes';
import type { RefusedOrderRow } from '../../store/schema/rows';
import type { Unit } from '../../store/store';
import { isOperationError } from '../context';
import type { Order, Ordered, SendContext } from './sendRequests';

export async function keepRefusals(
  unit: Unit,
  { channels }: Pick<SendContext, 'channels'>,
  results: ReadonlyMap<Order, Ordered>,
  at: number,
): Promise<void> {
  const rows = [...results].flatMap(([{ actor, input, refresh }, result]): RefusedOrderRow[] => {
    // It is judged again, by what the provider says now.
    if (isOperationError(result) && refresh?.mayChange(result)) return [];
    const finding = isOperationError(result) ? result.findings[0]?.finding : undefined;
    if (!finding || !isCauseCode(finding.code)) return [];
    const channel = channels.find(({ id, address }) => id === input.from || address === input.from);
    return [
      {
        at,
        channel_id: channel?.id ?? (channels.length === 1 ? (channels[0]?.id ?? null) : null),
        recipient: input.to ?? null,
        cause: finding.code,
        said: finding.problem,
        origin_kind: actor.kind,
        origin_id: actor.id,
        origin_name: actor.name,
      },
    ];
  });
  if (rows.length > 0) await unit.refusedOrders.insert(rows);
}
