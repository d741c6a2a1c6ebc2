/** Reads a mail as it came over the wire (RFC 5322, MIME): its words, its files, what it answers, or what it reports. */
import { convert } from 'html-to-text';
import { type ParsedMail, simpleParser } from 'mailparser';
import { type RecipientReport, readDeliveryReport } from '../../core/mail/deliveryReport';
import { type MailHeaders, machineMade } from '../../core/mail/machineMade';
import { subjectIn } from '../../core/mail/subject';
import { withoutQuote } from '../../core/mail/withoutQuote';
import type { TextItem } from '../connector';

const LONGEST_WORDS = 20_000;
/** Words and HTML are cut before they are worked through: a mail costs what is kept of it, not what it brings. */
const LONGEST_READ = 200_000;
const MOST_FILES = 20;
/** More parts than any mail program writes; each costs its handling, however empty it is. */
const MOST_PARTS = 500;
const MOST_REPORTED = 100;

export interface ReadMail {
  messageId: string;
  from: string;
  name?: string;
  subject?: string;
  text: string;
  /** Ids of messages it answers, the nearest first. */
  answers: string[];
  /** Why it counts as written by a program, as a sentence. */
  automatic?: string;
  files: NonNullable<TextItem['files']>;
  /** What a mail system reports of a mail of ours. */
  report?: { messageId: string; recipients: RecipientReport[] };
}

/** Throws what is missing where it is no mail that can be answered. */
export async function readMail(source: Buffer): Promise<ReadMail> {
  refuseCostly(source);
  const mail = await simpleParser(source, {
    skipHtmlToText: true,
    skipTextToHtml: true,
    skipTextLinks: true,
    skipImageLinks: true,
    keepDeliveryStatus: true,
  });
  const headers: MailHeaders = new Map(mail.headerLines.map(({ key, line }) => [key.toLowerCase(), fieldOf(line)]));
  const [sender] = mail.from?.value ?? [];
  const from = sender?.address?.trim().toLowerCase();
  if (!from) throw new Error('the mail names nobody it is from');
  const messageId = bare(headers.get('message-id') ?? '');
  if (!messageId) throw new Error('the mail has no Message-ID');
  const references = (headers.get('references') ?? '').slice(0, 20_000).split(/\s+/).reverse();
  const answers = [headers.get('in-reply-to') ?? '', ...references].map(bare).filter(Boolean);
  return {
    messageId,
    from,
    name: sender?.name?.trim().slice(0, 100) || undefined,
    subject: subjectIn(mail.subject?.slice(0, 2000)),
    text: wordsOf(mail),
    answers: [...new Set(answers)].slice(0, 50),
    automatic: machineMade(headers),
    files: filesOf(mail),
    report: reportIn(mail, headers),
  };
}

/** Refuses what would take far longer to read than its size lets expect. */
function refuseCostly(source: Buffer): void {
  let parts = 0;
  for (let at = source.indexOf('\n--'); at !== -1 && parts <= MOST_PARTS; at = source.indexOf('\n--', at + 3))
    parts += 1;
  if (parts > MOST_PARTS && /^content-type:\s*multipart\//im.test(source.subarray(0, 100_000).toString('latin1')))
    throw new Error(`the mail has over ${MOST_PARTS} parts`);
}

/** A header line without its name, unfolded (RFC 5322 §2.2.3). */
const fieldOf = (line: string): string =>
  line
    .slice(line.indexOf(':') + 1)
    .replace(/\r?\n[ \t]+/g, ' ')
    .trim();

/** `<msg_1@mossgate.example>` without its brackets. */
const bare = (id: string): string => id.trim().replace(/^<|>$/g, '').slice(0, 300);

/** The plain words; of a mail that is HTML alone, what a reader would see of it, without any of its markup. */
function wordsOf({ text, html }: ParsedMail): string {
  const words = text?.trim() ? text : html ? wordsOfHtml(html) : '';
  return withoutQuote(words.slice(0, LONGEST_READ)).slice(0, LONGEST_WORDS);
}

function wordsOfHtml(html: string): string {
  return convert(html.slice(0, LONGEST_READ), {
    wordwrap: false,
    selectors: [
      { selector: 'img', format: 'skip' },
      { selector: 'a', options: { hideLinkHrefIfSameAsText: true } },
    ],
    limits: { maxDepth: 50, maxChildNodes: 5000, maxInputLength: LONGEST_READ },
  });
}

const REPORT_PARTS = new Set(['message/delivery-status', 'message/rfc822', 'text/rfc822-headers']);

function filesOf({ attachments }: ParsedMail): ReadMail['files'] {
  return attachments
    .filter(({ contentType, related }) => !related && !REPORT_PARTS.has(contentType))
    .slice(0, MOST_FILES)
    .map(({ filename, contentType, content }, index) => ({
      name: filename?.replace(/[/\\\p{C}]/gu, '_').slice(0, 120) || `file-${index + 1}`,
      type: contentType,
      content,
    }));
}

function reportIn({ attachments }: ParsedMail, headers: MailHeaders): ReadMail['report'] {
  const type = headers.get('content-type') ?? '';
  if (!/multipart\/report/i.test(type) || !/report-type="?delivery-status/i.test(type)) return undefined;
  const part = (types: readonly string[]) =>
    attachments
      .find(({ contentType }) => types.includes(contentType))
      ?.content.subarray(0, LONGEST_READ)
      .toString('utf8') ?? '';
  const id = /^message-id:\s*(<[^>\r\n]+>)/im.exec(part(['message/rfc822', 'text/rfc822-headers']))?.[1];
  const recipients = readDeliveryReport(part(['message/delivery-status'])).slice(0, MOST_REPORTED);
  return id && recipients.length > 0 ? { messageId: bare(id), recipients } : undefined;
}
