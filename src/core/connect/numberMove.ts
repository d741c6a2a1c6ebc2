/** A number that moves from one account to another, and back: which account carried it when. */
import { type ChannelKind, channelKind } from './channelKinds';

/** Kinds between which a number can move: what people write stays what it is. */
export function canMove(from: ChannelKind, to: ChannelKind): boolean {
  const [one, other] = [channelKind(from), channelKind(to)];
  if (one.hosted || other.hosted) return false;
  return one.identity === other.identity && one.consent === other.consent && one.handset === other.handset;
}

/** One turn: from `at` on, `account` sends. */
export interface Turn {
  at: number;
  account: string;
}

export interface MoveOfNumber {
  from_account: string;
  turns: readonly Turn[];
}

/**
 * The account that carried a number at a moment: `now` is the present one, `moves` all there ever were, in the order in
 * which they began.
 */
export function accountAt(now: string, moves: readonly MoveOfNumber[], at: number): string {
  const turns = moves.flatMap((move) => move.turns);
  const last = turns.filter((turn) => turn.at <= at).at(-1);
  if (last) return last.account;
  const [first] = moves.filter((move) => move.turns.length > 0);
  return first?.from_account ?? now;
}
