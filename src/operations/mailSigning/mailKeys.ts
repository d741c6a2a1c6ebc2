/** The keys by which mail is signed: looked for in the domain's records, and used only while they stand there. */
import type { MailSigning } from '../../connectors/connector';
import { judgeRecord, recordName } from '../../core/mail/signing';
import { outsideUnit } from '../../core/unitOfWork';
import type { MailKeyRow } from '../../store/schema/rows';
import { type AppContext, noteChanges } from '../context';

/** Domains change their records seldom, and a record that is gone breaks every signature. */
const LOOK_EVERY = 3_600_000;

/** The key an account signs with now; undefined where it has none, or receivers would not find it. */
export async function signingFor(ctx: AppContext, accountId: string): Promise<MailSigning | undefined> {
  const row = await ctx.store.mailKeys.one({ account_id: accountId, state: 'published' });
  if (!row) return undefined;
  const { key } = ctx.sealer.open<{ key: string }>(row.sealed_key);
  return { domain: row.domain, selector: row.selector, key };
}

/** Looks for the record of one key and notes what is found. A resolver that does not answer shows nothing. */
export async function lookFor(ctx: AppContext, row: MailKeyRow): Promise<MailKeyRow> {
  outsideUnit('a look at a record');
  const looked_at = ctx.now();
  const name = recordName(row.selector, row.domain);
  const found = await ctx.network.textRecords(name).catch((error: Error) => error);
  const now: Pick<MailKeyRow, 'state' | 'said'> =
    found instanceof Error
      ? { state: row.state, said: `the records could not be read: ${found.message}` }
      : standing(found, row.public_key);
  const after = { ...row, ...now, looked_at, since: now.state === row.state ? row.since : looked_at };
  await ctx.store.write(async (unit) => {
    const changed = await unit.mailKeys.change(
      // A key made in the meantime is another one.
      { account_id: row.account_id, selector: row.selector },
      { state: after.state, said: after.said, looked_at, since: after.since },
    );
    if (changed > 0 && after.state !== row.state) await noteChanges(unit, looked_at, [['account', row.account_id]]);
  });
  return after;
}

function standing(found: readonly string[], publicKey: string): Pick<MailKeyRow, 'state' | 'said'> {
  const judged = judgeRecord(found, publicKey);
  return { state: judged.is, said: judged.is === 'differs' ? judged.said : null };
}

/** Looks for all that have not been looked for lately. */
export async function checkMailKeys(ctx: AppContext): Promise<void> {
  for (const row of await ctx.store.mailKeys.all())
    if (ctx.now() - (row.looked_at ?? 0) >= LOOK_EVERY) await lookFor(ctx, row);
}
