/** Numbers of a trunk: its carrier has no list that could be read, so they are pasted, one a line. */

import { type Address, type NormaliseResult, normaliseAddress } from '../../core/addresses/address';
import type { Finding } from '../../core/finding';
import type { ChannelRow, ProviderNumberRow } from '../../store/schema/rows';
import { type Actor, type AppContext, noteChanges, OperationError, recordAudit, requireRole } from '../context';
import { holdersOf, phone } from '../identities';
import { accountWith } from './accountInUse';
import { numberRow } from './readNumbers';

export async function removeTrunkNumber(ctx: AppContext, actor: Actor, number: ProviderNumberRow): Promise<void> {
  requireRole(actor, 'administrator');
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    await unit.numbers.remove({ id: number.id });
    await recordAudit(unit, actor, at, {
      action: 'number.removed',
      subject: number.id,
      summary: `Took ${number.address} off the trunk`,
    });
    await noteChanges(unit, at, [['account', number.account_id]]);
  });
}

export interface NumbersPasted {
  /** One number or short code a line. */
  text: string;
  /** Sender names, one a line. */
  names?: string;
  country: string;
}

export interface PastedLine {
  line: number;
  text: string;
  address?: Address;
  finding?: Finding;
}

/** Reads numbers in any human form, one a line, each with what is wrong with it. */
export async function examineNumbers(
  ctx: AppContext,
  actor: Actor,
  accountId: string,
  input: NumbersPasted,
): Promise<PastedLine[]> {
  requireRole(actor, 'administrator');
  const [numbers, channels] = await Promise.all([ctx.store.numbers.all(), ctx.store.channels.all()]);
  const known = numbers.filter(({ account_id }) => account_id === accountId);
  const elsewhere = channels.filter(({ account_id }) => account_id !== accountId);
  const seen = new Map<string, number>();
  const lines = [...linesOf(input.text, false), ...linesOf(input.names ?? '', true)];
  const read = lines.map(({ text, line, name }): PastedLine => {
    const normalised = name ? readName(text) : readNumber(text, input.country);
    if (!normalised.ok) return { line, text, finding: normalised.finding };
    const { value } = normalised.address;
    const earlier = seen.get(value);
    seen.set(value, earlier ?? line);
    const finding = earlier
      ? lineFinding('number-repeated', `The same number as in line ${earlier}.`, 'Leave one of them out.')
      : known.some((row) => row.address === value)
        ? lineFinding('number-known', 'This number is on the account already.', 'Nothing needs doing.')
        : channelElsewhere(elsewhere, normalised.address);
    return { line, text, address: normalised.address, finding };
  });
  const people = [...(await holdersOf(ctx.store, [...seen.keys()].map(phone))).values()];
  return read.map((entry) => {
    if (entry.finding || !people.some((person) => person.value === entry.address?.value)) return entry;
    const problem = 'This is the phone of a contact: a personal mobile is not a number of the carrier’s.';
    return {
      ...entry,
      finding: lineFinding('number-personal', problem, 'Give the number the carrier has assigned to you.'),
    };
  });
}

function linesOf(text: string, name: boolean) {
  return text
    .split(/\r?\n/)
    .flatMap((line, index) => (line.trim() ? [{ text: line.trim(), line: index + 1, name }] : []));
}

const readNumber = (text: string, country: string) =>
  normaliseAddress(text, { defaultCountry: country || undefined, allowShortCode: true });

/** Letters among at most eleven characters (3GPP TS 23.040 §9.1.2.5). */
function readName(text: string): NormaliseResult {
  const read = normaliseAddress(text, { allowSenderName: true });
  if (read.ok && read.address.kind === 'sender-name') return read;
  const problem = `“${text.slice(0, 40)}” is no sender name.`;
  const remedy = 'A name has letters, and at most eleven characters of the Latin alphabet, digits and spaces.';
  return { ok: false, finding: lineFinding('name-malformed', problem, remedy) };
}

/** What is received through another account does not arrive here; a name is nobody's alone. */
function channelElsewhere(elsewhere: readonly ChannelRow[], { kind, value }: Address): Finding | undefined {
  const channel = elsewhere.find(({ address }) => address === value);
  if (!channel || kind === 'sender-name') return undefined;
  return lineFinding(
    'number-elsewhere',
    `This is the channel ${channel.name}, through another account.`,
    'Leave it out here as long as that account carries it; to bring it here, move the number on the channel’s page.',
  );
}

function lineFinding(code: string, problem: string, remedy: string): Finding {
  return { code, severity: 'error', problem, remedy };
}

/** Adds the lines without a finding as numbers of a trunk, whose carrier has no list that could be read. */
export async function addTrunkNumbers(
  ctx: AppContext,
  actor: Actor,
  accountId: string,
  input: NumbersPasted,
): Promise<{ added: number; lines: PastedLine[] }> {
  const { account, connector } = await accountWith(ctx, accountId);
  if (!connector.trunk) throw new OperationError('invalid', `${connector.name} tells its numbers itself.`);
  const lines = await examineNumbers(ctx, actor, accountId, input);
  const good = lines.flatMap(({ address, finding }) => (address && !finding ? [address] : []));
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    await unit.numbers.insert(
      good.map((address) =>
        numberRow(
          accountId,
          {
            remoteId: address.value,
            address: address.value,
            abilities: address.kind === 'sender-name' ? ['text-out'] : ['text-in', 'text-out'],
            inbound: {},
            facts: {},
          },
          undefined,
          at,
        ),
      ),
    );
    await recordAudit(unit, actor, at, {
      action: 'numbers.added',
      subject: accountId,
      summary: `Added ${good.length} ${good.length === 1 ? 'number' : 'numbers'} to ${account.name}`,
    });
    await noteChanges(unit, at, [['account', accountId]]);
  });
  return { added: good.length, lines };
}

/**
 * One number of a trunk: one that moves there, and that its carrier carries from some moment on. Returns whether it was not
 * known there yet.
 */
export async function addTrunkNumber(ctx: AppContext, accountId: string, address: string): Promise<boolean> {
  const at = ctx.now();
  const remote = { remoteId: address, address, abilities: ['text-in', 'text-out'], inbound: {}, facts: {} };
  return ctx.store.write(async (unit) => {
    const earlier = await unit.numbers.one({ account_id: accountId, address });
    await unit.numbers.put(numberRow(accountId, remote, earlier, at));
    await noteChanges(unit, at, [['account', accountId]]);
    return earlier === undefined;
  });
}
