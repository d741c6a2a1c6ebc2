/** Channels: a number made usable both ways, and the hand-over of its inbound URL to the provider. */

import type { Connector, HandoverStep } from '../../connectors/connector';
import { settingsOf } from '../../connectors/smpp/dialect';
import { channelKind } from '../../core/connect/channelKinds';
import { isAnswered } from '../../core/connect/facts';
import { canMove } from '../../core/connect/numberMove';
import { CHANNEL_HOPS, type HopName } from '../../core/proof/hops';
import { newId } from '../../store/ids';
import type { ChannelRow, InboundRequestRow, ProviderAccountRow, ProviderNumberRow } from '../../store/schema/rows';
import type { Unit } from '../../store/store';
import { type ConnectionFinding, findingsOf, readAccountAgain } from '../accounts';
import { noteReading } from '../audit';
import {
  type Actor,
  type AppContext,
  asView,
  asViews,
  fallbackUrl,
  found,
  inboundUrl,
  invalid,
  invalidText,
  newToken,
  noteChanges,
  reachesChannel,
  reachOf,
  recordAudit,
  requireAccess,
  requireConfirmed,
  requireReached,
  requireRole,
  type View,
} from '../context';
import { connectorOf, syncProfiles } from '../profiles';
import { beginProofs, groupProofs, type HopProof, recordFacts } from '../proofs';
import { challengeWordFor, takeReserved } from './reservedAddresses';
import { setAddressAt } from './setAddress';

export async function openChannel(
  ctx: AppContext,
  actor: Actor,
  input: { numberId: string; name: string; defaultCountry?: string; settings?: Record<string, unknown> },
): Promise<{ id: string }> {
  requireRole(actor, 'administrator');
  await syncProfiles(ctx);
  const name = input.name.trim();
  if (!name) throw invalidText('name', 'The channel has no name.', 'Name it after the desk or purpose it serves.');
  const number = found(await ctx.store.numbers.one({ id: input.numberId }), 'number');
  if (!number.abilities.includes('text-out') && !number.abilities.includes('text-in')) {
    throw invalidText(
      'numberId',
      `${number.address} carries no texts.`,
      'Choose a number that can send or receive texts.',
    );
  }
  if (await ctx.store.channels.one({ name }))
    throw invalidText('name', `There is a channel called ${name} already.`, 'Choose another name.');
  const account = found(await ctx.store.accounts.one({ id: number.account_id }), 'account');
  const connector = ctx.connectors.get(account.connector);
  const at = ctx.now();
  const token = newToken(name);
  const draft: ChannelRow = {
    id: newId('chn', at),
    name,
    kind: connector.kind,
    account_id: account.id,
    number_id: number.id,
    address: number.address,
    default_country: input.defaultCountry || number.country,
    destinations: null,
    pace: connector.limits.pace,
    inbound_token: token,
    handed_over_at: null,
    handed_over_how: null,
    created_at: at,
    settings: input.settings ?? {},
    challenge_word: connector.challenges ? challengeWordFor(token) : null,
    challenged_at: null,
    team: null,
  };
  await ctx.store.write(async (unit) => {
    const reserved = await takeReserved(unit, connector.id);
    const channel = reserved
      ? { ...draft, inbound_token: reserved.token, challenge_word: reserved.challengeWord }
      : draft;
    if (await unit.channels.one({ number_id: number.id })) {
      throw invalidText(
        'numberId',
        `${number.address} is a channel already.`,
        'Open that channel, or choose another number.',
      );
    }
    // A name is nobody's alone: two providers may send under it.
    const same =
      number.kind === 'sender-name'
        ? undefined
        : (await unit.channels.all({ address: number.address })).find(({ kind }) => canMove(kind, channel.kind));
    if (same)
      throw invalidText(
        'numberId',
        `${number.address} is the channel ${same.name}, through another account.`,
        `Move that channel to ${account.name} on its page: it keeps its conversations and routes.`,
      );
    await unit.channels.insert([channel]);
    await beginChannelProofs(unit, channel, connector, number, account);
    await recordAudit(unit, actor, at, {
      action: 'channel.opened',
      subject: channel.id,
      summary: `Opened ${name} on ${number.address}`,
    });
    await noteChanges(unit, at, [['channel', channel.id]]);
  });
  // Its mailbox, if it has one, is opened now.
  ctx.engineWakeUp.ring('accounts');
  return { id: draft.id };
}

/** Hollow marks, dotted ones where a hop cannot be, and a filled one for credentials that were just accepted. */
export async function beginChannelProofs(
  unit: Unit,
  channel: ChannelRow,
  connector: Connector,
  number: ProviderNumberRow,
  account: ProviderAccountRow,
): Promise<void> {
  await beginProofs(unit, channel.id, CHANNEL_HOPS, channel.created_at);
  const absent: HopName[] = [];
  if (!isAnswered(number)) absent.push('inbound');
  if (!number.abilities.includes('text-out')) absent.push('outbound', 'receipt');
  else if (!connector.givesReceipts) absent.push('receipt');
  if (absent.length > 0) await unit.proofs.change({ subject_id: channel.id, hop: absent }, { state: 'not-applicable' });
  if (channelKind(connector.kind).hosted || account.state !== 'accepted' || !account.checked_at) return;
  // The account was called with these very credentials; that evidence holds for its new channel.
  await unit.proofs.change(
    { subject_id: channel.id, hop: 'credential' },
    { state: 'proven', evidence_at: account.checked_at, evidence_ref: account.id },
  );
}

/** Writes the inbound URL into the provider's settings and reads them back. */
export async function handOverForMe(ctx: AppContext, actor: Actor, channelId: string): Promise<void> {
  requireRole(actor, 'administrator');
  await requireReached(ctx.store, actor, 'channel', channelId);
  const { channel, ...place } = await loadChannel(ctx, channelId);
  await setAddressAt(ctx, place, channel, async (unit, at) => {
    await unit.channels.change({ id: channelId }, { handed_over_at: at, handed_over_how: 'by-windgap' });
    await recordFacts(unit, [addressChanged(channelId, at, 'the inbound URL was handed over')], at);
    await recordAudit(unit, actor, at, {
      action: 'channel.handed-over',
      subject: channelId,
      summary: `Set the inbound URL of ${channel.name} at ${place.account.name}`,
    });
  });
}

/** The administrator says it is done on the other side; traffic will prove it. */
export async function markHandedOver(ctx: AppContext, actor: Actor, channelId: string): Promise<void> {
  requireRole(actor, 'administrator');
  await requireReached(ctx.store, actor, 'channel', channelId);
  const { channel, account } = await loadChannel(ctx, channelId);
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    await unit.channels.change({ id: channelId }, { handed_over_at: at, handed_over_how: 'by-hand' });
    await recordAudit(unit, actor, at, {
      action: 'channel.handed-over',
      subject: channelId,
      summary: `Said the inbound URL of ${channel.name} is set at ${account.name}`,
    });
    await noteChanges(unit, at, [['channel', channelId]]);
  });
  await readAccountAgain(ctx, account.id);
}

/** Gives the channel a new inbound URL. The old one stops working at once. */
export async function replaceInboundUrl(ctx: AppContext, actor: Actor, channelId: string): Promise<void> {
  requireRole(actor, 'administrator');
  requireConfirmed(ctx, actor);
  await requireReached(ctx.store, actor, 'channel', channelId);
  const { channel } = await loadChannel(ctx, channelId);
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    await unit.channels.change(
      { id: channelId },
      { inbound_token: newToken(channel.name), handed_over_at: null, handed_over_how: null, challenged_at: null },
    );
    await recordFacts(unit, [addressChanged(channelId, at, 'the inbound URL was replaced')], at);
    await recordAudit(unit, actor, at, {
      action: 'channel.address-replaced',
      subject: channelId,
      summary: `Replaced the inbound URL of ${channel.name}`,
    });
    await noteChanges(unit, at, [['channel', channelId]]);
  });
}

/** Receipts come to an address under the inbound URL, so both are unproven again. */
function addressChanged(subject: string, at: number, note: string) {
  return { subject, fact: { kind: 'changed', touches: ['inbound', 'receipt'], at, note } as const };
}

/** How fast the channel may send; never faster than the provider allows. */
export async function setChannelPace(ctx: AppContext, actor: Actor, channelId: string, pace: number): Promise<void> {
  requireRole(actor, 'administrator');
  await requireReached(ctx.store, actor, 'channel', channelId);
  const { channel, connector } = await loadChannel(ctx, channelId);
  requirePace(pace, connector.limits.pace, connector.name);
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    await unit.channels.change({ id: channelId }, { pace });
    await recordAudit(unit, actor, at, {
      action: 'channel.pace',
      subject: channelId,
      summary: `${channel.name} sends at most ${pace} a second`,
    });
    await noteChanges(unit, at, [['channel', channelId]]);
  });
  ctx.engineWakeUp.ring('outbox');
}

/** Throws at the field `pace` unless it is a rate within the provider's limit. */
export function requirePace(pace: number, most: number, providerName: string): void {
  if (!Number.isFinite(pace) || pace <= 0)
    throw invalidText('pace', 'The pace is not a number above zero.', 'Messages a second, such as 10 or 0.5.');
  if (pace > most) {
    throw invalid('pace', {
      code: 'pace-above-limit',
      severity: 'error',
      problem: `${providerName} takes at most ${most} messages a second; ${pace} would be refused as too fast.`,
      remedy: `Set ${most} or less, or ask ${providerName} for more and change the profile.`,
    });
  }
}

export async function loadChannel(ctx: AppContext, id: string) {
  const channel = found(await ctx.store.channels.one({ id }), 'channel');
  const account = found(await ctx.store.accounts.one({ id: channel.account_id }), 'account');
  const number = found(await ctx.store.numbers.one({ id: channel.number_id }), 'number');
  return { channel, account, number, connector: await connectorOf(ctx, account) };
}

export interface ChannelView {
  channel: View<ChannelRow>;
  account: { id: string; name: string; connector: string; connectorName: string; disabled: boolean };
  number: View<ProviderNumberRow>;
  proofs: HopProof[];
  findings: ConnectionFinding[];
  inboundUrl: string;
  fallbackUrl: string;
  canSetAddress: boolean;
  handsOverAddress: boolean;
  /** Where nothing is posted: what comes is read from a mailbox. */
  readsMailbox: boolean;
  /** Whose address it is at the provider. */
  inboundBelongsTo: Connector['inboundBelongsTo'];
  inboundMethod: Connector['inboundMethod'];
  mostPace: number;
  /** Messages a second that leave at most as things are, and what holds them to fewer than the channel’s own pace. */
  paceInForce: { pace: number; heldBy?: string };
  replyWindowHours?: number;
  /** People can answer what is sent from it. */
  answered: boolean;
  handover: readonly HandoverStep[];
  /** What the provider said of the address when its numbers were last read. */
  providerHas: 'ours' | 'another' | 'nothing' | 'not-told';
}

export async function listChannels(ctx: AppContext, actor: Actor): Promise<ChannelView[]> {
  requireAccess(actor, 'viewer', 'channels:read');
  await syncProfiles(ctx);
  const [channels, accounts, numbers, proofs] = await Promise.all([
    ctx.store.channels.all(undefined, { order: [['name', 'ASC']] }),
    ctx.store.accounts.all(),
    ctx.store.numbers.all(),
    ctx.store.proofs.all(),
  ]);
  const findings = await findingsOf(ctx, accounts);
  const reach = await reachOf(ctx.store, actor);
  const grouped = groupProofs(proofs, ctx.now());
  return channels
    .filter(({ id }) => reachesChannel(reach, id))
    .map((channel) => {
      const account = found(
        accounts.find((row) => row.id === channel.account_id),
        'account',
      );
      const number = found(
        numbers.find((row) => row.id === channel.number_id),
        'number',
      );
      const connector = ctx.connectors.get(account.connector);
      return {
        channel: asView(channel),
        account: {
          id: account.id,
          name: account.name,
          connector: connector.id,
          connectorName: connector.name,
          disabled: account.disabled_at !== null,
        },
        number: asView(number),
        proofs: grouped.get(channel.id) ?? [],
        findings: findings.filter((finding) => finding.subject === channel.id || finding.subject === account.id),
        inboundUrl: inboundUrl(ctx, channel),
        fallbackUrl: fallbackUrl(ctx, channel),
        canSetAddress: connector.setInbound !== undefined,
        handsOverAddress: connector.handsOverAddress,
        readsMailbox: connector.openMailbox !== undefined,
        inboundBelongsTo: connector.inboundBelongsTo,
        inboundMethod: connector.inboundMethod,
        mostPace: connector.limits.pace,
        paceInForce: paceInForce(channel, account, connector),
        replyWindowHours: connector.limits.replyWindowHours,
        answered: isAnswered(number),
        handover: connector.handover,
        providerHas: whatProviderHas(inboundUrl(ctx, channel), account, number, connector),
      };
    });
}

/** The least of what the channel, the trunk and the provider allow. */
function paceInForce(
  { pace }: ChannelRow,
  { settings, disabled_at }: ProviderAccountRow,
  { limits, trunk, name }: Connector,
): ChannelView['paceInForce'] {
  if (disabled_at !== null) return { pace: 0, heldBy: 'the account is switched off' };
  const ofTrunk = trunk ? settingsOf(trunk, settings).pace : undefined;
  const most = Math.min(pace, limits.pace, ofTrunk ?? Number.POSITIVE_INFINITY);
  if (most === pace) return { pace };
  return {
    pace: most,
    heldBy: most === ofTrunk ? 'the trunk’s own pace, for all its channels together' : `what ${name} takes`,
  };
}

function whatProviderHas(
  ours: string,
  account: ProviderAccountRow,
  number: ProviderNumberRow,
  connector: Connector,
): ChannelView['providerHas'] {
  const told = connector.inboundBelongsTo === 'account' ? account.facts.callback?.url : number.inbound_url;
  if (told) return told === ours ? 'ours' : 'another';
  return connector.setInbound && connector.tells?.inboundUrl !== false ? 'nothing' : 'not-told';
}

export async function getChannel(
  ctx: AppContext,
  actor: Actor,
  id: string,
): Promise<ChannelView & { requests: InboundRequestSummary[]; waiting: number }> {
  const view = found(
    (await listChannels(ctx, actor)).find((entry) => entry.channel.id === id),
    'channel',
  );
  await noteReading(ctx, actor, id, `the inbound address of ${view.channel.name}`);
  const [requests, waiting] = await Promise.all([recentRequests(ctx, id), ctx.store.outbox.count({ channel_id: id })]);
  return { ...view, requests, waiting };
}

type WithoutContent = Omit<InboundRequestRow, 'body' | 'headers' | 'query' | 'outcome'>;
export type InboundRequestSummary = View<WithoutContent>;

async function recentRequests(ctx: AppContext, channelId: string): Promise<InboundRequestSummary[]> {
  const rows = await ctx.store.select<WithoutContent>(
    `SELECT id, channel_id, account_id, received_at, method, path, remote_address, signature, answer_status, state, cause, processed_at
       FROM inbound_requests WHERE channel_id = :channelId ORDER BY id DESC LIMIT 12`,
    { channelId },
  );
  return asViews(rows);
}
