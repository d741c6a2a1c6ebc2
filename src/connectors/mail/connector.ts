/**
 * Texts through a carrier's mail gateway: a mail to `number@gateway`, sent through the
 * organisation's SMTP server (RFC 5321). Replies and bounces are posted by the mail
 * service; the recipient's carrier is looked up over HTTP.
 */
import { withoutQuote } from '../../core/mail/withoutQuote';
import type { Accepted, Connector, OutboundText } from '../connector';
import { createCall } from '../http/call';
import { nodes } from '../http/jsonPath';
import { optional, parseJson, required } from '../http/read';
import { verifyRequest } from '../http/signature';
import { originOf } from '../http/template';
import type { Outside } from '../outside/outside';
import { common } from '../profile/common';
import type { MailProfile } from '../profile/schema';
import { mailAccount } from './account';

export function mailConnector(profile: MailProfile, outside: Outside): Connector {
  const { http, clock } = outside;
  const shared = common(profile);
  const { mail, lookup, inbound } = profile;
  const call = createCall({ http: lookup.http, errors: lookup.errors, fields: shared.credentialFields }, http, clock);
  const { of: account, talk } = mailAccount(mail, outside);

  return {
    ...shared,
    addresses: (credentials) => [
      `smtp://${account(credentials).host}:${account(credentials).port}`,
      originOf(lookup.http.base, credentials),
    ],
    challenges: false,
    inboundBelongsTo: 'account',
    inboundMethod: 'POST',
    mediaTypes: [],
    limits: profile.limits,
    requires: { permissions: [], subscriptions: [], registrationCountries: [] },
    honoursReference: false,
    givesReceipts: false,
    codesFor: [],
    checkAccount: (credentials) =>
      talk(credentials, { headers: {}, body: null }, async (transporter) => {
        await transporter.verify();
        return { value: { name: account(credentials).from }, answer: 'signed in' };
      }),
    listNumbers: async (credentials) => {
      const { from } = account(credentials);
      const number = { remoteId: from, address: from, abilities: ['text-in', 'text-out'], inbound: {}, facts: {} };
      return { ok: true, value: [number] };
    },
    lookUpCarrier: (credentials, phone) =>
      call(credentials, lookup.request, { phone }, (answer) => required(answer, lookup.carrier)),
    send: (credentials, text) => {
      const { from } = account(credentials);
      const to = text.mailTo ?? '';
      return talk(credentials, { headers: { from, to }, body: text.text }, async (transporter) => {
        const sent = await transporter.sendMail(mailOf(text, from));
        const value: Accepted = { providerMessageId: sent.messageId.replace(/^<|>$/g, '') };
        return { value, answer: sent.response };
      });
    },
    verify: (credentials, request, now) => verifyRequest({ token: inbound.token }, credentials, request, now),
    parse(request) {
      const document = parseJson(request.body.toString('utf8'));
      if (document === undefined) return { ok: false, reason: 'the body is not JSON' };
      try {
        const { mails, bounces } = inbound;
        const items = [
          ...nodes(document, mails.each).map((entry) => ({
            kind: 'text' as const,
            providerMessageId: required(entry, mails.id),
            from: phoneOf(required(entry, mails.from)),
            to: required(entry, mails.to),
            text: withoutQuote(optional(entry, mails.text) ?? ''),
          })),
          ...nodes(document, bounces.each).map((entry) => ({
            kind: 'receipt' as const,
            providerMessageId: required(entry, bounces.messageId).replace(/^<|>$/g, ''),
            state: 'undelivered' as const,
            cause: 'mail-bounced' as const,
            said: required(entry, bounces.said),
          })),
        ];
        if (items.length > 0) return { ok: true, items };
        return { ok: false, reason: `nothing at ${mails.each} or ${bounces.each}` };
      } catch (error) {
        return { ok: false, reason: (error as Error).message };
      }
    },
  };

  /** No subject: most gateways put one in front of the text, in brackets. */
  function mailOf(text: OutboundText, from: string) {
    const domain = from.split('@')[1] ?? 'windgap.invalid';
    return { from, to: text.mailTo, text: text.text, messageId: `<${text.reference}@${domain}>` };
  }
}

/** `447700900123@gateway` → `+447700900123`; a national form is left for the channel's country. */
function phoneOf(address: string): string {
  const local = address.split('@')[0] ?? '';
  return /^\d{11,15}$/.test(local) && !local.startsWith('0') ? `+${local}` : local;
}
