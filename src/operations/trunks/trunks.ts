/** Trunks: what the engine holds open, what it notes of them, and what an administrator sets. */
import type {
  Accepted,
  InboundHttpRequest,
  TrunkChange,
  TrunkEvents,
  TrunkLink,
  TrunkPdu,
} from '../../connectors/connector';
import { settingsOf, type TrunkSettings, trunkSettings } from '../../connectors/smpp/dialect';
import { normaliseAddress } from '../../core/addresses/address';
import { forecast } from '../../core/pacing/rateLimiter';
import { idAsAnswered } from '../../core/trunk/receipts';
import { createBatcher } from '../../store/batcher';
import { newId } from '../../store/ids';
import type { InboundRequestRow, ProviderAccountRow, TrunkPduRow, TrunkStateRow } from '../../store/schema/rows';
import { requirePace } from '../channels';
import {
  type Actor,
  type AppContext,
  found,
  invalid,
  noteChanges,
  OperationError,
  recordAudit,
  requireRole,
} from '../context';
import { applyAgain } from '../messages';
import { settleLate } from '../outbound';
import { openCredentials, syncProfiles } from '../profiles';
import { fault, recordFacts } from '../proofs';

export type { TrunkLink } from '../../connectors/connector';

/** An account whose link is to be held, with everything that makes another link of it when it changes. */
export interface TrunkAccount {
  account: ProviderAccountRow;
  settings: TrunkSettings;
  fingerprint: string;
}

export async function trunkAccounts(ctx: AppContext): Promise<TrunkAccount[]> {
  await syncProfiles(ctx);
  const accounts = await ctx.store.accounts.all({ disabled_at: null });
  return accounts.flatMap((account) => {
    const connector = ctx.connectors.has(account.connector) ? ctx.connectors.get(account.connector) : undefined;
    if (!connector?.trunk) return [];
    const settings = settingsOf(connector.trunk, account.settings);
    const profile = ctx.connectors.profileOf(account.connector)?.text;
    const fingerprint = JSON.stringify([account.credentials_changed_at, settings, profile]);
    return [{ account, settings, fingerprint }];
  });
}

/** What the engine does when something happens on a trunk. */
export interface TrunkHandlers {
  /** The link can take texts. */
  ready(): void;
}

/** Opens and holds the link of an account; everything worth knowing of it is written to the store. */
export function holdTrunk(ctx: AppContext, { account, settings }: TrunkAccount, handlers: TrunkHandlers) {
  const connector = ctx.connectors.get(account.connector);
  if (!connector.openTrunk) throw new Error(`${connector.name} is no trunk`);
  const recorder = createRecorder(ctx, account);
  const storeDelivered = createBatcher<InboundRequestRow, void>(async (rows) => {
    await ctx.store.append('inbound', rows);
    ctx.engineWakeUp.ring('inbound');
    return rows.map(() => undefined);
  });
  const events: TrunkEvents = {
    changed(change) {
      recorder.changed(change);
      if (change.state === 'bound') handlers.ready();
    },
    arrived: async (request) => storeDelivered(await deliveredRow(ctx, account, request)),
    answeredLate(reference: string, accepted: Accepted) {
      void settleLate(ctx, reference, accepted).catch((error) =>
        ctx.log.error({ err: error }, 'a late answer was not noted'),
      );
    },
    pdu: (entry) => recorder.pdu(entry),
  };
  const link = connector.openTrunk(openCredentials(ctx, account), settings, events);
  recorder.watch(link);
  return {
    link,
    async close() {
      await link.close();
      await recorder.close();
    },
  };
}

async function deliveredRow(
  ctx: AppContext,
  account: ProviderAccountRow,
  request: InboundHttpRequest,
): Promise<InboundRequestRow> {
  const at = ctx.now();
  const to = normaliseAddress(request.headers.destination_addr ?? '', { allowShortCode: true, allowSenderName: true });
  const address = to.ok ? to.address.value : (request.headers.destination_addr ?? '');
  const channel = await ctx.store.channels.one({ account_id: account.id, address });
  return {
    id: newId('inb', at),
    channel_id: channel?.id ?? '',
    account_id: account.id,
    received_at: at,
    method: request.method,
    path: request.url,
    query: '',
    headers: { ...request.headers },
    body: request.body,
    remote_address: null,
    signature: 'bind',
    answer_status: 0,
    state: 'stored',
    cause: null,
    outcome: null,
    processed_at: null,
  };
}

const WRITE_EVERY = 500;
/** Under load only so many PDUs of each half second are kept; what became of each text is on its trail anyway. */
const MOST_PDUS = 60;
const KEPT_PDUS = 2000;

/** Writes the link's state and PDUs down twice a second, and breaks or proves the credential hop when it changes. */
function createRecorder(ctx: AppContext, account: ProviderAccountRow) {
  let state: TrunkChange = { state: 'binding' };
  let since = ctx.now();
  let link: TrunkLink | undefined;
  let pdus: TrunkPdu[] = [];
  let left = 0;
  let accepted = 0;
  let refused = 0;
  let reconnects = 0;
  let written = '';
  let turn: Promise<unknown> = Promise.resolve();
  const timer = ctx.clock.every(WRITE_EVERY, () => void inTurn(write));

  function inTurn(work: () => Promise<void>) {
    turn = turn.then(work).catch((error) => ctx.log.error({ err: error }, 'the state of a trunk was not noted'));
    return turn;
  }

  async function write() {
    const batch = pdus;
    const dropped = left;
    pdus = [];
    left = 0;
    const values: Omit<TrunkStateRow, 'written_at'> = {
      account_id: account.id,
      state: state.state,
      since,
      cause: state.cause ?? null,
      said: state.said ?? null,
      next_try_at: state.nextTryAt ?? null,
      sent_last_second: link?.paceNow() ?? 0,
      unanswered: link?.unanswered ?? 0,
      accepted,
      refused,
      reconnects,
    };
    const text = JSON.stringify(values);
    const same = text === written && batch.length === 0;
    written = text;
    await ctx.store.write(
      async (unit) => {
        const at = ctx.now();
        await unit.trunkStates.put({ ...values, written_at: at });
        await unit.trunkPdus.insert(batch.map((entry) => pduRow(account.id, entry)));
        if (dropped > 0) await unit.trunkPdus.insert([droppedRow(account.id, at, dropped)]);
        if (!same) await noteChanges(unit, at, [['trunk', account.id]]);
      },
      { durable: false },
    );
  }

  async function noteProof(change: TrunkChange) {
    if (change.state !== 'bound' && change.state !== 'refused') return;
    await ctx.store.write(async (unit) => {
      const at = ctx.now();
      const channels = await unit.channels.all({ account_id: account.id });
      const code = change.cause;
      const facts = channels.map((channel) =>
        change.state === 'refused' && code
          ? fault(channel.id, code, at, account.id)
          : { subject: channel.id, fact: { kind: 'credential-accepted', began: at, at, ref: account.id } as const },
      );
      await recordFacts(unit, facts, at);
      await unit.accounts.change(
        { id: account.id },
        change.state === 'bound'
          ? { state: 'accepted', cause: null, checked_at: at }
          : { state: 'refused', cause: code ?? null, checked_at: at },
      );
      await noteChanges(unit, at, [['account', account.id]]);
    });
  }

  return {
    watch(opened: TrunkLink) {
      link = opened;
    },
    changed(change: TrunkChange) {
      if (change.state !== state.state) since = ctx.now();
      if (change.state === 'bound' && state.state !== 'bound') reconnects += 1;
      state = change;
      void inTurn(() => noteProof(change));
      void inTurn(write);
    },
    pdu(entry: TrunkPdu) {
      if (entry.command === 'submit_sm_resp') {
        if (entry.status === 0) accepted += 1;
        else refused += 1;
      }
      if (pdus.length < MOST_PDUS) pdus.push(entry);
      else left += 1;
    },
    async close() {
      timer.cancel();
      await inTurn(write);
    },
  };
}

function pduRow(accountId: string, entry: TrunkPdu): TrunkPduRow {
  const { at, way, command, status, sequence, fields, messageId } = entry;
  return { account_id: accountId, at, way, command, status, sequence, fields: fields(), message_id: messageId ?? null };
}

function droppedRow(accountId: string, at: number, dropped: number): TrunkPduRow {
  const fields = { note: `${dropped} more in this half second were not kept` };
  return { account_id: accountId, at, way: 'out', command: '…', status: 0, sequence: 0, fields, message_id: null };
}

/** Keeps the latest PDUs of each trunk. */
export async function prunePdus(ctx: AppContext): Promise<void> {
  await ctx.store.write(async (unit) => {
    for (const { account_id } of await unit.trunkStates.all()) {
      await unit.execute(
        `DELETE FROM trunk_pdus WHERE account_id = :account AND id <= (SELECT max(id) - :kept FROM trunk_pdus WHERE account_id = :account)`,
        { account: account_id, kept: KEPT_PDUS },
      );
    }
  });
}

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
  const parsed = trunkSettings.safeParse({ ...settingsOf(dialect, account.settings), ...given });
  if (!parsed.success) {
    const findings = parsed.error.issues.map((issue) => ({
      field: String(issue.path[0] ?? 'form'),
      finding: { code: 'setting', severity: 'error' as const, problem: issue.message, remedy: 'Correct the value.' },
    }));
    throw new OperationError('invalid', 'A setting cannot be as it is.', findings);
  }
  const settings = parsed.data;
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
  ctx.engineWakeUp.ring('trunks');
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
  state: TrunkStateRow | undefined;
  /** The engine has not written for a while, so what is shown is not the present. */
  stale: boolean;
  settings: TrunkSettings;
  most: { window: number; pace: number };
  queued: number;
  /** Milliseconds until the queue has left at the present pace. */
  forecastMs: number;
  pdus: TrunkPduRow[];
  /** Texts that came for a number nobody has here. */
  strays: { id: string; received_at: number; to: string }[];
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
    ctx.store.select<{ id: string; received_at: number; to: string }>(
      `SELECT id, received_at, json_extract(headers, '$.destination_addr') AS "to" FROM inbound_requests
        WHERE account_id = :accountId AND cause = 'number-not-a-channel' ORDER BY id DESC LIMIT 5`,
      { accountId },
    ),
  ]);
  const queued = queue[0]?.n ?? 0;
  return {
    state,
    stale: !state || ctx.now() - state.written_at > 5000,
    settings,
    most: dialect.most,
    queued,
    forecastMs: forecast(queued, settings.pace),
    pdus,
    strays,
  };
}
