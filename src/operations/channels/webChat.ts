/** Web chats: made for a website, talked to by visitors' browsers, answered like every other channel. */

import { createHash, randomBytes } from 'node:crypto';
import { LRUCache } from 'lru-cache';
import { normaliseAddress } from '../../core/addresses/address';
import {
  type ChatFace,
  type ChatMessage,
  inkOn,
  type WebChatSettings,
  webChatSettings,
} from '../../core/connect/webChat';
import { createBatcher } from '../../store/batcher';
import { newId } from '../../store/ids';
import type { ChannelRow, ChatVisitorRow, InboundRequestRow, MessageRow } from '../../store/schema/rows';
import { checkVisitorCode, createCode } from '../codes';
import { mergeContacts } from '../contacts';
import {
  type Actor,
  type AppContext,
  found,
  invalidText,
  isOperationError,
  noteChanges,
  OperationError,
  recordAudit,
  requireReached,
  requireRole,
  SYSTEM,
} from '../context';
import { addIdentities, holderOf, identityOn, phone as phoneIdentity } from '../identities';
import type { Sender } from '../outbound';
import { recordFacts } from '../proofs';
import { openChannel } from './channels';

/** Makes the chat, with the website standing where a provider account stands elsewhere. */
export async function openWebChat(
  ctx: AppContext,
  actor: Actor,
  input: { name: string; settings: Record<string, unknown> },
): Promise<{ id: string }> {
  requireRole(actor, 'administrator');
  const name = input.name.trim();
  if (!name) throw invalidText('name', 'The channel has no name.', 'Name it after the website or desk it serves.');
  const settings = readSettings(input.settings);
  const accountName = `${name}, website`;
  const at = ctx.now();
  const accountId = newId('acc', at);
  const numberId = newId('num', at);
  await ctx.store.write(async (unit) => {
    if (await unit.channels.one({ name }))
      throw invalidText('name', `There is a channel called ${name} already.`, 'Choose another name.');
    await unit.accounts.insert([
      {
        id: accountId,
        connector: 'web-chat',
        name: accountName,
        sealed_credentials: ctx.sealer.seal({}),
        state: 'accepted',
        cause: null,
        checked_at: null,
        remote_name: null,
        balance_micros: null,
        balance_currency: null,
        balance_at: null,
        created_at: at,
        credentials_changed_at: at,
        facts: {},
        facts_at: null,
        settings: {},
        disabled_at: null,
        sealed_previous: null,
        previous_until: null,
        meant_for: null,
      },
    ]);
    const address = `web:${name.toLowerCase().replace(/[^a-z0-9]+/g, '-')}`;
    await unit.numbers.insert([
      {
        id: numberId,
        account_id: accountId,
        remote_id: address,
        address,
        kind: 'other',
        country: null,
        abilities: ['text-in', 'text-out'],
        inbound_url: null,
        inbound_method: null,
        inbound_fallback: null,
        seen_at: at,
        facts: {},
        purpose: null,
        gone_at: null,
      },
    ]);
  });
  return openChannel(ctx, actor, { numberId, name, settings });
}

export async function saveWebChat(
  ctx: AppContext,
  actor: Actor,
  channelId: string,
  given: Record<string, unknown>,
): Promise<void> {
  requireRole(actor, 'administrator');
  await requireReached(ctx.store, actor, 'channel', channelId);
  const settings = readSettings(given);
  const at = ctx.now();
  await ctx.store.write(async (unit) => {
    const channel = found(await unit.channels.one({ id: channelId, kind: 'web-chat' }), 'web chat');
    const before = channel.settings as WebChatSettings;
    await unit.channels.change({ id: channelId }, { settings });
    if (before.origins?.join(' ') !== settings.origins.join(' ')) {
      const fact = { kind: 'changed', touches: ['credential'], at, note: 'the allowed websites were changed' } as const;
      await recordFacts(unit, [{ subject: channelId, fact }], at);
    }
    await recordAudit(unit, actor, at, {
      action: 'chat.settings',
      subject: channelId,
      summary: `Changed the web chat ${channel.name}`,
    });
    await noteChanges(unit, at, [['channel', channelId]]);
  });
}

function readSettings(given: Record<string, unknown>): WebChatSettings {
  const parsed = webChatSettings.safeParse(given);
  if (parsed.success && isPicture(parsed.data.picture)) return parsed.data;
  const issues = parsed.success
    ? [{ path: ['picture'], message: 'The file is not the picture its name says' }]
    : parsed.error.issues;
  const findings = issues.map((issue) => ({
    field: String(issue.path[0] ?? 'form'),
    finding: {
      code: 'setting',
      severity: 'error' as const,
      problem: `${issue.message}.`,
      remedy: 'Correct it and save again.',
    },
  }));
  throw new OperationError('invalid', 'Some fields need another look.', findings);
}

const SIGNATURES: Record<string, string> = { png: '89504e47', jpeg: 'ffd8ff', gif: '47494638', webp: '52494646' };

/** Judged by its first octets, not by what it calls itself. */
function isPicture(data: string): boolean {
  if (data === '') return true;
  const kind = /^data:image\/(\w+);/.exec(data)?.[1] ?? '';
  const head = Buffer.from(data.slice(data.indexOf(',') + 1, data.indexOf(',') + 17), 'base64').toString('hex');
  return head.startsWith(SIGNATURES[kind] ?? 'none');
}

export type ChatRefusal = { status: 400 | 403 | 404 | 409 | 413 | 422 | 429; reason: string };
type ChatAnswer<T> = { ok: true; value: T } | { ok: false; refusal: ChatRefusal };

/** Whether a code is on its way to the phone that was left; nothing else is texted there before it is typed in. */
export type Confirmation = { code: 'not-needed' | 'asked' } | { code: 'not-sent'; reason: string };
export type Begun = { key: string; returning: boolean } & Confirmation;

export interface Chat {
  /** The origin in the channel's list, or why the browser is sent away. */
  admit(token: string, origin: string | null): Promise<ChatAnswer<ChannelRow>>;
  face(channel: ChannelRow): ChatFace;
  begin(
    channel: ChannelRow,
    from: { origin: string; client: string },
    given: { key?: unknown; name?: unknown; phone?: unknown; consent?: unknown },
  ): Promise<ChatAnswer<Begun>>;
  /** What a visitor typed of the code that was texted to the phone they left. */
  confirm(channel: ChannelRow, visitor: ChatVisitorRow, code: unknown): Promise<ChatAnswer<{ confirmed: true }>>;
  /** Texts another code to it. */
  codeAgain(channel: ChannelRow, visitor: ChatVisitorRow, client: string): Promise<ChatAnswer<Confirmation>>;
  visitorOf(channel: ChannelRow, key: unknown): Promise<ChatVisitorRow | undefined>;
  say(channel: ChannelRow, visitor: ChatVisitorRow, given: { id?: unknown; text?: unknown }): Promise<ChatAnswer<null>>;
  /** The browser has shown these messages. */
  seen(channel: ChannelRow, visitor: ChatVisitorRow, ids: unknown, state: 'delivered' | 'read'): Promise<void>;
  messagesAfter(visitor: ChatVisitorRow, after: string): Promise<ChatMessage[]>;
}

const LONGEST_TEXT = 2000;
/**
 * In a minute: messages and notes of what was shown of one visitor, new visitors of one client, and of one chat. A client
 * may be a whole school; a chat's own limit is for floods from everywhere, so that one client is at its end long before.
 */
const MOST_A_MINUTE = { tries: 10, texts: 20, shown: 120, visitors: 20, visitorsOfAll: 2000 };
/** Clients and visitors that are counted at a time; those that did nothing for longest are forgotten. */
const MOST_COUNTED = 50_000;
const FACE_NOTED_EVERY = 30_000;

export function createChat(ctx: AppContext, send: Sender): Chat {
  const counts = new LRUCache<string, { minute: number; n: number }>({ max: MOST_COUNTED });
  const notedAt = new Map<string, number>();
  const store = createBatcher<InboundRequestRow, void>(async (rows) => {
    await ctx.store.append('inbound', rows);
    ctx.engineWakeUp.ring('inbound');
    return rows.map(() => undefined);
  });

  /** False when this was done too often in this minute. */
  function within(key: string, most: number): boolean {
    const minute = Math.floor(ctx.now() / 60_000);
    const count = counts.get(key);
    const n = count?.minute === minute ? count.n + 1 : 1;
    counts.set(key, { minute, n });
    return n <= most;
  }

  async function noteAdmission(channel: ChannelRow, origin: string, allowed: boolean) {
    // Origins that are allowed are few; of the others a caller invents as many as they like.
    const key = `${channel.id} ${allowed ? origin : 'refused'}`;
    const at = ctx.now();
    if (at - (notedAt.get(key) ?? 0) < FACE_NOTED_EVERY) return;
    notedAt.set(key, at);
    await ctx.store.write(
      async (unit) => {
        const fact = allowed
          ? ({ kind: 'credential-accepted', began: at, at, ref: channel.id } as const)
          : ({ kind: 'fault', cause: 'chat-origin-refused', began: at, at, ref: channel.id } as const);
        await recordFacts(unit, [{ subject: channel.id, fact }], at);
        if (allowed && channel.handed_over_at === null)
          await unit.channels.change({ id: channel.id }, { handed_over_at: at, handed_over_how: 'by-hand' });
        await noteChanges(unit, at, [['channel', channel.id]]);
      },
      { durable: false },
    );
  }

  function row(channel: ChannelRow, body: object): InboundRequestRow {
    const at = ctx.now();
    return {
      id: newId('inb', at),
      channel_id: channel.id,
      account_id: null,
      received_at: at,
      method: 'POST',
      path: `/chat/${channel.inbound_token}`,
      query: '',
      headers: { 'content-type': 'application/json' },
      body: Buffer.from(JSON.stringify(body)),
      remote_address: null,
      signature: 'valid',
      answer_status: 202,
      state: 'stored',
      cause: null,
      outcome: null,
      processed_at: null,
    };
  }

  /** Over the channel that answers later; without one the phone stays what the visitor says it is. */
  async function textCode(channel: ChannelRow, visitor: ChatVisitorRow, client: string): Promise<Confirmation> {
    const { replyChannelId, title } = channel.settings as WebChatSettings;
    if (visitor.phone === null || !replyChannelId) return { code: 'not-needed' };
    try {
      await createCode(
        ctx,
        send,
        { actor: SYSTEM, visitorId: visitor.id, client },
        { to: visitor.phone, from: replyChannelId, text: `${title}: your code is {code}. Type it into the chat.` },
      );
      return { code: 'asked' };
    } catch (error) {
      if (!isOperationError(error)) throw error;
      // What is said of limits is for those who run this, not for whoever tries them.
      const reason =
        error.kind === 'too-often' ? 'too many codes were asked for; try later' : 'no code can be sent there';
      return { code: 'not-sent', reason };
    }
  }

  return {
    async admit(token, origin) {
      const channel = await ctx.store.channels.one({ inbound_token: token, kind: 'web-chat' });
      if (!channel) return { ok: false, refusal: { status: 404, reason: 'not found' } };
      const { origins } = channel.settings as WebChatSettings;
      const allowed = origin !== null && origins.includes(origin.toLowerCase());
      await noteAdmission(channel, origin ?? 'none', allowed);
      if (!allowed)
        return { ok: false, refusal: { status: 403, reason: 'this website is not allowed to show this chat' } };
      return { ok: true, value: channel };
    },

    face(channel) {
      const { origins: _, replyChannelId: __, ...face } = channel.settings as WebChatSettings;
      return { ...face, ink: inkOn(face.colour) };
    },

    async begin(channel, { origin, client }, given) {
      const settings = channel.settings as WebChatSettings;
      const known = await this.visitorOf(channel, given.key);
      const at = ctx.now();
      if (known) {
        await ctx.store.write((unit) => unit.visitors.change({ id: known.id }, { seen_at: at }), { durable: false });
        const code =
          known.phone !== null && known.confirmed_at === null && settings.replyChannelId ? 'asked' : 'not-needed';
        return { ok: true, value: { key: given.key as string, returning: true, code } };
      }
      const refuse = (status: ChatRefusal['status'], reason: string) =>
        ({ ok: false, refusal: { status, reason } }) as const;
      if (settings.consentText && given.consent !== true) return refuse(422, 'consent is needed first');
      const phone = settings.askPhone ? readPhone(given.phone, channel) : { ok: true as const, value: null };
      if (!phone.ok) return refuse(422, phone.reason);
      // Only what would have been begun counts, and first against whoever asks.
      if (
        !within(`${channel.id} ${client}`, MOST_A_MINUTE.visitors) ||
        !within(channel.id, MOST_A_MINUTE.visitorsOfAll)
      )
        return refuse(429, 'too many at once; try again in a minute');
      const key = randomBytes(24).toString('base64url');
      const visitor: ChatVisitorRow = {
        id: newId('vis', at),
        channel_id: channel.id,
        key_hash: hashOf(key),
        name: typeof given.name === 'string' && given.name.trim() ? given.name.trim().slice(0, 80) : null,
        phone: phone.value,
        confirmed_at: null,
        consent_at: settings.consentText ? at : null,
        consent_text: settings.consentText || null,
        origin,
        created_at: at,
        seen_at: at,
      };
      await ctx.store.write((unit) => unit.visitors.insert([visitor]));
      return { ok: true, value: { key, returning: false, ...(await textCode(channel, visitor, client)) } };
    },

    async confirm(channel, visitor, given) {
      if (!within(`code ${visitor.id}`, MOST_A_MINUTE.tries))
        return { ok: false, refusal: { status: 429, reason: 'too many tries; wait a minute' } };
      const at = ctx.now();
      const tried = await ctx.store.write(async (unit) => {
        const code = await checkVisitorCode(ctx, unit, visitor.id, typeof given === 'string' ? given.slice(0, 20) : '');
        if (code?.state === 'confirmed') await unit.visitors.change({ id: visitor.id }, { confirmed_at: at });
        return code;
      });
      if (tried?.state === 'confirmed') {
        await joinPhone(ctx, channel, visitor, tried.to);
        return { ok: true, value: { confirmed: true } };
      }
      const reason =
        tried?.state === 'open'
          ? `this is not the code; ${tried.attemptsLeft === 1 ? 'one try is' : `${tried.attemptsLeft} tries are`} left`
          : 'the code is no longer valid; ask for another';
      return { ok: false, refusal: { status: 422, reason } };
    },

    async codeAgain(channel, visitor, client) {
      if (visitor.phone === null || visitor.confirmed_at !== null) return { ok: true, value: { code: 'not-needed' } };
      return { ok: true, value: await textCode(channel, visitor, client) };
    },

    async visitorOf(channel, key) {
      if (typeof key !== 'string' || key.length < 20 || key.length > 100) return undefined;
      return ctx.store.visitors.one({ key_hash: hashOf(key), channel_id: channel.id });
    },

    async say(channel, visitor, { id, text }) {
      const refuse = (status: ChatRefusal['status'], reason: string) =>
        ({ ok: false, refusal: { status, reason } }) as const;
      if (typeof text !== 'string' || text.trim() === '') return refuse(422, 'there are no words');
      if (text.length > LONGEST_TEXT) return refuse(413, `at most ${LONGEST_TEXT} characters`);
      if (typeof id !== 'string' || !/^[\w-]{8,64}$/.test(id)) return refuse(400, 'the message has no id');
      if (!within(visitor.id, MOST_A_MINUTE.texts)) return refuse(429, 'too many messages; wait a minute');
      await store(row(channel, { said: { id, visitor: visitor.id, name: visitor.name, to: channel.address, text } }));
      return { ok: true, value: null };
    },

    async seen(channel, visitor, ids, state) {
      if (!Array.isArray(ids) || ids.length === 0 || ids.length > 50) return;
      if (!within(`shown ${visitor.id}`, MOST_A_MINUTE.shown)) return;
      const wanted = ids.filter((id): id is string => typeof id === 'string');
      const own = await ctx.store.messages.all({ id: wanted, recipient: visitor.id, direction: 'out' });
      if (own.length > 0) await store(row(channel, { shown: { ids: own.map((message) => message.id), state } }));
    },

    async messagesAfter(visitor, after) {
      const messages = await ctx.store.select<MessageRow>(
        `SELECT * FROM messages WHERE id > :after AND channel_id = :channel
            AND ((direction = 'out' AND recipient = :visitor) OR (direction = 'in' AND sender = :visitor)) ORDER BY id LIMIT 100`,
        { after, channel: visitor.channel_id, visitor: visitor.id },
      );
      return messages.map((message) => ({
        id: message.id,
        from: message.direction === 'in' ? 'visitor' : 'us',
        who: message.direction === 'in' ? 'You' : (message.origin_name ?? 'Us'),
        text: message.text,
        at: message.created_at,
      }));
    },
  };
}

function readPhone(given: unknown, channel: ChannelRow): { ok: true; value: string } | { ok: false; reason: string } {
  const normalised = normaliseAddress(typeof given === 'string' ? given : '', {
    defaultCountry: channel.default_country ?? undefined,
  });
  if (!normalised.ok) return { ok: false, reason: `${normalised.finding.problem} ${normalised.finding.remedy}` };
  return { ok: true, value: normalised.address.value };
}

/** Whoever typed the code is the person with that phone: their words in the chat and their texts are one conversation. */
async function joinPhone(ctx: AppContext, channel: ChannelRow, { id }: ChatVisitorRow, phone: string): Promise<void> {
  const identity = phoneIdentity(phone);
  const [visitor, owner] = await Promise.all([
    holderOf(ctx.store, identityOn(channel, id)),
    holderOf(ctx.store, identity),
  ]);
  // Before the first words there is no contact yet; it is made with the phone then.
  if (!visitor || visitor.contact_id === owner?.contact_id) return;
  if (!owner) {
    await ctx.store.write(async (unit) => {
      if (await holderOf(unit, identity)) return;
      const why = 'They typed the code that was sent to it.';
      const added = [{ ...identity, contactId: visitor.contact_id }];
      await addIdentities(unit, added, { at: ctx.now(), source: 'code', why, by: 'Windgap' });
      await noteChanges(unit, ctx.now(), [['contact', visitor.contact_id]]);
    });
    return;
  }
  const why = 'the visitor typed the code that was texted to this phone';
  await mergeContacts(ctx, SYSTEM, { keptId: owner.contact_id, goneId: visitor.contact_id, why });
}

function hashOf(key: string): string {
  return createHash('sha256').update(key).digest('base64url');
}

export function snippetFor(ctx: AppContext, channel: { inboundToken: string }): string {
  return `<script src="${ctx.config.publicUrl}/chat/widget.js" data-chat="${channel.inboundToken}" async></script>`;
}
