/**
 * Between our texts and SMPP's PDUs. Sources: SMPP 3.4 §4.4.1 (submit_sm), §4.6.1
 * (deliver_sm), §5.2.5-6 (type and plan of addresses), §5.2.12 (esm_class).
 */
import smpp, { type PDU } from 'smpp';
import { smppPeriod } from '../../core/delivery/validity';
import { decodeText, writtenIn } from '../../core/text/alphabets';
import { idAsAnswered, readReceipt } from '../../core/trunk/receipts';
import { isSound, type ReceivedPart, readHeader, type SubmitPart } from '../../core/trunk/submits';
import type { Exchange, InboundHttpRequest, InboundItem, OutboundText, ParsedInbound } from '../connector';
import type { TrunkDialect, TrunkSettings } from './dialect';

// The package reads short_message in an alphabet of its own choice. Which one the carrier
// means is a setting here, and what was received is kept as octets, so it is left alone.
smpp.filters.message.decode = (value) => value;

export type { PDU };

export interface LinkAddress {
  host: string;
  port: number;
  systemId: string;
  password: string;
  systemType: string;
}

/** esm_class, bits 5 to 2: what a deliver_sm is. */
const TYPE_BITS = 0x3c;
const RECEIPT = 0x04;
const HEADER_PRESENT = 0x40;

export function submitPdu(
  { sender, recipient, validSeconds }: Pick<OutboundText, 'sender' | 'recipient' | 'validSeconds'>,
  part: SubmitPart,
  reference: number,
): PDU {
  const fields: Record<string, unknown> = sourceOf(sender);
  if (validSeconds !== undefined) fields.validity_period = smppPeriod(validSeconds);
  fields.dest_addr_ton = 1;
  fields.dest_addr_npi = 1;
  fields.destination_addr = recipient.startsWith('+') ? recipient.slice(1) : recipient;
  fields.esm_class = part.esmClass;
  fields.data_coding = part.dataCoding;
  fields.registered_delivery = 1;
  fields.short_message = Buffer.from(part.shortMessage);
  fields.user_message_reference = reference;
  if (part.payload) fields.message_payload = Buffer.from(part.payload);
  if (part.sar) {
    fields.sar_msg_ref_num = part.sar.reference;
    fields.sar_total_segments = part.sar.total;
    fields.sar_segment_seqnum = part.sar.sequence;
  }
  return new smpp.PDU('submit_sm', fields);
}

/** Type of number and numbering plan: international E.164, a short code of the network, or a name. */
function sourceOf(sender: string) {
  if (sender.startsWith('+')) return { source_addr_ton: 1, source_addr_npi: 1, source_addr: sender.slice(1) };
  if (/^\d+$/.test(sender)) return { source_addr_ton: 3, source_addr_npi: 0, source_addr: sender };
  return { source_addr_ton: 5, source_addr_npi: 0, source_addr: sender };
}

function addressOf(ton: unknown, value: unknown): string {
  return ton === 1 && !String(value).startsWith('+') ? `+${value}` : String(value ?? '');
}

const KEPT_FIELDS = [
  'system_id',
  'interface_version',
  'source_addr',
  'destination_addr',
  'esm_class',
  'data_coding',
  'registered_delivery',
  'validity_period',
  'message_id',
  'receipted_message_id',
  'message_state',
  'user_message_reference',
  'sar_msg_ref_num',
  'sar_total_segments',
  'sar_segment_seqnum',
] as const;

/** The fields worth reading, without the password; octets as hexadecimal. */
export function readableFields(pdu: PDU): Record<string, unknown> {
  const fields: Record<string, unknown> = {};
  for (const name of KEPT_FIELDS) {
    const value = pdu[name];
    if (value !== undefined && value !== '') fields[name] = value;
  }
  for (const name of ['short_message', 'message_payload']) {
    const value = pdu[name];
    if (Buffer.isBuffer(value) && value.length > 0) fields[name] = value.toString('hex');
  }
  return fields;
}

/** A deliver_sm in the shape of everything that comes in, so that it is kept and read like the rest. */
export function deliverAsRequest(pdu: PDU, url: string): InboundHttpRequest {
  const { short_message, message_payload, ...rest } = readableFields(pdu);
  const payload = pdu.message_payload;
  const body = Buffer.isBuffer(payload)
    ? payload
    : Buffer.isBuffer(pdu.short_message)
      ? pdu.short_message
      : Buffer.alloc(0);
  const headers = Object.fromEntries(Object.entries(rest).map(([name, value]) => [name, String(value)]));
  headers.source_addr = addressOf(pdu.source_addr_ton, pdu.source_addr);
  headers.destination_addr = addressOf(pdu.dest_addr_ton, pdu.destination_addr);
  headers.sequence_number = String(pdu.sequence_number);
  return { method: 'deliver_sm', url, headers, body };
}

/** A receipt or a text, as the carrier's settings say to read it. */
export function readDeliver(
  request: InboundHttpRequest,
  settings: TrunkSettings,
  dialect: TrunkDialect,
): ParsedInbound {
  try {
    const esmClass = Number(request.headers.esm_class ?? 0);
    const item =
      (esmClass & TYPE_BITS) === RECEIPT ? receipt(request, settings, dialect) : text(request, settings, esmClass);
    return { ok: true, items: [item] };
  } catch (error) {
    return { ok: false, reason: (error as Error).message };
  }
}

function receipt({ headers, body }: InboundHttpRequest, settings: TrunkSettings, dialect: TrunkDialect): InboundItem {
  const read = readReceipt(
    {
      text: decodeText(body, 'latin-1'),
      receiptedMessageId: headers.receipted_message_id?.replace(/\0+$/, ''),
      messageState: headers.message_state === undefined ? undefined : Number(headers.message_state),
    },
    dialect.receiptErrors,
  );
  if (!read) throw new Error('the receipt holds no id and state');
  const mark = headers.user_message_reference;
  return {
    kind: 'receipt',
    providerMessageId: idAsAnswered(read.id, settings.receiptIds),
    writtenId: read.id,
    state: read.state,
    cause: read.cause,
    said: read.said,
    at: read.at,
    ...(mark === undefined ? {} : { mark: { reference: Number(mark), recipient: headers.source_addr ?? '' } }),
  };
}

function text({ headers, body }: InboundHttpRequest, settings: TrunkSettings, esmClass: number): InboundItem {
  const coding = Number(headers.data_coding ?? 0);
  const alphabet = alphabetOf(coding, settings);
  const { textFrom, part } = esmClass & HEADER_PRESENT ? readHeader(body) : { textFrom: 0, part: sarOf(headers) };
  const octets = body.subarray(textFrom);
  const really = coding === 0 && alphabet !== 'ucs-2' ? writtenIn(octets, alphabet) : undefined;
  return {
    kind: 'text',
    providerMessageId: headers.receipted_message_id?.replace(/\0+$/, '') || `${headers.windgap_arrival}`,
    from: headers.source_addr ?? '',
    to: headers.destination_addr ?? '',
    text: decodeText(octets, alphabet),
    part,
    alphabetDoubt: really,
  };
}

/** SMPP 3.4 §5.2.19. What is no text is refused with its number. */
function alphabetOf(coding: number, settings: TrunkSettings) {
  if (coding === 0x00) return settings.defaultAlphabet;
  if (coding === 0x01 || coding === 0x03) return 'latin-1' as const;
  if (coding === 0x08) return 'ucs-2' as const;
  throw new Error(`data_coding ${coding} holds no text that can be read`);
}

function sarOf(headers: Readonly<Record<string, string>>): ReceivedPart | undefined {
  if (headers.sar_total_segments === undefined) return undefined;
  const part = {
    reference: Number(headers.sar_msg_ref_num ?? 0),
    total: Number(headers.sar_total_segments),
    sequence: Number(headers.sar_segment_seqnum ?? 0),
  };
  return isSound(part) ? part : undefined;
}

export function bindPdu(command: string, address: LinkAddress): PDU {
  return new smpp.PDU(command, {
    system_id: address.systemId,
    password: address.password,
    system_type: address.systemType,
    interface_version: 0x34,
  });
}

export function urlOf(address: LinkAddress): string {
  return `smpp://${address.host}:${address.port}/${address.systemId}`;
}

/** A response PDU as the answer half of an exchange: command_status stands where HTTP has its status. */
export function answerOf(pdu: PDU): NonNullable<Exchange['response']> {
  return { status: pdu.command_status, headers: textual(readableFields(pdu)), body: '' };
}

export function textual(fields: Record<string, unknown>): Record<string, string> {
  return Object.fromEntries(Object.entries(fields).map(([name, value]) => [name, String(value)]));
}
