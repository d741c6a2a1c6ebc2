/** The price list of an account: from its profile, or a table that somebody gave. */
import { LRUCache } from 'lru-cache';
import { type PriceLine, readPrices } from '../../core/limits/prices';
import type { PriceListRow, ProviderAccountRow } from '../../store/schema/rows';
import type { Unit } from '../../store/store';
import { type Actor, type AppContext, found, invalidText, recordAudit, requireRole } from '../context';

const LARGEST = 2 * 1024 * 1024;

/** By account and the time its list was changed: a list may be long, and each send asks. */
const lists = new LRUCache<string, readonly PriceLine[]>({ max: 200 });

/** The prices of accounts, by account id. */
export async function pricesOf(
  ctx: AppContext,
  from: Pick<Unit, 'select' | 'priceLists'>,
  accounts: readonly Pick<ProviderAccountRow, 'id' | 'connector'>[],
): Promise<Map<string, readonly PriceLine[]>> {
  const changed = await from.select<Pick<PriceListRow, 'account_id' | 'changed_at'>>(
    'SELECT account_id, changed_at FROM price_lists',
  );
  const own = new Map<string, readonly PriceLine[]>();
  for (const { account_id, changed_at } of changed) {
    const key = `${account_id} ${changed_at}`;
    const lines = lists.get(key) ?? (await from.priceLists.one({ account_id }))?.lines ?? [];
    lists.set(key, lines);
    own.set(account_id, lines);
  }
  return new Map(
    accounts.map(({ id, connector }) => [
      id,
      own.get(id) ?? (ctx.connectors.has(connector) ? ctx.connectors.get(connector).prices : []),
    ]),
  );
}

export interface PriceListView {
  lines: readonly PriceLine[];
  from: 'profile' | 'table' | 'nothing';
  changedAt?: number;
  by?: string;
}

export async function viewPrices(ctx: AppContext, actor: Actor, accountId: string): Promise<PriceListView> {
  requireRole(actor, 'viewer');
  const account = found(await ctx.store.accounts.one({ id: accountId }), 'account');
  const kept = await ctx.store.priceLists.one({ account_id: accountId });
  if (kept) return { lines: kept.lines, from: 'table', changedAt: kept.changed_at, by: kept.by };
  const lines = ctx.connectors.has(account.connector) ? ctx.connectors.get(account.connector).prices : [];
  return { lines, from: lines.length > 0 ? 'profile' : 'nothing' };
}

/** Takes a table with headings (CSV, RFC 4180) in place of what there was; an empty one goes back to the profile's. */
export async function savePrices(
  ctx: AppContext,
  actor: Actor,
  accountId: string,
  table: string,
): Promise<{ lines: number }> {
  requireRole(actor, 'administrator');
  const account = found(await ctx.store.accounts.one({ id: accountId }), 'account');
  if (Buffer.byteLength(table) > LARGEST)
    throw invalidText('table', 'The table is over 2 MB.', 'A list of countries and ranges is far smaller.');
  const at = ctx.now();
  if (table.trim() === '') {
    await ctx.store.write(async (unit) => {
      await unit.priceLists.remove({ account_id: accountId });
      const summary = `Removed the price list of ${account.name}; its profile’s prices count`;
      await recordAudit(unit, actor, at, { action: 'prices.removed', subject: accountId, summary });
    });
    return { lines: 0 };
  }
  const reading = readPrices(await tableOf(ctx, table));
  if (!reading.ok)
    throw invalidText('table', `Line ${reading.row}: ${reading.problem}.`, 'Correct it and paste the table again.');
  await ctx.store.write(async (unit) => {
    await unit.priceLists.put({ account_id: accountId, lines: reading.lines, changed_at: at, by: actor.name });
    const summary = `Gave ${account.name} a price list of ${reading.lines.length} lines`;
    await recordAudit(unit, actor, at, { action: 'prices.changed', subject: accountId, summary });
  });
  return { lines: reading.lines.length };
}

async function tableOf(ctx: AppContext, text: string): Promise<string[][]> {
  return ctx.apart.run('table', { text });
}
