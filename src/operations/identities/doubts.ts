/** Addresses that may be somebody else's by now: they say so themselves, or the network says that nobody has them. */
import type { CauseCode } from '../../core/delivery/causes';
import { type Identity, identityKey } from '../../core/identities/identityKinds';
import { saysWrongPerson } from '../../core/identities/wrongPerson';
import type { ChannelRow, MessageRow } from '../../store/schema/rows';
import type { Unit } from '../../store/store';
import { noteChanges } from '../context';
import { enterHistory, holdersOf, identityOn } from './identities';

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
