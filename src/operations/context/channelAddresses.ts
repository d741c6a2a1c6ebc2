/** The addresses Windgap gives to the outside for a channel. */
import { randomBytes } from 'node:crypto';
import type { AppContext } from './appContext';

/** The name is in the address so that a pasted one can be recognised; the rest cannot be guessed. */
export function newToken(name: string, unnamed = 'channel'): string {
  const slug = name
    .normalize('NFKD')
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^-|-$/g, '')
    .slice(0, 24);
  return `${slug || unnamed}-${randomBytes(15).toString('base64url').replace(/[-_]/g, 'x')}`;
}

/** The path of an inbound URL, a send hook or for calls up to and including its unguessable end, which `newToken` makes 20 characters long. */
export const INBOUND_TOKEN = /(\/(?:in|hooks|calls)\/[a-z0-9-]*-)[A-Za-z0-9]{20}/g;

/** The readable beginning of every such address in a text; the rest opens it. */
export function withoutTokens(text: string): string {
  return text.replace(INBOUND_TOKEN, '$1…');
}

interface Tokened {
  inbound_token: string;
}

export function inboundUrl(ctx: AppContext, channel: Tokened): string {
  return `${ctx.config.publicUrl}/in/${channel.inbound_token}`;
}

/** A second address for the provider to try. It leads to the same place and tells us that the first one failed. */
export function fallbackUrl(ctx: AppContext, channel: Tokened): string {
  return `${inboundUrl(ctx, channel)}/fallback`;
}

export function receiptUrl(ctx: AppContext, channel: Tokened): string {
  return `${inboundUrl(ctx, channel)}/receipts`;
}
