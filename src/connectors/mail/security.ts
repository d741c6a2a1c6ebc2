/** How a conversation with a mail server may be encrypted. */
export const MAIL_SECURITY = ['tls', 'starttls', 'offered', 'none'] as const;
/**
 * How the conversation is encrypted: from the first octet (RFC 8314 §3.3), by STARTTLS or not at all
 * (RFC 3207), by STARTTLS where the server offers it, or never.
 */
export type MailSecurity = (typeof MAIL_SECURITY)[number];
