/** The hops that prove a channel, and those that prove an app connection, in the order of their way. */
export const CHANNEL_HOPS = ['credential', 'outbound', 'receipt', 'inbound'] as const;
export const APP_HOPS = ['call-in', 'call-out'] as const;
export type HopName = (typeof CHANNEL_HOPS)[number] | (typeof APP_HOPS)[number];
