/** The engine's part in mailboxes: holds each open, stores what comes, and notes how far it has been read. */
import type { FetchedMail, MailboxChange, MailboxPosition } from '../../connectors/connector';
import { MAILBOX_HEADER, TOO_LONG_HEADER } from '../../connectors/mail/mailbox';
import { newId } from '../../store/ids';
import type { ChannelRow, InboundRequestRow, MailboxStateRow, ProviderAccountRow } from '../../store/schema/rows';
import type { Unit } from '../../store/store';
import { movingChannels } from '../channels';
import { type AppContext, noteChanges } from '../context';
import { openCredentials, syncProfiles } from '../profiles';
import { fault, recordFacts } from '../proofs';

/** An account whose mailbox is read, with everything that makes another connection of it when it changes. */
export interface MailboxAccount {
  account: ProviderAccountRow;
  /** What comes has somewhere to go: without a channel nothing is taken. */
  channel: ChannelRow;
  fingerprint: string;
}

export async function mailboxAccounts(ctx: AppContext): Promise<MailboxAccount[]> {
  await syncProfiles(ctx);
  const accounts = (await ctx.store.accounts.all({ disabled_at: null })).filter(
    ({ connector }) => ctx.connectors.has(connector) && ctx.connectors.get(connector).openMailbox,
  );
  if (accounts.length === 0) return [];
  const ids = accounts.map(({ id }) => id);
  // While a mailbox moves from one account to another both are listened to.
  const moving = await movingChannels(ctx.store);
  const [own, onTheirWay] = await Promise.all([
    ctx.store.channels.allBy('account_id', ids),
    ctx.store.channels.allBy(
      'id',
      ids.flatMap((id) => moving.get(id) ?? []),
    ),
  ]);
  return accounts.flatMap((account) => {
    const channel =
      own.find(({ account_id }) => account_id === account.id) ??
      onTheirWay.find(({ id }) => moving.get(account.id)?.includes(id));
    if (!channel) return [];
    const profile = ctx.connectors.profileOf(account.connector)?.text;
    return [{ account, channel, fingerprint: JSON.stringify([account.credentials_changed_at, channel.id, profile]) }];
  });
}

/** Opens and holds the mailbox of an account; a mail and the place after it are stored in one unit, so none is taken twice or left out. */
export function holdMailbox(ctx: AppContext, { account, channel }: MailboxAccount): { close(): Promise<void> } {
  const connector = ctx.connectors.get(account.connector);
  let turn: Promise<unknown> = Promise.resolve();
  const inTurn = <T>(work: () => Promise<T>): Promise<T> => {
    const next = turn.then(work);
    turn = next.catch((error) => ctx.log.error({ err: error }, 'the state of a mailbox was not noted'));
    return next;
  };
  const change = (work: (unit: Unit, row: MailboxStateRow, at: number) => Promise<void>) =>
    inTurn(() =>
      ctx.store.write(async (unit) => {
        const at = ctx.now();
        await work(unit, (await unit.mailboxStates.one({ account_id: account.id })) ?? fresh(account.id, at), at);
      }),
    );

  const opening = (async () => {
    const row = await ctx.store.mailboxStates.one({ account_id: account.id });
    return connector.openMailbox?.(openCredentials(ctx, account), placeOf(row), {
      changed: (now) =>
        void change((unit, row, at) => noteState(unit, { account, channel }, row, now, at)).catch(() => 0),
      began: (place) => change((unit, row) => unit.mailboxStates.put({ ...row, ...columnsOf(place) })),
      async arrived(mail, after) {
        await change(async (unit, row, at) => {
          await unit.inbound.insert([requestOf(mail, { account, channel }, at)]);
          await unit.mailboxStates.put({ ...row, ...columnsOf(after), taken: row.taken + 1 });
        });
        ctx.engineWakeUp.ring('inbound');
      },
    });
  })();
  return {
    async close() {
      await (await opening)?.close();
      await turn;
    },
  };
}

function fresh(account_id: string, at: number): MailboxStateRow {
  return {
    account_id,
    validity: null,
    uid: 0,
    read_to: null,
    taken: 0,
    state: 'opening',
    since: at,
    cause: null,
    said: null,
    next_try_at: null,
  };
}

const placeOf = (row: MailboxStateRow | undefined): MailboxPosition | undefined =>
  row?.validity ? { validity: row.validity, uid: row.uid, at: row.read_to ?? row.since } : undefined;

const columnsOf = ({ validity, uid, at }: MailboxPosition) => ({ validity, uid, read_to: at });

/**
 * A mailbox that opens shows that its credential is taken, and one that refuses that it is not. A server that is away for a
 * while shows nothing of the path: what was proven stays so, and what lasts is found by readiness. Trying again is no news.
 */
async function noteState(
  unit: Unit,
  { account, channel }: Pick<MailboxAccount, 'account' | 'channel'>,
  row: MailboxStateRow,
  now: MailboxChange,
  at: number,
): Promise<void> {
  const cause = now.cause ?? null;
  const trying = now.state === 'opening' && row.cause !== null;
  const state = trying ? row.state : now.state;
  await unit.mailboxStates.put({
    ...row,
    state,
    since: row.state === state && row.cause === (trying ? row.cause : cause) ? row.since : at,
    cause: trying ? row.cause : cause,
    said: trying ? row.said : (now.said ?? null),
    next_try_at: now.nextTryAt ?? null,
  });
  if (trying) return;
  if (now.state === 'open')
    await recordFacts(
      unit,
      [{ subject: channel.id, fact: { kind: 'credential-accepted', began: at, at, ref: account.id } }],
      at,
    );
  else if (now.cause && now.cause !== 'provider-unreachable')
    await recordFacts(unit, [fault(channel.id, now.cause, at, account.id)], at);
  await noteChanges(unit, at, [
    ['account', account.id],
    ['channel', channel.id],
  ]);
}

function requestOf(
  { source, tooLong }: FetchedMail,
  { account, channel }: Pick<MailboxAccount, 'account' | 'channel'>,
  at: number,
): InboundRequestRow {
  return {
    id: newId('inb', at),
    channel_id: channel.id,
    account_id: account.id,
    received_at: at,
    method: 'IMAP',
    path: '',
    query: '',
    headers: {
      'content-type': 'message/rfc822',
      [MAILBOX_HEADER]: channel.address,
      ...(tooLong ? { [TOO_LONG_HEADER]: String(tooLong) } : {}),
    },
    body: source,
    remote_address: null,
    signature: 'fetched',
    answer_status: 0,
    state: 'stored',
    cause: null,
    outcome: null,
    processed_at: null,
  };
}
