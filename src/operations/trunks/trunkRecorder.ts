/** Writes down what is seen of a held link: its state and PDUs twice a second, and what they prove. */
import type { TrunkChange, TrunkLink, TrunkPdu } from '../../connectors/connector';
import type { ProviderAccountRow, TrunkPduRow, TrunkStateRow } from '../../store/schema/rows';
import { type AppContext, noteChanges } from '../context';
import { fault, recordFacts } from '../proofs';

const WRITE_EVERY = 500;

/** Under load only so many PDUs of each half second are kept; what became of each text is on its trail anyway. */
const MOST_PDUS = 60;

const KEPT_PDUS = 2000;

/** Writes the link's state and PDUs down twice a second, and breaks or proves the credential hop when it changes. */
export function createRecorder(ctx: AppContext, account: ProviderAccountRow) {
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
        `DELETE FROM trunk_pdus WHERE account_id = :account AND id <=
           (SELECT id FROM trunk_pdus WHERE account_id = :account ORDER BY id DESC LIMIT 1 OFFSET :kept)`,
        { account: account_id, kept: KEPT_PDUS },
      );
    }
  });
}
