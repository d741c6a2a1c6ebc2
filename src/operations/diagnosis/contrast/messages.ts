/** What the messages that failed lately have in common that those which arrived have not. */
import { type Compared, type Contrast, contrast } from '../../../core/diagnosis/contrast';
import type { AppContext } from '../../context';
import { RECEIPT_PATIENCE, type Scope } from '../complaintEvidence';

/** How far back, and how many, are compared. */
export const COMPARED_BACK = 7 * 86_400_000;
const MOST_COMPARED = 10_000;
/** Digits of a number that make its range. */
const RANGE = 7;

interface Row {
  id: string;
  at: number;
  state: string;
  recipient: string;
  country: string | null;
  encoding: string;
  parts: number;
  letters: number;
  media: string | null;
  template: string | null;
  sender: string;
  channel: string;
  origin: string;
  /** Whether receipts come on this channel at all. */
  receipts: number;
  /** Of the answer that its last attempt got. */
  host: string | null;
  server: string | null;
  form: string | null;
}

export interface ContrastView {
  of: 'messages' | 'requests' | 'events';
  contrast: Contrast;
  /** How many were compared, and what was changed by people about when it began. */
  compared: number;
  changes: { at: number; by: string; summary: string }[];
}

export async function contrastMessages(ctx: AppContext, scope: Scope): Promise<ContrastView> {
  const since = ctx.now() - COMPARED_BACK;
  const rows = await ctx.store.select<Row>(
    `SELECT m.id, m.created_at AS at, m.state, m.recipient, m.country, m.encoding, m.parts, length(m.text) AS letters,
            m.media->>'$.type' AS media, m.template->>'$.id' AS template, m.sender, c.name AS channel,
            coalesce(m.origin_name, m.origin_kind) AS origin,
            (c.id IN (SELECT p.subject_id FROM hop_proofs p WHERE p.hop = 'receipt' AND p.state <> 'unproven')) AS receipts,
            x.request->>'$.url' AS host, x.response->>'$.headers.server' AS server, x.response->>'$.headers.content-type' AS form
       FROM messages m JOIN channels c ON c.id = m.channel_id
       LEFT JOIN exchanges x ON x.id = (SELECT max(e.exchange_id) FROM message_events e WHERE e.message_id = m.id)
      WHERE m.direction = 'out' AND m.created_at > :since AND m.state <> 'queued'
        ${scope.channel ? 'AND m.channel_id = :channel' : ''} ${scope.phone ? 'AND m.recipient = :phone' : ''}
        ${scope.app ? "AND m.origin_kind = 'app' AND m.origin_id = :app" : ''}
      ORDER BY m.id DESC LIMIT ${MOST_COMPARED}`,
    { since, channel: scope.channel ?? '', phone: scope.phone ?? '', app: scope.app ?? '' },
  );
  const now = ctx.now();
  const messages = rows.flatMap((row): Compared[] => {
    const failed =
      row.state === 'failed' || (row.state === 'sent' && row.receipts === 1 && now - row.at > RECEIPT_PATIENCE);
    const arrived = row.state === 'delivered' || row.state === 'read' || (row.state === 'sent' && row.receipts === 0);
    return failed || arrived ? [{ at: row.at, failed, is: attributesOf(row) }] : [];
  });
  const found = contrast(messages);
  return {
    of: 'messages',
    contrast: found,
    compared: messages.length,
    changes: await changesAround(ctx, scope, found),
  };
}

function attributesOf(row: Row): Record<string, string> {
  return {
    ...(row.country ? { country: row.country } : {}),
    range: `${row.recipient.slice(0, RANGE)}…`,
    recipient: row.recipient,
    parts: row.parts === 1 ? 'one part' : row.parts === 2 ? 'two parts' : 'three parts or more',
    length: row.letters <= 70 ? 'up to 70 letters' : row.letters <= 160 ? '71 to 160 letters' : 'over 160 letters',
    encoding: row.encoding,
    file: row.media ?? 'no file',
    template: row.template ?? 'no template',
    sender: row.sender,
    channel: row.channel,
    origin: row.origin,
    ...(row.host && URL.canParse(row.host) ? { host: new URL(row.host).host } : {}),
    ...(row.server ? { server: row.server } : {}),
    ...(row.form ? { form: row.form } : {}),
    hour: hourOf(row.at),
  };
}

export const hourOf = (at: number) => `${new Date(at).getUTCHours()}:00 UTC`;

const AROUND = 6 * 3_600_000;

/** What people changed in the hours before it began; of a channel, what was changed of it and its account. */
export async function changesAround(
  ctx: AppContext,
  { channel }: Scope,
  found: Contrast,
): Promise<ContrastView['changes']> {
  const began = found.found === 'split' ? found.splits.find(({ since }) => since !== undefined)?.since : undefined;
  if (began === undefined) return [];
  return ctx.store.select(
    `SELECT at, actor_name AS by, summary FROM audit_entries WHERE at BETWEEN :from AND :until
        AND action NOT LIKE 'session%' AND action NOT LIKE 'test.%'
        ${channel ? 'AND subject_id IN (SELECT id FROM channels WHERE id = :channel UNION SELECT account_id FROM channels WHERE id = :channel)' : ''}
      ORDER BY id DESC LIMIT 6`,
    { from: began - AROUND, until: began + 60_000, channel: channel ?? '' },
  );
}
