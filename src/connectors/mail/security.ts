/** How a mail server is reached, and how the conversation with it may be encrypted. */
export const MAIL_SECURITY = ['tls', 'starttls', 'offered', 'none'] as const;
/**
 * How the conversation is encrypted: from the first octet (RFC 8314 §3.3), by STARTTLS or not at all
 * (RFC 3207), by STARTTLS where the server offers it, or never.
 */
export type MailSecurity = (typeof MAIL_SECURITY)[number];

export interface SmtpAccount {
  host: string;
  port: number;
  user: string;
  pass: string;
  from: string;
  /** Without it, encrypted from the first octet at port 465 and by STARTTLS where it is offered elsewhere. */
  security?: MailSecurity;
  /** Certificates believed in place of the public authorities, PEM. */
  believed?: string;
}
