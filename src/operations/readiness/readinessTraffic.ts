/** What paths carry, spend and reach: counted from time to time, because it costs more than the examinations that use it. */
import type { AppContext } from '../context';

const SETTING = 'readiness-traffic';
const TRAFFIC_DAYS = 7;
const DAY = 86_400_000;

export interface InstallationTraffic {
  at: number;
  /** Messages a day of channels and apps by id, and of all as `*`. */
  perDay: Record<string, number>;
  /** Spent by account in seven days, micro-units. */
  spent: Record<string, number>;
  /** People in conversation in thirty days, by channel and country. */
  people: { channel: string; country: string; n: number }[];
}

const NONE: InstallationTraffic = { at: 0, perDay: {}, spent: {}, people: [] };

export async function installationTraffic(ctx: AppContext): Promise<InstallationTraffic> {
  return ((await ctx.store.settings.one({ name: SETTING }))?.value as InstallationTraffic | undefined) ?? NONE;
}

/** Counts again where the last count is older than `maxAge` milliseconds. */
export async function countTraffic(ctx: AppContext, maxAge: number): Promise<void> {
  const now = ctx.now();
  if (now - (await installationTraffic(ctx)).at < maxAge) return;
  const since = now - TRAFFIC_DAYS * DAY;
  const [channels, apps, spent, people] = await Promise.all([
    ctx.store.select<{ id: string; n: number }>(
      'SELECT channel_id AS id, count(*) AS n FROM messages WHERE created_at > :since GROUP BY channel_id',
      { since },
    ),
    ctx.store.select<{ id: string; n: number }>(
      `SELECT s.app_id AS id, count(*) AS n FROM webhook_deliveries d JOIN webhook_subscriptions s ON s.id = d.subscription_id
        WHERE d.created_at > :since GROUP BY s.app_id`,
      { since },
    ),
    ctx.store.select<{ account: string; micros: number }>(
      `SELECT c.account_id AS account, sum(m.price_micros) AS micros FROM messages m JOIN channels c ON c.id = m.channel_id
        WHERE m.created_at > :since AND m.price_micros IS NOT NULL GROUP BY 1`,
      { since },
    ),
    ctx.store.select<InstallationTraffic['people'][number]>(
      `SELECT v.channel_id AS channel, c.country, count(*) AS n FROM conversations v JOIN contacts c ON c.id = v.contact_id
        WHERE c.country IS NOT NULL AND c.merged_into IS NULL AND v.last_message_at > :since GROUP BY 1, 2`,
      { since: now - 30 * DAY },
    ),
  ]);
  const all = channels.reduce((sum, { n }) => sum + n, 0) / TRAFFIC_DAYS;
  const value: InstallationTraffic = {
    at: now,
    perDay: { ...Object.fromEntries([...channels, ...apps].map(({ id, n }) => [id, n / TRAFFIC_DAYS])), '*': all },
    spent: Object.fromEntries(spent.map(({ account, micros }) => [account, micros])),
    people,
  };
  await ctx.store.write((unit) => unit.settings.put({ name: SETTING, value }));
}
