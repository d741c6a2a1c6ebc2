/**
 * Fennick, the simulated mail service: an SMTP server that carriers' mail gateways hang on,
 * a carrier look-up over HTTP, and a post for mail that comes in or bounces.
 */
import { randomBytes } from 'node:crypto';
import { simpleParser } from 'mailparser';
import { SMTPServer } from 'smtp-server';
import { stamp } from '../clock';
import type { HandsetFile, MobileNetwork, NumberOwner } from '../network';
import { during } from '../underWay';
import { compose, deliveryReport, type Fate, type Letter } from './mailbox';
import { createZone } from './zone';

const LARGEST_MAIL = 10 * 1024 * 1024;

export interface FennickAccount {
  user: string;
  password: string;
  address: string;
  lookupKey: string;
  /** Where mail to the address and bounces are posted, and the word that goes with them. */
  hook: { url: string; word: string };
  /** Whether mail is posted whole, as it came over the wire, or read and in JSON. */
  posts?: 'whole' | 'read';
}

export interface FennickCarrier {
  name: string;
  domain: string;
  country: string;
  /** Local part as the gateway wants it. */
  form: 'national' | 'international';
  phones: string[];
}

export interface FennickFaults {
  down: boolean;
  bouncesEverything: boolean;
  lookupDown: boolean;
  /** Delivers without a word: no notification is ever sent, whoever asked for one. */
  reportsNothing: boolean;
}

export const FENNICK_WELL: FennickFaults = {
  down: false,
  bouncesEverything: false,
  lookupDown: false,
  reportsNothing: false,
};

export interface Mail {
  at: string;
  from: string;
  to: string;
  subject?: string;
  text: string;
  state: string;
}

export class Fennick implements NumberOwner {
  readonly way = 'mail' as const;
  faults: FennickFaults = { ...FENNICK_WELL };
  readonly mails: Mail[] = [];
  /** What stands at the names of the domains it keeps. */
  readonly zone = createZone();
  /** The last mail of each account that a mailbox got. */
  private readonly heard = new Map<string, { id: string; subject: string; references: string[] }>();

  constructor(
    readonly accounts: FennickAccount[],
    readonly carriers: FennickCarrier[],
    private readonly network: MobileNetwork,
  ) {
    network.owners.push(this);
  }

  listen(port: number): Promise<void> {
    const server = new SMTPServer({
      authOptional: false,
      allowInsecureAuth: true,
      disabledCommands: ['STARTTLS'],
      hideDSN: false,
      size: LARGEST_MAIL,
      logger: false,
      onConnect: (_session, callback) => callback(this.faults.down ? new Error('421 not now') : null),
      onAuth: (auth, _session, callback) => {
        const account = this.accounts.find((entry) => entry.user === auth.username);
        if (account && account.password === auth.password) return callback(null, { user: account.user });
        return callback(new Error('Authentication failed'));
      },
      onMailFrom: (address, session, callback) => {
        const account = this.accounts.find((entry) => entry.user === session.user);
        if (account?.address === address.address) return callback();
        return callback(refusal(553, `${address.address} is not an address of yours`));
      },
      onRcptTo: (address, _session, callback) => {
        const domain = address.address.split('@')[1] ?? '';
        const known = [
          ...this.carriers.map((carrier) => carrier.domain),
          ...this.accounts.map(({ address }) => domainOf(address)),
          ...[...this.network.handsets.values()].flatMap(({ number, mailbox }) => (mailbox ? [domainOf(number)] : [])),
        ];
        if (known.includes(domain)) return callback();
        return callback(refusal(550, `nobody takes mail for ${domain}`));
      },
      onData: (stream, session, callback) => {
        const chunks: Buffer[] = [];
        stream.on('data', (chunk: Buffer) => chunks.push(chunk));
        stream.on('end', () => {
          const account = this.accounts.find((entry) => entry.user === session.user);
          const { envelope } = session;
          const source = Buffer.concat(chunks).toString('utf8');
          if (account)
            for (const { address, dsn } of envelope.rcptTo)
              void this.pass(account, address.toLowerCase(), source, dsn?.notify?.includes('SUCCESS') ?? false);
          callback(null, 'kept for delivery');
        });
      },
    });
    return new Promise((resolve) => server.listen(port, '127.0.0.1', () => resolve()));
  }

  private async pass(account: FennickAccount, to: string, source: string, reports: boolean) {
    const [head = '', ...rest] = source.split(/\r?\n\r?\n/);
    const id = /^message-id:\s*<?([^>\r\n]+)>?/im.exec(head)?.[1] ?? '';
    const text = decodeBody(head, rest.join('\n\n')).trim();
    const subject = decodeWord(/^subject:\s*((?:.|\r?\n[ \t])*)$/im.exec(head)?.[1] ?? '');
    const mail: Mail = { at: stamp(), from: account.address, to, subject, text, state: 'taken' };
    this.mails.push(mail);
    // People of the house have their mailboxes here.
    if (this.accounts.some(({ address }) => domainOf(address) === domainOf(to))) {
      mail.state = 'in the mailbox';
      return;
    }
    if (account.posts === 'whole') return this.passToMailbox(account, mail, { id: `<${id}>`, head, source, reports });
    const carrier = this.carriers.find((entry) => entry.domain === to.split('@')[1]);
    const phone = carrier?.phones.find((entry) => localPart(carrier, entry) === to.split('@')[0]);
    const fate =
      phone && !this.faults.bouncesEverything
        ? await this.network.carry(account.address, phone, text, 'mail')
        : ({ state: 'lost', code: 'no-such-number' } as const);
    mail.state = fate.state === 'arrived' ? 'shown on the phone' : 'returned';
    if (fate.state === 'arrived') return;
    const words = phone ? 'the phone cannot be reached' : `no such subscriber at ${carrier?.name ?? 'the gateway'}`;
    await this.post(account, { returned: [{ message: id, words }] });
  }

  /** Puts a mail into somebody's mailbox, and reports what became of it to whoever asked. */
  private async passToMailbox(
    account: FennickAccount,
    mail: Mail,
    { id, head, source, reports }: { id: string; head: string; source: string; reports: boolean },
  ) {
    const person = this.network.handsets.get(mail.to);
    const about = { recipient: mail.to, id, subject: mail.subject ?? '' };
    const fate: Fate =
      !person?.mailbox || this.faults.bouncesEverything
        ? { action: 'failed', status: '5.1.1', words: 'there is no such mailbox' }
        : person.power === 'off'
          ? { action: 'failed', status: '5.2.2', words: 'the mailbox is full' }
          : { action: 'delivered', status: '2.0.0', words: 'put into the mailbox' };
    mail.state = fate.action === 'failed' ? `returned: ${fate.words}` : 'in the mailbox';
    if (fate.action === 'delivered') {
      const references = /^references:\s*((?:.|\r?\n[ \t])*)$/im.exec(head)?.[1]?.split(/\s+/).filter(Boolean) ?? [];
      this.heard.set(`${mail.to} ${account.address}`, { id, subject: mail.subject ?? '', references });
      await this.network.carry(account.address, mail.to, await readable(source), 'mail');
      if (person?.away && !/^auto-submitted:\s*(?!no)/im.test(head)) {
        const away = { from: mail.to, name: person.owner, to: account.address, text: person.away, automatic: true };
        await this.deliver(account, { ...away, subject: `Away: ${about.subject}`, answers: { id, references } });
      }
    }
    if (this.faults.reportsNothing || (fate.action === 'delivered' && !reports)) return;
    await this.post(account, deliveryReport(account.address, about, fate));
  }

  /** Somebody writes from their mailbox: posted to whoever has the address. */
  async deliver(account: FennickAccount, letter: Letter): Promise<void> {
    const { source } = await compose(letter);
    this.mails.push({
      at: stamp(),
      from: letter.from,
      to: letter.to,
      subject: letter.subject,
      text: letter.text,
      state: 'posted',
    });
    await this.post(account, source);
  }

  owns(address: string): boolean {
    return this.accounts.some((account) => account.address === address);
  }

  /** A phone answers a text that was a mail: it becomes a mail from the carrier's gateway. */
  textIn(from: string, to: string, text: string, file?: HandsetFile) {
    const account = this.accounts.find((entry) => entry.address === to);
    const person = this.network.handsets.get(from);
    if (account && person?.mailbox) {
      const last = this.heard.get(`${from} ${to}`);
      const subject = last ? `Re: ${last.subject.replace(/^Re: /, '')}` : 'A question';
      void attachment(file).then((files) =>
        this.deliver(account, { from, name: person.owner, to, subject, text, answers: last, files }),
      );
      return;
    }
    const carrier = this.carriers.find((entry) => entry.phones.includes(from));
    if (!account || !carrier) return;
    const sender = `${localPart(carrier, from)}@${carrier.domain}`;
    this.mails.push({ at: stamp(), from: sender, to, text, state: 'posted' });
    const mail = { id: `fm-${randomBytes(8).toString('hex')}`, from: sender, to, text };
    void this.post(account, { mail: [mail] });
  }

  private async post(account: FennickAccount, content: object | Buffer) {
    if (!account.hook.url) return;
    const whole = Buffer.isBuffer(content);
    await during(() =>
      fetch(account.hook.url, {
        method: 'POST',
        headers: {
          'content-type': whole ? 'message/rfc822' : 'application/json',
          'fennick-word': account.hook.word,
          'fennick-to': account.address,
        },
        body: whole ? new Uint8Array(content) : JSON.stringify(content),
        signal: AbortSignal.timeout(8000),
      }),
    ).catch(() => undefined);
  }
}

function domainOf(address: string): string {
  return address.split('@')[1] ?? '';
}

async function attachment(file: HandsetFile | undefined): Promise<Letter['files']> {
  if (!file) return [];
  const content = Buffer.from(await (await fetch(file.address)).arrayBuffer());
  return [{ name: file.address.split('/').at(-1) ?? 'file', type: file.type, content }];
}

/** What a mail program shows of a mail: its words, and the names of its files. */
async function readable(source: string): Promise<string> {
  const { subject, text, html, attachments } = await simpleParser(source, { skipTextToHtml: true });
  const files = attachments.map(({ filename }) => `[${filename ?? 'a file'}]`);
  return [subject ?? '', text?.trim() || html || '', ...files].filter(Boolean).join('\n');
}

/** Encoded words of a header (RFC 2047), as far as mailers write them in UTF-8. */
function decodeWord(text: string): string {
  return text
    .replace(/\r?\n[ \t]+/g, ' ')
    .replace(/\?=\s+=\?/g, '?==?')
    .replace(/=\?utf-8\?([bq])\?([^?]*)\?=/gi, (_, kind: string, inside: string) =>
      kind.toLowerCase() === 'b'
        ? Buffer.from(inside, 'base64').toString('utf8')
        : decodeBody('content-transfer-encoding: quoted-printable', inside.replaceAll('_', ' ')),
    )
    .trim();
}

function refusal(code: number, words: string): Error {
  return Object.assign(new Error(words), { responseCode: code });
}

function localPart(carrier: FennickCarrier, phone: string): string {
  const digits = phone.replace(/\D/g, '');
  return carrier.form === 'international' ? digits : `0${digits.slice(2)}`;
}

/** Mails here are plain text, in one of the usual transfer encodings (RFC 2045 §6). */
function decodeBody(head: string, body: string): string {
  const encoding = /^content-transfer-encoding:\s*(\S+)/im.exec(head)?.[1]?.toLowerCase();
  if (encoding === 'base64') return Buffer.from(body, 'base64').toString('utf8');
  if (encoding !== 'quoted-printable') return body;
  const bytes = body
    .replace(/=\r?\n/g, '')
    .replace(/=([0-9A-F]{2})/gi, (_, hex: string) => String.fromCharCode(Number.parseInt(hex, 16)));
  return Buffer.from(bytes, 'latin1').toString('utf8');
}
