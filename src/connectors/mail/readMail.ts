/** Reads a mail as it came over the wire (RFC 5322, MIME): its words, its files, what it answers, or what it reports. */
import { convert } from 'html-to-text';
import PostalMime, { type Email } from 'postal-mime';
import { type RecipientReport, readDeliveryReport } from '../../core/mail/deliveryReport';
import { type MailHeaders, machineMade } from '../../core/mail/machineMade';
import { subjectIn } from '../../core/mail/subject';
import { withoutQuote } from '../../core/mail/withoutQuote';
import type { TextItem } from '../connector';

/** Depth of parts within parts, and the length of the header, after which a mail is no longer read. */
const BOUNDS = { maxNestingDepth: 20, maxHeadersSize: 256 * 1024 };
const LONGEST_WORDS = 20_000;
/** HTML that is longer is cut before it is made words: converting costs with its length. */
const LONGEST_HTML = 500_000;
const MOST_FILES = 20;

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
  const mail = await PostalMime.parse(source, { ...BOUNDS, forceRfc822Attachments: true });
  const headers: MailHeaders = new Map(mail.headers.map(({ key, value }) => [key.toLowerCase(), value]));
  const from = mail.from?.address?.trim().toLowerCase();
  if (!from) throw new Error('the mail names nobody it is from');
  const messageId = bare(mail.messageId ?? '');
  if (!messageId) throw new Error('the mail has no Message-ID');
  const answers = [mail.inReplyTo ?? '', ...(mail.references ?? '').split(/\s+/).reverse()].map(bare).filter(Boolean);
  return {
    messageId,
    from,
    name: mail.from?.name?.trim().slice(0, 100) || undefined,
    subject: subjectIn(mail.subject),
    text: wordsOf(mail),
    answers: [...new Set(answers)].slice(0, 50),
    automatic: machineMade(headers),
    files: filesOf(mail),
    report: reportIn(mail, headers),
  };
}

/** `<msg_1@mossgate.example>` without its brackets. */
const bare = (id: string): string => id.trim().replace(/^<|>$/g, '').slice(0, 300);

/** The plain words; of a mail that is HTML alone, what a reader would see of it, without any of its markup. */
function wordsOf({ text, html }: Email): string {
  const words = text?.trim() ? text : html ? wordsOfHtml(html) : '';
  return withoutQuote(words).slice(0, LONGEST_WORDS);
}

function wordsOfHtml(html: string): string {
  return convert(html.slice(0, LONGEST_HTML), {
    wordwrap: false,
    selectors: [
      { selector: 'img', format: 'skip' },
      { selector: 'a', options: { hideLinkHrefIfSameAsText: true } },
    ],
    limits: { maxDepth: 50, maxChildNodes: 5000, maxInputLength: LONGEST_HTML },
  });
}

function filesOf({ attachments }: Email): ReadMail['files'] {
  return attachments
    .filter(({ mimeType, related }) => !related && !REPORT_PARTS.has(mimeType))
    .slice(0, MOST_FILES)
    .map(({ filename, mimeType, content }, index) => ({
      name: filename?.replace(/[/\\\p{C}]/gu, '_').slice(0, 120) || `file-${index + 1}`,
      type: mimeType,
      content: typeof content === 'string' ? Buffer.from(content) : Buffer.from(content as ArrayBuffer),
    }));
}

const REPORT_PARTS = new Set(['message/delivery-status', 'message/rfc822', 'text/rfc822-headers']);

function reportIn({ attachments }: Email, headers: MailHeaders): ReadMail['report'] {
  const type = headers.get('content-type') ?? '';
  if (!/multipart\/report/i.test(type) || !/report-type="?delivery-status/i.test(type)) return undefined;
  const part = (types: readonly string[]) => {
    const found = attachments.find(({ mimeType }) => types.includes(mimeType));
    return found === undefined ? '' : Buffer.from(found.content as ArrayBuffer).toString('utf8');
  };
  const returned = part(['message/rfc822', 'text/rfc822-headers']).slice(0, BOUNDS.maxHeadersSize);
  const id = /^message-id:\s*(<[^>\r\n]+>)/im.exec(returned)?.[1];
  const recipients = readDeliveryReport(part(['message/delivery-status']));
  return id && recipients.length > 0 ? { messageId: bare(id), recipients } : undefined;
}
