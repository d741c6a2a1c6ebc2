/** A page for people without an account here: whether messages go, and on which channels, behind an address nobody can guess. */
import { createHash, randomBytes, timingSafeEqual } from 'node:crypto';
import { channelStatus, type Status } from '../../core/installationStatus';
import { type Actor, type AppContext, recordAudit, requireConfirmed, requireRole } from '../context';
import { groupProofs } from '../proofs';
import { type InstallationStatus, readStatus } from './installationStatus';

const SETTING = 'status-page';

interface Kept {
  token: string;
  /** Channels stand on it by name. */
  channels: boolean;
}

export interface StatusPage extends InstallationStatus {
  channels?: { name: string; status: Status }[];
}

async function kept(ctx: AppContext): Promise<Kept | undefined> {
  return (await ctx.store.settings.one({ name: SETTING }))?.value as Kept | undefined;
}

export async function statusPageSettings(
  ctx: AppContext,
  actor: Actor,
): Promise<{ address: string; channels: boolean } | undefined> {
  requireRole(actor, 'administrator');
  const now = await kept(ctx);
  return now && { address: `${ctx.config.publicUrl}/status/${now.token}`, channels: now.channels };
}

/** Opens it under a new address, or takes it away. */
export async function setStatusPage(
  ctx: AppContext,
  actor: Actor,
  { open, channels }: { open: boolean; channels: boolean },
): Promise<void> {
  requireRole(actor, 'administrator');
  requireConfirmed(ctx, actor);
  await ctx.store.write(async (unit) => {
    if (open)
      await unit.settings.put({
        name: SETTING,
        value: { token: randomBytes(18).toString('base64url'), channels } satisfies Kept,
      });
    else await unit.settings.remove({ name: SETTING });
    await recordAudit(unit, actor, ctx.now(), {
      action: open ? 'status-page.opened' : 'status-page.closed',
      subject: SETTING,
      summary: open ? `Opened a status page${channels ? ' that names the channels' : ''}` : 'Took the status page away',
    });
  });
}

const digest = (text: string) => createHash('sha256').update(text).digest();

/** Undefined for an address that is not, or no longer, that of the page. */
export async function readStatusPage(ctx: AppContext, token: string): Promise<StatusPage | undefined> {
  const now = await kept(ctx);
  if (!now || !timingSafeEqual(digest(token), digest(now.token))) return undefined;
  const whole = await readStatus(ctx);
  return now.channels ? { ...whole, channels: await channelsNow(ctx) } : whole;
}

async function channelsNow(ctx: AppContext): Promise<{ name: string; status: Status }[]> {
  const [channels, proofs, alerts] = await Promise.all([
    ctx.store.channels.readable(),
    ctx.store.proofs.all(),
    ctx.store.select<{ subject_id: string; severity: 'error' | 'attention' }>(
      `SELECT subject_id, severity FROM alerts WHERE closed_at IS NULL AND severity IN ('error', 'attention')`,
    ),
  ]);
  const bySubject = groupProofs(proofs, ctx.now());
  return channels
    .map(({ id, name, account_id }) => ({
      name,
      status: channelStatus(
        bySubject.get(id) ?? [],
        alerts
          .filter(({ subject_id }) => subject_id === id || subject_id === account_id)
          .map(({ severity }) => severity),
      ),
    }))
    .sort((a, b) => a.name.localeCompare(b.name));
}
