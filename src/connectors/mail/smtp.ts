/** One conversation with an SMTP server (RFC 5321): whatever goes wrong becomes a cause. */

import { createTransport } from 'nodemailer';
import type { Logger } from 'nodemailer/lib/shared';
import { outsideUnit } from '../../core/unitOfWork';
import type { Exchange, Failure, MailSigning, Outcome } from '../connector';
import { tlsOptions, tlsTrouble } from '../outside/encryption';
import type { Outside } from '../outside/outside';
import type { SmtpAccount } from './security';

const TIMEOUT = 10_000;

export type Transporter = ReturnType<typeof transport>;

/** Calls `handed` once a whole mail has been written to the server: from then on it may have it, whatever it answers. */
function listenerFor(handed: () => void): Logger {
  const ignored = () => undefined;
  return {
    trace: ignored,
    debug: ignored,
    info: (entry: unknown) => {
      if ((entry as { tnx?: string } | undefined)?.tnx === 'message') handed();
    },
    warn: ignored,
    error: ignored,
    fatal: ignored,
  };
}

function transport({ host, port, user, pass, believed, ...account }: SmtpAccount, address: string, handed: () => void) {
  const security = account.security ?? (port === 465 ? 'tls' : 'offered');
  return createTransport({
    // The address the name led to when it was judged, and no other.
    host: address,
    port,
    secure: security === 'tls',
    requireTLS: security === 'starttls',
    ignoreTLS: security === 'none',
    tls: tlsOptions(host, believed),
    auth: { user, pass },
    connectionTimeout: TIMEOUT,
    greetingTimeout: TIMEOUT,
    socketTimeout: TIMEOUT,
    logger: listenerFor(handed),
  });
}

export async function talkSmtp<T>(
  account: SmtpAccount,
  request: { headers: Record<string, string>; body: string | null },
  work: (transporter: Transporter) => Promise<{ value: T; answer: string }>,
  { network, clock }: Pick<Outside, 'network' | 'clock'>,
): Promise<Outcome<T>> {
  outsideUnit('a mail');
  const at = clock.now();
  const began = clock.elapsed();
  const exchange: Exchange = {
    at,
    elapsedMs: 0,
    request: { method: 'SMTP', url: `smtp://${account.host}:${account.port}`, ...request },
    response: null,
  };
  let transporter: Transporter | undefined;
  let handed = false;
  try {
    transporter = transport(account, await network.addressOf(account.host), () => {
      handed = true;
    });
    const { value, answer } = await work(transporter);
    exchange.response = { status: 250, headers: {}, body: answer };
    return { ok: true, value, exchange };
  } catch (error) {
    const code = (error as SmtpError).responseCode;
    const told = explain(error as SmtpError);
    // A server that had all of it and gave no answer may have taken it.
    const failure = handed && !code ? { ...told, outcomeUnknown: true } : told;
    if (code) exchange.response = { status: code, headers: {}, body: failure.said ?? '' };
    return { ok: false, failure, exchange };
  } finally {
    exchange.elapsedMs = Math.round(clock.elapsed() - began);
    transporter?.close();
  }
}

/** What a signature covers, where it is there (RFC 6376 §5.4.1), and what RFC 8058 §4 demands beside. */
const SIGNED_HEADERS = [
  ...['From', 'Reply-To', 'Subject', 'Date', 'Message-ID', 'To', 'Cc', 'In-Reply-To', 'References'],
  ...['MIME-Version', 'Content-Type', 'Content-Transfer-Encoding', 'Auto-Submitted'],
  ...['List-Unsubscribe', 'List-Unsubscribe-Post'],
].join(':');

/** How a mail is signed, as the sending package wants to be told. */
export function dkimOf({ domain, selector, key }: MailSigning) {
  return {
    dkim: { domainName: domain, keySelector: selector, privateKey: key, headerFieldNames: SIGNED_HEADERS },
  };
}

export interface Notice {
  to: readonly string[];
  subject: string;
  text: string;
  /** The same for the same notice, so that a mail that came twice can be told. */
  reference: string;
  signing?: MailSigning;
}

/** Sends an e-mail to people. */
export function sendNotice(
  account: SmtpAccount,
  { to, subject, text, reference, signing }: Notice,
  outside: Pick<Outside, 'network' | 'clock'>,
): Promise<Outcome<null>> {
  const { from } = account;
  const messageId = `<${reference}@${from.split('@')[1] ?? 'windgap.invalid'}>`;
  return talkSmtp(
    account,
    { headers: { from, to: to.join(', '), subject }, body: text },
    async (transporter) => {
      const headers = { 'Auto-Submitted': 'auto-generated' };
      const mail = { from, to: [...to], subject, text, messageId, headers, ...(signing ? dkimOf(signing) : {}) };
      const sent = await transporter.sendMail(mail);
      return { value: null, answer: sent.response };
    },
    outside,
  );
}

interface SmtpError extends Error {
  code?: string;
  originalCode?: string;
  responseCode?: number;
  /** What was answered: `CONN` for the greeting. */
  command?: string;
  response?: string;
}

/** RFC 5321 §4.2.1: 4yz may pass, 5yz does not; §4.2.3 and RFC 4954 §6 for the codes told apart. */
function explain(error: SmtpError): Failure {
  const said = error.response ?? error.message;
  if (error.code === 'EPRIVATE') return { cause: 'address-not-allowed', said };
  // The package puts codes of its own over those of TLS and the system.
  const trouble =
    tlsTrouble({ ...error, message: error.message, code: error.originalCode ?? error.code }) ??
    (error.code === 'ETLS' ? 'it offers no encryption (STARTTLS)' : undefined);
  if (trouble) return { cause: 'encryption-refused', said: trouble };
  // RFC 5321 §4.3.2: 421 and 554 in the place of a greeting mean that there is no service now.
  if (error.command === 'CONN' && error.responseCode) return { cause: 'provider-unreachable', said };
  if (error.code === 'EAUTH' || error.responseCode === 535) return { cause: 'credential-refused', said };
  if (error.responseCode === 550 || error.responseCode === 553) return { cause: 'address-malformed', said };
  if (error.responseCode === 552 || error.responseCode === 554) return { cause: 'content-refused', said };
  if (error.responseCode === 450 || error.responseCode === 451) return { cause: 'throttled', said };
  if (error.responseCode && error.responseCode >= 500) return { cause: 'request-refused', said };
  if (error.code === 'ECONNECTION' || error.code === 'ESOCKET' || error.code === 'EDNS')
    return { cause: 'provider-unreachable', said };
  if (error.code === 'ETIMEDOUT') return { cause: 'provider-timeout', said, outcomeUnknown: true };
  return { cause: 'provider-error', said };
}
