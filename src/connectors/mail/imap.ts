/**
 * A mailbox read over IMAP (RFC 9051): held open, looked into as soon as the server says that something came (IDLE), and
 * never changed. What is taken is what came after a place that is kept: UIDs within a UIDVALIDITY (§2.3.1.1).
 */
import { AuthenticationFailure, ImapFlow } from 'imapflow';
import { NamedError } from '../../core/namedError';
import { outsideUnit } from '../../core/unitOfWork';
import type {
  AccountFacts,
  Exchange,
  Failure,
  MailboxEvents,
  MailboxLink,
  MailboxPosition,
  Outcome,
} from '../connector';
import { tlsOptions, tlsTrouble } from '../outside/encryption';
import type { Outside } from '../outside/outside';
import type { MailSecurity } from './security';

/** What a mail is long at most, files included: a usual bound of mail servers. */
export const LARGEST_MAIL = 10 * 1024 * 1024;

const TIMEOUT = 15_000;
/** A server that says nothing of what came is asked so often, milliseconds; one that hangs is noticed by that, too. */
const LOOK_EVERY = 60_000;
const FIRST_PAUSE = 5000;
const LONGEST_PAUSE = 300_000;
/** Tried too often with a wrong password, many servers lock the account. */
const PAUSE_AFTER_REFUSAL = 300_000;
/** Of one that is left where it is for its length. */
const HEAD_OF_LONG = 64 * 1024;

export interface ImapAccount {
  host: string;
  port: number;
  user: string;
  pass: string;
  /** Which of the mailboxes of the account, `INBOX` as a rule. */
  folder: string;
  security?: MailSecurity;
  /** Certificates believed in place of the public authorities, PEM. */
  believed?: string;
}

type Doors = Pick<Outside, 'network' | 'clock'>;

const urlOf = ({ host, port }: ImapAccount) => `imap://${host}:${port}`;

/** Signs in and opens the mailbox, once: the only thing that shows whether it can be read. */
export async function tryMailbox(account: ImapAccount, { network, clock }: Doors): Promise<Outcome<AccountFacts>> {
  outsideUnit('a look into a mailbox');
  const began = clock.elapsed();
  const exchange: Exchange = {
    at: clock.now(),
    elapsedMs: 0,
    request: { method: 'IMAP', url: urlOf(account), headers: { mailbox: account.folder }, body: null },
    response: null,
  };
  let client: ImapFlow | undefined;
  try {
    client = clientOf(account, await network.addressOf(account.host));
    await signIn(client);
    const { exists } = await client.mailboxOpen(account.folder, { readOnly: true });
    exchange.response = { status: 200, headers: {}, body: `${account.folder} opened; ${exists} in it` };
    return { ok: true, value: {}, exchange };
  } catch (error) {
    return { ok: false, failure: explain(error as ImapError, account), exchange };
  } finally {
    exchange.elapsedMs = Math.round(clock.elapsed() - began);
    client?.close();
  }
}

/** Holds a mailbox open and hands over what comes, one after another, each only once the one before is stored. */
export function openMailbox(
  account: ImapAccount,
  from: MailboxPosition | undefined,
  events: MailboxEvents,
  { network, clock }: Doors,
): MailboxLink {
  let position = from;
  let closing = false;
  let wake: () => void = () => undefined;
  let client: ImapFlow | undefined;

  const sleep = (ms: number) =>
    new Promise<void>((resolve) => {
      const timer = clock.after(ms, resolve);
      wake = () => {
        timer.cancel();
        resolve();
      };
      if (closing) wake();
    });

  async function hold(): Promise<void> {
    let failures = 0;
    while (!closing) {
      events.changed({ state: 'opening' });
      try {
        client = clientOf(account, await network.addressOf(account.host));
        await signIn(client);
        await read(client, () => {
          failures = 0;
        });
      } catch (error) {
        if (closing) break;
        const failure = error instanceof NotTaken ? { said: error.message } : explain(error as ImapError, account);
        const refused = 'cause' in failure && ['credential-refused', 'request-refused'].includes(failure.cause);
        const pause = refused ? PAUSE_AFTER_REFUSAL : Math.min(LONGEST_PAUSE, FIRST_PAUSE * 2 ** failures);
        failures += 1;
        events.changed({ state: refused ? 'refused' : 'waiting', ...failure, nextTryAt: clock.now() + pause });
        const given = client;
        client = undefined;
        given?.close();
        await sleep(pause);
      }
    }
  }

  /** Reads what has come, and waits for more, until it is closed or the connection breaks. */
  async function read(open: ImapFlow, opened: () => void): Promise<void> {
    let came = false;
    let broken: Error | undefined;
    // What is heard of a connection that was given up must not cut the pause short that comes after it.
    const heard = (note: () => void) => () => {
      if (client !== open) return;
      note();
      wake();
    };
    open.on(
      'exists',
      heard(() => (came = true)),
    );
    open.on(
      'close',
      heard(() => (broken ??= new Error('the server closed the connection'))),
    );
    open.on('error', (error: Error) => heard(() => (broken = error))());
    const { uidValidity, uidNext } = await open.mailboxOpen(account.folder, { readOnly: true });
    const validity = String(uidValidity);
    if (position?.validity !== validity) {
      // The server counts anew: what came since the last one taken is taken, and what was taken is known by its Message-ID.
      const since = position && (await uidsSince(open, position.at));
      position = { validity, uid: since ? (since[0] ?? uidNext) - 1 : uidNext - 1, at: clock.now() };
      await ours(events.began(position));
    }
    opened();
    events.changed({ state: 'open' });
    while (!closing) {
      came = false;
      await take(open, position);
      if (broken) throw broken;
      if (came || closing) continue;
      // Left again by whatever is asked next.
      void open.idle().catch(() => undefined);
      await sleep(LOOK_EVERY);
      if (broken) throw broken;
    }
  }

  async function take(open: ImapFlow, place: MailboxPosition): Promise<void> {
    const found = (await open.search({ uid: `${place.uid + 1}:*` }, { uid: true })) || [];
    // `n:*` is the last one at least, however long ago that came (RFC 9051 §9).
    const fresh = found.filter((uid) => uid > place.uid).sort((a, b) => a - b);
    for (const uid of fresh) {
      if (closing) return;
      const { size = 0 } = (await open.fetchOne(String(uid), { size: true }, { uid: true })) || {};
      const tooLong = size > LARGEST_MAIL;
      const fetched = await open.fetchOne(
        String(uid),
        { source: { maxLength: tooLong ? HEAD_OF_LONG : LARGEST_MAIL }, internalDate: true },
        { uid: true },
      );
      const mail = fetched || undefined;
      const at = Number(new Date(mail?.internalDate ?? clock.now()));
      const next = { validity: place.validity, uid, at: Math.max(at, place.at) };
      // Somebody may have removed it in between; it is passed over then.
      if (mail?.source) await ours(events.arrived({ source: mail.source, tooLong: tooLong ? size : undefined }, next));
      Object.assign(place, next);
    }
  }

  const ended = hold();
  return {
    async close() {
      closing = true;
      wake();
      client?.close();
      await ended;
    },
  };
}

/** It is not the server that is at fault. */
class NotTaken extends NamedError {
  static override readonly called = 'NotTaken';
}

async function ours(work: Promise<void>): Promise<void> {
  try {
    await work;
  } catch (error) {
    throw new NotTaken(`What came could not be stored here: ${(error as Error).message}`);
  }
}

/** UIDs of what came on that day or later, the lowest first. */
async function uidsSince(open: ImapFlow, at: number): Promise<number[]> {
  const found = (await open.search({ since: new Date(at - 86_400_000) }, { uid: true })) || [];
  return found.sort((a, b) => a - b);
}

function clientOf({ host, port, user, pass, believed, ...account }: ImapAccount, address: string): ImapFlow {
  const security = account.security ?? (port === 993 ? 'tls' : 'offered');
  return new ImapFlow({
    // The address the name led to when it was judged, and no other.
    host: address,
    port,
    secure: security === 'tls',
    ...(security === 'starttls' ? { doSTARTTLS: true } : security === 'none' ? { doSTARTTLS: false } : {}),
    tls: tlsOptions(host, believed),
    auth: { user, pass },
    logger: false,
    connectionTimeout: TIMEOUT,
    greetingTimeout: TIMEOUT,
    socketTimeout: LOOK_EVERY + TIMEOUT,
    maxIdleTime: LOOK_EVERY,
    disableAutoIdle: true,
    maxLiteralSize: LARGEST_MAIL + 1024,
    maxResponseSize: LARGEST_MAIL * 2,
  });
}

async function signIn(client: ImapFlow): Promise<void> {
  // Told again by what waits for it; without a listener it would end the process.
  client.on('error', () => undefined);
  await client.connect();
}

interface ImapError extends Error {
  code?: string;
  responseText?: string;
  responseStatus?: string;
  serverResponseCode?: string;
  authenticationFailed?: boolean;
}

function explain(error: ImapError, { folder }: ImapAccount): Failure {
  const said = error.responseText ?? error.message;
  if (error.code === 'EPRIVATE') return { cause: 'address-not-allowed', said };
  // RFC 5530 §3: it cannot say now whether the password is right, or opens nothing now.
  if (['UNAVAILABLE', 'INUSE', 'LIMIT', 'SERVERBUG'].includes(error.serverResponseCode ?? ''))
    return { cause: 'provider-unreachable', said };
  if (error instanceof AuthenticationFailure || error.authenticationFailed)
    return { cause: 'credential-refused', said };
  const trouble = tlsTrouble(error) ?? (/STARTTLS/i.test(error.message) ? 'it offers no encryption' : undefined);
  if (trouble) return { cause: 'encryption-refused', said: trouble };
  if (error.responseStatus === 'NO' || error.responseStatus === 'BAD')
    return { cause: 'request-refused', said: `${folder}: ${said}` };
  return { cause: 'provider-unreachable', said };
}
