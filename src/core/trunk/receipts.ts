/**
 * Delivery receipts of a trunk. Sources: SMPP 3.4 Appendix B (text form), §5.2.28
 * (message_state), §5.3.2.12 (receipted_message_id), §5.3.2.35 (message_state TLV).
 */
import type { CauseCode } from '../delivery/causes';

export type ReceiptState = 'sent' | 'delivered' | 'undelivered';

export interface TrunkReceipt {
  /** As the carrier wrote it; the base may differ from that of the submit's answer. */
  id: string;
  state: ReceiptState;
  cause?: CauseCode;
  /** The carrier's own state and error code. */
  said: string;
  /** Epoch milliseconds of "done date", which carries no zone and is read as UTC. */
  at?: number;
}

/** Text words and message_state numbers of the standard's states. Enroute and accepted are not final. */
const STATES: Record<string, { number: number; state: ReceiptState; cause?: CauseCode }> = {
  ENROUTE: { number: 1, state: 'sent' },
  DELIVRD: { number: 2, state: 'delivered' },
  EXPIRED: { number: 3, state: 'undelivered', cause: 'message-expired' },
  DELETED: { number: 4, state: 'undelivered', cause: 'undelivered-unknown' },
  UNDELIV: { number: 5, state: 'undelivered', cause: 'undelivered-unknown' },
  ACCEPTD: { number: 6, state: 'sent' },
  UNKNOWN: { number: 7, state: 'undelivered', cause: 'undelivered-unknown' },
  REJECTD: { number: 8, state: 'undelivered', cause: 'carrier-refused' },
};

export interface ReceiptPdu {
  text: string;
  /** TLV 0x001E. */
  receiptedMessageId?: string;
  /** TLV 0x0427. */
  messageState?: number;
}

/** TLVs win over the text, which carriers cut and translate. Undefined when neither holds an id and a state. */
export function readReceipt(
  pdu: ReceiptPdu,
  errorCauses: Readonly<Record<string, CauseCode>>,
): TrunkReceipt | undefined {
  const field = (name: string) => new RegExp(`(?:^|\\s)${name}:\\s?(\\S*)`, 'i').exec(pdu.text)?.[1];
  const id = pdu.receiptedMessageId ?? field('id');
  const word = field('stat')?.toUpperCase();
  const known = Object.entries(STATES).find(([name, entry]) =>
    pdu.messageState === undefined ? name === word : entry.number === pdu.messageState,
  );
  if (!id || !known) return undefined;
  const [name, { state, cause }] = known;
  const error = field('err');
  const told = error && Object.hasOwn(errorCauses, error) ? errorCauses[error] : undefined;
  return {
    id,
    state,
    cause: state === 'undelivered' ? (told ?? cause) : undefined,
    said: error && error !== '000' ? `${name} (err ${error})` : name,
    at: readDate(field('done date')),
  };
}

/** YYMMDDhhmm, with seconds in some dialects. */
function readDate(text: string | undefined): number | undefined {
  const match = /^(\d\d)(\d\d)(\d\d)(\d\d)(\d\d)(\d\d)?$/.exec(text ?? '');
  if (!match) return undefined;
  const [year, month, day, hour, minute, second] = match.slice(1).map((digits) => Number(digits ?? 0)) as number[];
  return Date.UTC(2000 + (year ?? 0), (month ?? 1) - 1, day, hour, minute, second);
}

export const ID_BASES = ['same', 'decimal-in-receipts', 'hex-in-receipts'] as const;
/** How an id in a receipt is written compared with the one in the submit's answer. */
export type IdBase = (typeof ID_BASES)[number];

/** The receipt's id as the submit's answer wrote it. Case and leading zeros are levelled as carriers vary them. */
export function idAsAnswered(id: string, base: IdBase): string {
  if (base === 'decimal-in-receipts' && /^\d+$/.test(id)) return levelId(BigInt(id).toString(16));
  if (base === 'hex-in-receipts' && /^[0-9a-f]+$/i.test(id)) return levelId(BigInt(`0x${id}`).toString(10));
  return levelId(id);
}

export function levelId(id: string): string {
  return id.toLowerCase().replace(/^0+(?=.)/, '');
}

/** Which other base would make a receipt fit one of the ids answered; undefined when none does. */
export function baseThatFits(receiptId: string, answered: ReadonlySet<string>, present: IdBase): IdBase | undefined {
  return ID_BASES.find((base) => base !== present && answered.has(idAsAnswered(receiptId, base)));
}
