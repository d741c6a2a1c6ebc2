/** The mail account a profile describes, and how its server is talked to. */
import type { Credentials, Outcome } from '../connector';
import { renderTemplate } from '../http/template';
import type { Outside } from '../outside/outside';
import type { MailboxProfile, MailProfile } from '../profile/schema';
import type { ImapAccount } from './imap';
import type { SmtpAccount } from './security';
import { type Transporter, talkSmtp } from './smtp';

export interface MailAccount {
  of(credentials: Credentials): SmtpAccount;
  /** One conversation with its server; `request` is what records say of it. */
  talk<T>(
    credentials: Credentials,
    request: { headers: Record<string, string>; body: string | null },
    work: (transporter: Transporter) => Promise<{ value: T; answer: string }>,
  ): Promise<Outcome<T>>;
}

export function mailAccount(mail: MailProfile['mail'], outside: Outside): MailAccount {
  const render = (template: string, credentials: Credentials) => renderTemplate(template, { credentials });
  const of = (credentials: Credentials): SmtpAccount => ({
    host: render(mail.host, credentials),
    port: Number(render(mail.port, credentials)),
    user: render(mail.user, credentials),
    pass: render(mail.password, credentials),
    from: render(mail.from, credentials),
    security: mail.security,
    believed: mail.believed,
  });
  return { of, talk: (credentials, request, work) => talkSmtp(of(credentials), request, work, outside) };
}

/** The mailbox that a profile says is read. */
export function imapAccount(
  imap: Extract<MailboxProfile['inbound'], { imap: unknown }>['imap'],
): (credentials: Credentials) => ImapAccount {
  return (credentials) => {
    const render = (template: string) => renderTemplate(template, { credentials });
    return {
      host: render(imap.host),
      port: Number(render(imap.port)),
      user: render(imap.user),
      pass: render(imap.password),
      folder: render(imap.folder),
      security: imap.security,
      believed: imap.believed,
    };
  };
}
