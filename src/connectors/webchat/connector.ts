/**
 * The web chat as a connector: the other side is a visitor's browser, which talks to the
 * web process. A website stands where a provider account stands elsewhere.
 */
import { z } from 'zod';
import type { Connector, ParsedInbound } from '../connector';
import { parseJson } from '../http/read';

export const WEB_CHAT: Connector = {
  id: 'web-chat',
  name: 'Web chat',
  summary: 'A small chat window on the organisation’s own website. No provider is needed.',
  kind: 'web-chat',
  handsOverAddress: false,
  preconditions: [
    { text: 'The address of the website, such as https://www.example.org, and somebody who may put a line into it.' },
    {
      text: 'The wording of the consent, from whoever answers for data protection.',
      help: 'It is shown to visitors before they write, and kept with each of them as evidence.',
    },
    { text: 'A text channel, if visitors are to be answered by text after they have left.' },
  ],
  credentialFields: [],
  handover: [
    { text: 'Put the snippet before the closing body tag of the pages.' },
    { text: 'Publish the pages, then open one: the first visit proves it.' },
  ],
  challenges: false,
  inboundBelongsTo: 'number',
  inboundMethod: 'POST',
  mediaTypes: [],
  prices: [],
  limits: { pace: 100, concurrency: 32, longestText: 2000 },
  requires: { permissions: [], subscriptions: [], registrationCountries: [] },
  honoursReference: true,
  givesReceipts: true,
  codesFor: [],
  examineCredentials: () => [],
  addresses: () => [],
  secretPlaces: [],
  checkAccount: async () => ({ ok: true, value: {} }),
  // The browser fetches what is there for it; handing over is making it visible.
  send: async (_, text) => ({ ok: true, value: { providerMessageId: text.reference } }),
  verify: () => 'not-used',
  parse: (request) => readChatPost(request.body.toString('utf8')),
};

const post = z.union([
  z.object({
    said: z.object({
      id: z.string(),
      visitor: z.string(),
      name: z.string().nullable(),
      to: z.string(),
      text: z.string(),
    }),
  }),
  z.object({ shown: z.object({ ids: z.array(z.string()), state: z.enum(['delivered', 'read']) }) }),
]);

/** What the web process stored of a visitor's words, or of messages the browser has shown. */
function readChatPost(body: string): ParsedInbound {
  const read = post.safeParse(parseJson(body));
  if (!read.success) return { ok: false, reason: 'not a post of the web chat' };
  if ('said' in read.data) {
    const { id, visitor, name, to, text } = read.data.said;
    const item = {
      kind: 'text',
      providerMessageId: id,
      from: visitor,
      to,
      text,
      senderName: name ?? undefined,
    } as const;
    return { ok: true, items: [item] };
  }
  const { ids, state } = read.data.shown;
  return {
    ok: true,
    items: ids.map((id) => ({ kind: 'receipt', providerMessageId: id, reference: id, state, said: state }) as const),
  };
}
