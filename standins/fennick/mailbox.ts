/** Mail of people at Fennick: made as mail programs make it, and what Fennick reports about mail (RFC 3464). */
import { randomBytes } from 'node:crypto';
import MailComposer from 'nodemailer/lib/mail-composer';
import { now } from '../clock';

/** What somebody writes from their mailbox. */
export interface Letter {
  from: string;
  name: string;
  to: string;
  subject: string;
  text: string;
  html?: string;
  /** The Message-ID it answers, and those before it. */
  answers?: { id: string; references: readonly string[] };
  /** Written by the mailbox itself, such as while somebody is away (RFC 3834). */
  automatic?: boolean;
  files?: readonly { name: string; type: string; content: Buffer }[];
}

/** A mail as it goes over the wire, with its Message-ID. */
export async function compose(letter: Letter): Promise<{ id: string; source: Buffer }> {
  const { from, name, to, subject, text, html, answers, automatic, files = [] } = letter;
  const id = `<${randomBytes(9).toString('hex')}@${from.split('@')[1]}>`;
  const mail = new MailComposer({
    from: { name, address: from },
    to,
    subject,
    text,
    html,
    date: new Date(now()),
    messageId: id,
    ...(answers ? { inReplyTo: answers.id, references: [...answers.references, answers.id] } : {}),
    headers: automatic ? { 'Auto-Submitted': 'auto-replied', Precedence: 'bulk' } : {},
    attachments: files.map(({ name: filename, type, content }) => ({ filename, contentType: type, content })),
  });
  return { id, source: await mail.compile().build() };
}

export interface Fate {
  action: 'failed' | 'delivered';
  /** RFC 3463. */
  status: string;
  words: string;
}

/** What Fennick reports to whoever sent a mail. */
export function deliveryReport(
  to: string,
  about: { recipient: string; id: string; subject: string },
  fate: Fate,
): Buffer {
  const mark = randomBytes(9).toString('hex');
  const title = fate.action === 'failed' ? 'Your mail could not be delivered' : 'Your mail was delivered';
  return Buffer.from(
    [
      'Return-Path: <>',
      'From: Fennick <postmaster@fennick.example>',
      `To: ${to}`,
      `Subject: ${title}`,
      `Message-ID: <${mark}@fennick.example>`,
      `Date: ${new Date(now()).toUTCString()}`,
      'Auto-Submitted: auto-generated',
      'MIME-Version: 1.0',
      `Content-Type: multipart/report; report-type=delivery-status; boundary="${mark}"`,
      '',
      `--${mark}`,
      'Content-Type: text/plain; charset=utf-8',
      '',
      `${title}: ${about.recipient}, ${fate.words}.`,
      '',
      `--${mark}`,
      'Content-Type: message/delivery-status',
      '',
      'Reporting-MTA: dns; mail.fennick.example',
      '',
      `Final-Recipient: rfc822; ${about.recipient}`,
      `Action: ${fate.action}`,
      `Status: ${fate.status}`,
      ...(fate.action === 'failed' ? [`Diagnostic-Code: smtp; 550 ${fate.words}`] : []),
      '',
      `--${mark}`,
      'Content-Type: text/rfc822-headers',
      '',
      `Message-ID: ${about.id}`,
      `Subject: ${about.subject}`,
      '',
      `--${mark}--`,
      '',
    ].join('\r\n'),
  );
}
