/** Addresses that may be somebody else's by now: they say so themselves, or the network says that nobody has them. */
import type { CauseCode } from '../../core/delivery/causes';
import { type Identity, identityKey } from '../../core/identities/identityKinds';
import { backAfterSilence, type Missed } from '../../core/identities/silence';
import { saysWrongPerson } from '../../core/identities/wrongPerson';
import type { ChannelRow, MessageRow } from '../../store/schema/rows';
import type { Unit } from '../../store/store';
import { type AppContext, noteChanges } from '../context';
import { enterHistory, holdersOf, identityOn, ofTelephone, phone } from './identities';

/** Receipts that say that nobody has the address any more. */
const NOBODYS: readonly CauseCode[] = ['number-not-in-service', 'mail-address-unknown'];

interface Over {
  message: Pick<MessageRow, 'id' | 'text' | 'sender' | 'recipient'>;
  channel: ChannelRow;
}

/** Doubts the addresses of those who say that they are not who was meant. */
export async function doubtWrongPeople(unit: Unit, received: readonly Over[], at: number): Promise<void> {
  await doubt(
    unit,
    received
      .filter(({ message }) => saysWrongPerson(message.text))
      .map(({ message, channel }) => ({
        identity: identityOn(channel, message.sender),
        why: `They wrote “${message.text.slice(0, 60)}”.`,
      })),
    at,
  );
}

/** Doubts addresses that a receipt says nobody has. */
export async function doubtNobodys(
  unit: Unit,
  refused: readonly (Over & { cause: CauseCode | undefined })[],
  at: number,
): Promise<void> {
  await doubt(
    unit,
    refused
      .filter(({ cause }) => cause !== undefined && NOBODYS.includes(cause))
      .map(({ message, channel }) => ({
        identity: identityOn(channel, message.recipient),
        why: 'A receipt said that nobody has it; when somebody has it again, it may be another person.',
      })),
    at,
  );
}

/** What shows that a number is nobody's, or that its phone is away. */
const UNHEARD: readonly CauseCode[] = ['number-not-in-service', 'handset-unreachable', 'message-expired'];

/** Notes telephone numbers that something did not get to. */
export async function noteMissed(
  unit: Unit,
  failed: readonly (Over & { cause: CauseCode | undefined })[],
  at: number,
): Promise<void> {
  for (const { message, channel, cause } of failed) {
    if (!ofTelephone(channel) || !cause || !UNHEARD.includes(cause)) continue;
    await unit.execute(
      `INSERT INTO missed_deliveries (value, times, first_at, last_at) VALUES (:value, 1, :at, :at)
         ON CONFLICT (value) DO UPDATE SET times = times + 1, last_at = :at`,
      { value: message.recipient, at },
    );
  }
}

/** Longer than anybody tries a number that nothing gets to. */
const FORGOTTEN_AFTER = 400 * 86_400_000;

/** Forgets what did not get to numbers that nobody has tried for long. */
export async function forgetMissed(ctx: Pick<AppContext, 'store' | 'now'>): Promise<void> {
  await ctx.store.write((unit) =>
    unit.execute('DELETE FROM missed_deliveries WHERE last_at < :before', { before: ctx.now() - FORGOTTEN_AFTER }),
  );
}

/**
 * Doubts telephone numbers that are in use again after so long that they may be somebody else's; of others the silence is
 * over. `wrote`: numbers something came from; `arrived`: ids of messages that got there.
 */
export async function doubtReturned(
  unit: Unit,
  { wrote, arrived }: { wrote: readonly string[]; arrived: readonly string[] },
  at: number,
): Promise<void> {
  if (wrote.length + arrived.length === 0) return;
  const missed = await unit.select<Missed & { value: string }>(
    `SELECT value, times, first_at AS firstAt, last_at AS lastAt FROM missed_deliveries
      WHERE value IN (:wrote) OR value IN (SELECT recipient FROM messages WHERE id IN (:arrived))`,
    { wrote: [...wrote, ''], arrived: [...arrived, ''] },
  );
  if (missed.length === 0) return;
  await doubt(
    unit,
    missed.flatMap((each) => {
      const why = backAfterSilence(each, at);
      return why ? [{ identity: phone(each.value), why }] : [];
    }),
    at,
  );
  await unit.missedDeliveries.removeBy(
    'value',
    missed.map(({ value }) => value),
  );
}

async function doubt(unit: Unit, doubted: readonly { identity: Identity; why: string }[], at: number): Promise<void> {
  if (doubted.length === 0) return;
  const holders = await holdersOf(
    unit,
    doubted.map(({ identity }) => identity),
  );
  for (const { identity, why } of doubted) {
    const row = holders.get(identityKey(identity));
    if (!row || row.doubt !== null) continue;
    await unit.identities.change({ ...identity }, { doubt: why, doubted_at: at });
    const entry = { what: 'doubted', at, why, by: 'Windgap' } as const;
    await enterHistory(unit, [{ ...identity, contactId: row.contact_id }], entry);
    await noteChanges(unit, at, [['contact', row.contact_id]]);
  }
}
