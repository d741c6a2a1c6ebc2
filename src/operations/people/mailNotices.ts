/** E-mail notices to people: the mail account of this installation, and sending through it. */

import type { MailSigning } from '../../connectors/connector';
import { MAIL_SECURITY, type MailSecurity, type SmtpAccount } from '../../connectors/mail/security';
import { sendNotice } from '../../connectors/mail/smtp';
import { certificatesIn } from '../../connectors/outside/encryption';
import { appCause } from '../../core/delivery/appCauses';
import { cause } from '../../core/delivery/causes';
import type { Outcome } from '../../core/steps/run';
import type { NotifyStep } from '../../core/steps/steps';
import { newId } from '../../store/ids';
import {
  type Actor,
  type AppContext,
  invalid,
  invalidText,
  recordAudit,
  requireConfirmed,
  requireRole,
} from '../context';
import { signingFor } from '../mailSigning';
import { openCredentials, syncProfiles } from '../profiles';
import { MAIL_SETTING } from './mailSetting';

/** A mail account of its own, or the one a mailbox sends through. */
type Stored = ({ sealed: string } | { account: string }) & { changedAt: number };

interface Sending {
  account: SmtpAccount;
  signing?: MailSigning;
}

/** What notices leave through; undefined while nothing is chosen, or the mailbox is gone. */
async function sendingBy(ctx: AppContext, stored: Stored | undefined): Promise<Sending | undefined> {
  if (!stored) return undefined;
  if ('sealed' in stored) return { account: ctx.sealer.open<SmtpAccount>(stored.sealed) };
  await syncProfiles(ctx);
  const row = await ctx.store.accounts.one({ id: stored.account, disabled_at: null });
  const connector = row && ctx.connectors.has(row.connector) ? ctx.connectors.get(row.connector) : undefined;
  if (!row || !connector?.smtpAccount) return undefined;
  return {
    account: connector.smtpAccount(openCredentials(ctx, row)),
    signing: await signingFor(ctx, row.id),
  };
}

async function storedSetting(ctx: AppContext): Promise<Stored | undefined> {
  return (await ctx.store.settings.one({ name: MAIL_SETTING }))?.value as Stored | undefined;
}

export interface MailAccountView {
  host: string;
  port: number;
  user: string;
  from: string;
  security?: MailSecurity;
  believed?: string;
  changedAt: number;
  /** The mailbox account whose server this is. */
  through?: string;
}

export async function getMailAccount(ctx: AppContext, actor: Actor): Promise<MailAccountView | undefined> {
  requireRole(actor, 'administrator');
  const stored = await storedSetting(ctx);
  const sending = await sendingBy(ctx, stored);
  if (!stored || !sending) return undefined;
  const { pass: _, ...account } = sending.account;
  return { ...account, changedAt: stored.changedAt, ...('account' in stored ? { through: stored.account } : {}) };
}

/** Mailboxes that notices can leave through, as id and name. */
export async function mailboxesForNotices(ctx: AppContext, actor: Actor): Promise<[string, string][]> {
  requireRole(actor, 'administrator');
  await syncProfiles(ctx);
  const rows = await ctx.store.accounts.all({ disabled_at: null }, { order: [['name', 'ASC']] });
  return rows
    .filter(({ connector }) => ctx.connectors.has(connector) && ctx.connectors.get(connector).smtpAccount)
    .map(({ id, name }) => [id, name]);
}

export interface MailAccountInput {
  /** The mailbox account they leave through; all else but `trialTo` is not read then. */
  through?: string;
  host: string;
  port: string;
  /** One of `MAIL_SECURITY`; none given is encryption where it is offered. */
  security?: string;
  /** Certificates believed in place of the public authorities, PEM. */
  believed?: string;
  user: string;
  password: string;
  from: string;
  /** Where the trial goes that shows that it works. */
  trialTo: string;
}

/** Keeps the account only after a mail through it was taken. */
export async function setMailAccount(ctx: AppContext, actor: Actor, input: MailAccountInput): Promise<void> {
  requireRole(actor, 'administrator');
  requireConfirmed(ctx, actor);
  const stored = input.through ? { account: input.through } : { sealed: ctx.sealer.seal(readAccount(input)) };
  const at = ctx.now();
  const sending = await sendingBy(ctx, { ...stored, changedAt: at });
  if (!sending) throw invalidText('through', 'This mailbox is not there.', 'Choose another, or give a mail account.');
  const { account, signing } = sending;
  const trial = {
    signing,
    to: [readMailAddress('trialTo', input.trialTo)],
    subject: 'Windgap can send notices',
    text: `This mail was sent through ${account.host} to show that notices arrive. Nothing needs to be done.`,
    reference: newId('exc', at),
  };
  const answer = await sendNotice(account, trial, ctx);
  if (!answer.ok) {
    const code = appCause(answer.failure.cause);
    const { explain, remedy } = cause(code);
    const problem = explain({ who: account.host, said: answer.failure.said });
    throw invalid(code === 'app-credential-refused' ? 'password' : 'host', {
      code,
      severity: 'error',
      problem,
      remedy,
    });
  }
  await ctx.store.write(async (unit) => {
    await unit.settings.put({
      name: MAIL_SETTING,
      value: { ...stored, changedAt: at } satisfies Stored,
    });
    const summary = `Notices leave through ${account.host} as ${account.from}`;
    await recordAudit(unit, actor, at, { action: 'mail.set', subject: MAIL_SETTING, summary });
  });
}

function readAccount(input: MailAccountInput): SmtpAccount {
  const port = Number(input.port);
  if (!Number.isInteger(port) || port < 1 || port > 65535)
    throw invalidText('port', 'A port is a number up to 65535.', 'Mail is usually taken at 587 or 465.');
  for (const name of ['host', 'user', 'password'] as const)
    if (!input[name].trim()) throw invalidText(name, 'This is empty.', 'The mail service shows it.');
  return {
    host: input.host.trim(),
    port,
    user: input.user.trim(),
    pass: input.password,
    from: readMailAddress('from', input.from),
    security: MAIL_SECURITY.find((way) => way === input.security) ?? 'offered',
    ...believedIn(input.believed),
  };
}

function believedIn(pem = ''): Pick<SmtpAccount, 'believed'> {
  if (!pem.trim()) return {};
  try {
    certificatesIn(pem);
    return { believed: pem.trim() };
  } catch (error) {
    throw invalidText('believed', (error as Error).message, 'Paste the whole text of the certificate.');
  }
}

const ADDRESS = /^[^\s@<>,;]+@[^\s@<>,;]+\.[^\s@<>,;]+$/;

/** One e-mail address. Throws at its field when it is none. */
export function readMailAddress(field: string, text: string): string {
  const address = text.trim();
  if (ADDRESS.test(address)) return address;
  throw invalidText(field, `“${address}” is no e-mail address.`, 'It has a name, an @ and a domain.');
}

/** Several, separated by commas, semicolons, spaces or lines; none is none. */
export function readMailAddresses(field: string, text: string): string[] {
  return [
    ...new Set(
      text
        .split(/[\s,;]+/)
        .filter(Boolean)
        .map((one) => readMailAddress(field, one)),
    ),
  ];
}

export async function hasMail(ctx: AppContext): Promise<boolean> {
  return (await sendingBy(ctx, await storedSetting(ctx))) !== undefined;
}

/**
 * Sends a mail at once and keeps nothing of it: what opens something stands in no run and in no evidence. Returns what went
 * wrong, in words; undefined when it was taken.
 */
export async function mailSecret(
  ctx: AppContext,
  mail: { to: string; subject: string; text: string },
): Promise<string | undefined> {
  const sending = await sendingBy(ctx, await storedSetting(ctx));
  if (!sending) return 'No mail account is set up here.';
  const { account, signing } = sending;
  const reference = newId('exc', ctx.now());
  const answer = await sendNotice(account, { ...mail, to: [mail.to], reference, signing }, ctx);
  if (answer.ok) return undefined;
  return cause(appCause(answer.failure.cause)).explain({ who: account.host, said: answer.failure.said });
}

export async function performNotice(ctx: AppContext, step: NotifyStep, reference: string): Promise<Outcome> {
  const sending = await sendingBy(ctx, await storedSetting(ctx));
  if (!sending) {
    const { title, remedy } = cause('mail-not-set');
    return {
      kind: 'failed',
      cause: 'mail-not-set',
      finding: { code: 'mail-not-set', severity: 'error', problem: `${title}.`, remedy },
    };
  }
  const { account, signing } = sending;
  const answer = await sendNotice(account, { ...step, reference, signing }, ctx);
  if (answer.ok) return { kind: 'done', said: `Mail to ${step.to.join(', ')}` };
  const code = appCause(answer.failure.cause);
  const { explain, remedy, transient } = cause(code);
  const said = explain({ who: account.host, said: answer.failure.said });
  if (transient) return { kind: 'again', said, cause: code };
  return { kind: 'failed', cause: code, finding: { code, severity: 'error', problem: said, remedy } };
}
