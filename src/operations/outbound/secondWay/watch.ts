/** Messages that have a second way: given one when they are ordered, as the rules are then. */

import { fallbackFor } from '../../../core/delivery/fallback';
import { destinationOf } from '../../../core/limits/destination';
import type { FallbackRow, MessageRow } from '../../../store/schema/rows';
import type { Unit } from '../../../store/store';
import { ofTelephone } from '../../identities';
import type { Draft, Order } from '../sendRequests';
import { rulesOf } from './rules';

/** Also as the second way of one that does. */
export const carriesCode = ({ code, insteadOf }: Order): boolean => code !== undefined || insteadOf?.code === true;

/** Gives `messages`, made of `drafts`, the second way that a rule of their channel says. Returns what is to be kept of it. */
export async function watchFirstWays(
  unit: Unit,
  drafts: readonly Draft[],
  messages: readonly MessageRow[],
): Promise<FallbackRow[]> {
  const rules = await rulesOf(
    unit,
    drafts.map(({ channel }) => channel.id),
  );
  if (rules.size === 0) return [];
  return drafts.flatMap(({ order, channel, recipient }, index) => {
    const message = messages[index] as MessageRow;
    if (order.consent || order.input.onlyThisWay) return [];
    // It comes back to no channel that it was tried over.
    const been = [channel.id, ...(order.insteadOf?.been ?? [])];
    const rule = fallbackFor(
      (rules.get(channel.id) ?? []).filter(({ to }) => !been.includes(to)),
      {
        country: ofTelephone(channel) ? destinationOf(recipient)?.country : undefined,
        code: carriesCode(order),
      },
    );
    if (!rule) return [];
    message.fallback_to = rule.to;
    const until = rule.after === null ? null : message.created_at + rule.after;
    return [
      {
        message_id: message.id,
        to_id: rule.to,
        twice: rule.twice ? 1 : 0,
        first_until: until,
        due_at: until,
        state: 'watched' as const,
        said: null,
        next_id: null,
        decided_at: null,
      },
    ];
  });
}
