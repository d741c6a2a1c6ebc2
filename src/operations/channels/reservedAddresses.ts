/**
 * An inbound URL before there is a channel: some providers want our address before they
 * give credentials. The next channel made through the same connector takes it over.
 */
import type { Connector, InboundHttpRequest } from '../../connectors/connector';
import type { Unit } from '../../store/store';
import { type Actor, type AppContext, fallbackUrl, inboundUrl, newToken, recordAudit, requireRole } from '../context';
import { syncProfiles } from '../profiles';

interface Reserved {
  token: string;
  challengeWord: string | null;
}

export interface ReservedView {
  inboundUrl: string;
  fallbackUrl: string;
  challengeWord: string | null;
}

const nameOf = (connectorId: string) => `reserved-address:${connectorId}`;

export async function reserveAddress(ctx: AppContext, actor: Actor, connectorId: string): Promise<void> {
  requireRole(actor, 'administrator');
  await syncProfiles(ctx);
  const connector = ctx.connectors.get(connectorId);
  const token = newToken(connector.id);
  const value: Reserved = { token, challengeWord: connector.challenges ? challengeWordFor(token) : null };
  await ctx.store.write(async (unit) => {
    if (await unit.settings.one({ name: nameOf(connectorId) })) return;
    await unit.settings.insert([{ name: nameOf(connectorId), value }]);
    await recordAudit(unit, actor, ctx.now(), {
      action: 'address.reserved',
      subject: connectorId,
      summary: `Reserved an inbound URL for ${connector.name}`,
    });
  });
}

export async function reservedAddress(
  ctx: AppContext,
  actor: Actor,
  connectorId: string,
): Promise<ReservedView | undefined> {
  requireRole(actor, 'administrator');
  const row = await ctx.store.settings.one({ name: nameOf(connectorId) });
  if (!row) return undefined;
  const { token, challengeWord } = row.value as Reserved;
  const channel = { inbound_token: token };
  return { inboundUrl: inboundUrl(ctx, channel), fallbackUrl: fallbackUrl(ctx, channel), challengeWord };
}

/** Whatever is reserved for the connector, from now on the channel's own. */
export async function takeReserved(unit: Unit, connectorId: string): Promise<Reserved | undefined> {
  const row = await unit.settings.one({ name: nameOf(connectorId) });
  if (!row) return undefined;
  await unit.settings.remove({ name: nameOf(connectorId) });
  return row.value as Reserved;
}

export function challengeWordFor(token: string): string {
  return `wg-${token.slice(-14)}`;
}

/** The connector and word behind a reserved address; undefined when the token is not reserved. */
export async function findReserved(
  ctx: AppContext,
  token: string,
): Promise<{ connector: Connector; challengeWord: string | null } | undefined> {
  const [row] = await ctx.store.select<{ name: string; word: string | null }>(
    `SELECT name, json_extract(value, '$.challengeWord') AS word FROM settings
      WHERE name LIKE 'reserved-address:%' AND json_extract(value, '$.token') = :token`,
    { token },
  );
  const id = row?.name.split(':')[1] ?? '';
  return row && ctx.connectors.has(id) ? { connector: ctx.connectors.get(id), challengeWord: row.word } : undefined;
}

/** Nobody is there yet to take messages: the provider is asked to come back, so that nothing is lost. */
export function answerReserved(
  reserved: { connector: Connector; challengeWord: string | null },
  request: InboundHttpRequest,
): { status: number; reason: string; echo?: string } {
  const challenge = reserved.connector.readChallenge?.(request);
  if (!challenge) return { status: 503, reason: 'this address is reserved and has no channel yet; try again' };
  if (challenge.word !== reserved.challengeWord) return { status: 403, reason: 'the verification word is another one' };
  return { status: 200, reason: 'verified', echo: challenge.echo };
}
