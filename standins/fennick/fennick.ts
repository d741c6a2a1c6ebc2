/**
 * Fennick, the simulated mail service: an SMTP server that carriers' mail gateways hang on,
 * a carrier look-up over HTTP, and a post for mail that comes in or bounces.
 */
import { randomBytes } from 'node:crypto';
import { SMTPServer } from 'smtp-server';
import { stamp } from '../clock';
import type { MobileNetwork, NumberOwner } from '../network';
import { during } from '../underWay';

export interface FennickAccount {
  user: string;
  password: string;
  address: string;
  lookupKey: string;
  /** Where mail to the address and bounces are posted, and the word that goes with them. */
  hook: { url: string; word: string };
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
}

export const FENNICK_WELL: FennickFaults = { down: false, bouncesEverything: false, lookupDown: false };

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
          if (account) for (const { address } of envelope.rcptTo) void this.pass(account, address, source);
          callback(null, 'kept for delivery');
        });
      },
    });
    return new Promise((resolve) => server.listen(port, '127.0.0.1', () => resolve()));
  }

  private async pass(account: FennickAccount, to: string, source: string) {
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

  owns(address: string): boolean {
    return this.accounts.some((account) => account.address === address);
  }

  /** A phone answers a text that was a mail: it becomes a mail from the carrier's gateway. */
  textIn(from: string, to: string, text: string) {
    const account = this.accounts.find((entry) => entry.address === to);
    const carrier = this.carriers.find((entry) => entry.phones.includes(from));
    if (!account || !carrier) return;
    const sender = `${localPart(carrier, from)}@${carrier.domain}`;
    this.mails.push({ at: stamp(), from: sender, to, text, state: 'posted' });
    const mail = { id: `fm-${randomBytes(8).toString('hex')}`, from: sender, to, text };
    void this.post(account, { mail: [mail] });
  }

  private async post(account: FennickAccount, content: object) {
    if (!account.hook.url) return;
    await during(() =>
      fetch(account.hook.url, {
        method: 'POST',
        headers: { 'content-type': 'application/json', 'fennick-word': account.hook.word },
        body: JSON.stringify(content),
        signal: AbortSignal.timeout(8000),
      }),
    ).catch(() => undefined);
  }
}

function domainOf(address: string): string {
  return address.split('@')[1] ?? '';
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
