/**
 * E-mail as a channel of its own: mail goes out through the organisation's SMTP server (RFC 5321) and comes in whole, as the
 * mail service posts it or as it is read from the mailbox (RFC 9051). Bounces and delivery notifications (RFC 3464) are receipts; there is none where the server gives none.
 */
import type { CauseCode } from '../../core/delivery/causes';
import type { RecipientReport } from '../../core/mail/deliveryReport';
import { htmlOf } from '../../core/mail/html';
import type { Accepted, Connector, Credentials, InboundItem, OutboundText } from '../connector';
import { verifyRequest } from '../http/signature';
import type { Outside } from '../outside/outside';
import { common } from '../profile/common';
import type { MailboxProfile } from '../profile/schema';
import { imapAccount, mailAccount } from './account';
import { LARGEST_MAIL, openMailbox, tryMailbox } from './imap';
import { readMail } from './readMail';
import { dkimOf } from './smtp';

/** Types of files that mail carries here; what runs on a computer is not among them. */
const FILE_TYPES = [
  ...['image/jpeg', 'image/png', 'image/gif', 'image/webp', 'application/pdf', 'application/zip'],
  'application/vnd.openxmlformats-officedocument.wordprocessingml.document',
  'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet',
];

/** Where a mail that was read over IMAP says what it was for, and how long it is when it was left where it is. */
export const MAILBOX_HEADER = 'windgap-mailbox';
export const TOO_LONG_HEADER = 'windgap-too-long';

export function mailboxConnector(profile: MailboxProfile, outside: Outside): Connector {
  const { mail, inbound } = profile;
  const { of: account, talk } = mailAccount(mail, outside);
  const addressOf = (credentials: Credentials) => account(credentials).from.trim().toLowerCase();
  const posted = 'imap' in inbound ? undefined : inbound;
  const read = 'imap' in inbound ? inbound.imap : undefined;
  const imapOf = read && imapAccount(read);

  return {
    ...common(profile),
    addresses: (credentials) => [
      `smtp://${account(credentials).host}:${account(credentials).port}`,
      ...(imapOf ? [`imap://${imapOf(credentials).host}:${imapOf(credentials).port}`] : []),
    ],
    handsOverAddress: posted !== undefined,
    challenges: false,
    inboundBelongsTo: 'account',
    inboundMethod: 'POST',
    largestInbound: LARGEST_MAIL,
    mediaTypes: FILE_TYPES,
    limits: profile.limits,
    requires: { permissions: [], subscriptions: [], registrationCountries: [] },
    honoursReference: false,
    givesReceipts: inbound.reportsDelivery,
    codesFor: [],
    async checkAccount(credentials) {
      const sends = await talk(credentials, { headers: {}, body: null }, async (transporter) => {
        await transporter.verify();
        return { value: { name: addressOf(credentials) }, answer: 'signed in' };
      });
      if (!sends.ok || !imapOf) return sends;
      const reads = await tryMailbox(imapOf(credentials), outside);
      const also = sends.exchange ? [sends.exchange] : [];
      return reads.ok ? { ...reads, value: sends.value, also } : { ...reads, also };
    },
    smtpAccount: account,
    mailDomain: (credentials) => addressOf(credentials).split('@')[1] ?? '',
    openMailbox: imapOf && ((credentials, from, events) => openMailbox(imapOf(credentials), from, events, outside)),
    listNumbers: async (credentials) => {
      const from = addressOf(credentials);
      const abilities = ['text-in', 'text-out', 'media-in', 'media-out'];
      return { ok: true, value: [{ remoteId: from, address: from, abilities, inbound: {}, facts: {} }] };
    },
    send: (credentials, text) => {
      const from = addressOf(credentials);
      const headers = { from, to: text.recipient, subject: text.mail?.subject ?? '' };
      return talk(credentials, { headers, body: text.shown ?? text.text }, async (transporter) => {
        const sent = await transporter.sendMail(mailOf(text, from));
        const value: Accepted = { providerMessageId: sent.messageId.replace(/^<|>$/g, '') };
        return { value, answer: sent.response };
      });
    },
    // Nothing is posted for a mailbox that is read: whoever posts is not the mail server.
    verify: (credentials, request, now) =>
      posted ? verifyRequest({ token: posted.token }, credentials, request, now) : 'missing',
    async parse(request) {
      try {
        const read = await readMail(request.body);
        const to = (request.headers[posted?.recipient ?? MAILBOX_HEADER] ?? '').trim().toLowerCase();
        const tooLong = Number(request.headers[TOO_LONG_HEADER] ?? 0);
        const items = read.report
          ? read.report.recipients.flatMap((report) => receiptOf(read.report?.messageId ?? '', report))
          : [
              {
                kind: 'text' as const,
                providerMessageId: read.messageId,
                from: read.from,
                to,
                text: tooLong > 0 ? leftBehind(tooLong) : read.text,
                senderName: read.name,
                subject: read.subject,
                answers: read.answers,
                automatic:
                  read.automatic ?? (read.from === to ? 'It came from the very address it was sent to' : undefined),
                files: tooLong > 0 ? [] : read.files,
              },
            ];
        return { ok: true, items };
      } catch (error) {
        return { ok: false, reason: (error as Error).message };
      }
    },
  };
}

function leftBehind(octets: number): string {
  const megabytes = (octets / 1024 / 1024).toFixed(0);
  return `[A mail of ${megabytes} MB, which is still in the mailbox: more than ${LARGEST_MAIL / 1024 / 1024} MB are not taken]`;
}

/** A delay says that it is still being tried, and changes nothing. */
function receiptOf(providerMessageId: string, { action, status, diagnostic }: RecipientReport): InboundItem[] {
  const said = [status, diagnostic].filter(Boolean).join(' ') || action;
  if (action === 'delivered') return [{ kind: 'receipt', providerMessageId, state: 'delivered', said }];
  if (action !== 'failed') return [];
  return [{ kind: 'receipt', providerMessageId, state: 'undelivered', cause: causeOf(status), said }];
}

/** RFC 3463 §3.2: X.1.x is the address, X.2.x the mailbox; all else is some place on the way. */
function causeOf(status: string): CauseCode {
  if (/^5\.1\.[0-3]$/.test(status)) return 'mail-address-unknown';
  if (/^\d\.2\.2$/.test(status)) return 'mailbox-full';
  return 'mail-bounced';
}

function mailOf(text: OutboundText, from: string) {
  const { subject = '', inReplyTo, references = [], automatic, files = [], signing, leaveUrl } = text.mail ?? {};
  const domain = from.split('@')[1] ?? 'windgap.invalid';
  const marked = (id: string) => `<${id}>`;
  return {
    from,
    to: text.recipient,
    subject,
    text: text.text,
    // What a person typed stays as it was typed.
    ...(automatic ? { html: htmlOf(text.text) } : {}),
    messageId: marked(`${text.reference}@${domain}`),
    ...(inReplyTo ? { inReplyTo: marked(inReplyTo) } : {}),
    ...(references.length > 0 ? { references: references.map(marked) } : {}),
    headers: {
      // RFC 3834 §5: what no person wrote says so, and other machines leave it alone.
      ...(automatic ? { 'Auto-Submitted': automatic } : {}),
      // RFC 8058 §3.1: both are covered by the signature, or count for nothing.
      ...(signing && leaveUrl
        ? { 'List-Unsubscribe': `<${leaveUrl}>`, 'List-Unsubscribe-Post': 'List-Unsubscribe=One-Click' }
        : {}),
    },
    ...(signing ? dkimOf(signing) : {}),
    attachments: files.map(({ name, type, content }) => ({ filename: name, contentType: type, content })),
    // RFC 3461: asked for; a server that does not know it leaves it out.
    dsn: {
      id: text.reference,
      return: 'headers' as const,
      notify: ['success' as const, 'failure' as const, 'delay' as const],
      recipient: text.recipient,
    },
  };
}
