/** What an administrator sets and sees of a trunk. */
import { settingsOf, type TrunkSettings } from '../../connectors/smpp/dialect';
import { forecast } from '../../core/pacing/rateLimiter';
import { idAsAnswered } from '../../core/trunk/receipts';
import type { TrunkPduRow, TrunkStateRow } from '../../store/schema/rows';
import { readTrunkSettings } from '../accounts';
import { requirePace } from '../channels';
import {
  type Actor,
  type AppContext,
  asView,
  found,
  invalid,
  noteChanges,
  OperationError,
  recordAudit,
  requireRole,
  type View,
} from '../context';
import { applyAgain } from '../messages';
import { syncProfiles } from '../profiles';
import { recordFacts } from '../proofs';

/** Saves what carriers vary. A setting that decides how receipts are read is applied to those that came before, too. */
export async function setTrunkSettings(
  ctx: AppContext,
  actor: Actor,
  accountId: string,
  given: Record<string, unknown>,
): Promise<{ matched: number }> {
  requireRole(actor, 'administrator');
  await syncProfiles(ctx);
  const account = found(await ctx.store.accounts.one({ id: accountId }), 'account');
  const connector = ctx.connectors.get(account.connector);
  const dialect = connector.trunk;
  if (!dialect) throw new OperationError('invalid', `${connector.name} is no trunk.`);
  const settings = readTrunkSettings(dialect, account.settings, given);
  requirePace(settings.pace, dialect.most.pace, connector.name);
  if (settings.window > dialect.most.window) {
    throw invalid('window', {
      code: 'window-above-limit',
      severity: 'error',
      problem: `${connector.name} allows ${dialect.most.window} unanswered submits.`,
      remedy: `Set ${dialect.most.window} or less.`,
    });
  }
  const before = settingsOf(dialect, account.settings);
  const at = ctx.now();
  const matched = await ctx.store.write(async (unit) => {
    await unit.accounts.change({ id: accountId }, { settings });
    const channels = await unit.channels.all({ account_id: accountId });
    const touches = [
      ...(settings.defaultAlphabet !== before.defaultAlphabet || settings.longText !== before.longText
        ? (['outbound', 'inbound'] as const)
        : []),
      ...(settings.receiptIds !== before.receiptIds ? (['receipt'] as const) : []),
    ];
    const note = 'the trunk’s settings were changed';
    await recordFacts(
      unit,
      channels.map((channel) => ({ subject: channel.id, fact: { kind: 'changed', touches, at, note } })),
      at,
    );
    await recordAudit(unit, actor, at, {
      action: 'trunk.settings',
      subject: accountId,
      summary: `Changed the trunk settings of ${account.name}`,
      details: changedSettings(before, settings),
    });
    await noteChanges(unit, at, [['account', accountId]]);
    if (settings.receiptIds === before.receiptIds) return 0;
    return applyAgain(unit, { channel_id: channels.map((channel) => channel.id) }, at, (item) => ({
      ...item,
      providerMessageId: item.writtenId ? idAsAnswered(item.writtenId, settings.receiptIds) : item.providerMessageId,
    }));
  });
  ctx.engineWakeUp.ring('accounts');
  return { matched };
}

function changedSettings(before: TrunkSettings, after: TrunkSettings): Record<string, unknown> {
  return Object.fromEntries(
    Object.entries(after)
      .filter(([name, value]) => before[name as keyof TrunkSettings] !== value)
      .map(([name, value]) => [name, { from: before[name as keyof TrunkSettings], to: value }]),
  );
}

export interface TrunkView {
  state: View<TrunkStateRow> | undefined;
  /** The engine has not written for a while, so what is shown is not the present. */
  stale: boolean;
  settings: TrunkSettings;
  most: { window: number; pace: number };
  queued: number;
  /** Milliseconds until the queue has left at the present pace. */
  forecastMs: number;
  pdus: TrunkPduRow[];
  /** Texts that came for a number nobody has here. */
  strays: { id: string; receivedAt: number; to: string }[];
}

export async function getTrunk(ctx: AppContext, actor: Actor, accountId: string): Promise<TrunkView | undefined> {
  requireRole(actor, 'viewer');
  await syncProfiles(ctx);
  const account = found(await ctx.store.accounts.one({ id: accountId }), 'account');
  const dialect = ctx.connectors.get(account.connector).trunk;
  if (!dialect) return undefined;
  const settings = settingsOf(dialect, account.settings);
  const [state, pdus, queue, strays] = await Promise.all([
    ctx.store.trunkStates.one({ account_id: accountId }),
    ctx.store.trunkPdus.all({ account_id: accountId }, { order: [['id', 'DESC']], limit: 60 }),
    ctx.store.select<{ n: number }>(
      `SELECT coalesce(sum(m.parts), 0) AS n FROM outbox o JOIN channels c ON c.id = o.channel_id JOIN messages m ON m.id = o.message_id
        WHERE c.account_id = :accountId AND o.state IN ('due', 'leased')`,
      { accountId },
    ),
    ctx.store.select<TrunkView['strays'][number]>(
      `SELECT id, received_at AS receivedAt, json_extract(headers, '$.destination_addr') AS "to" FROM inbound_requests
        WHERE account_id = :accountId AND cause = 'number-not-a-channel' ORDER BY id DESC LIMIT 5`,
      { accountId },
    ),
  ]);
  const queued = queue[0]?.n ?? 0;
  return {
    state: state && asView(state),
    stale: !state || ctx.now() - state.written_at > 5000,
    settings,
    most: dialect.most,
    queued,
    forecastMs: forecast(queued, settings.pace),
    pdus,
    strays,
  };
}
