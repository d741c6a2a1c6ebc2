/** How a mailbox that is read stands, for people. */
import type { CauseCode } from '../../core/delivery/causes';
import type { MailboxState } from '../../store/schema/rows';
import { type Actor, type AppContext, requireRole } from '../context';

export interface MailboxView {
  state: MailboxState;
  since: number;
  cause?: CauseCode;
  said?: string;
  nextTryAt?: number;
  /** Mails taken since reading began, and when the last of them came. */
  taken: number;
  lastAt?: number;
}

/** Undefined where no mailbox is read for the account, or has not been yet. */
export async function getMailbox(ctx: AppContext, actor: Actor, accountId: string): Promise<MailboxView | undefined> {
  requireRole(actor, 'viewer');
  const row = await ctx.store.mailboxStates.one({ account_id: accountId });
  if (!row) return undefined;
  return {
    state: row.state,
    since: row.since,
    cause: row.cause ?? undefined,
    said: row.said ?? undefined,
    nextTryAt: row.next_try_at ?? undefined,
    taken: row.taken,
    lastAt: row.taken > 0 ? (row.read_to ?? undefined) : undefined,
  };
}
