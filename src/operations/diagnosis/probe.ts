/** The test that tells causes apart, with a handset of the bench and, where one is meant, with the very text complained of. */
import { channelKind } from '../../core/connect/channelKinds';
import { consentWord } from '../../core/consent/words';
import { type ObservationId, observation } from '../../core/diagnosis/observations';
import type { ChannelRow, MessageRow } from '../../store/schema/rows';
import { seeHandsets, testPhones, typeOnHandset } from '../bench';
import {
  type Actor,
  type AppContext,
  OperationError,
  recordAudit,
  requireReachedMessage,
  requireRole,
  SYSTEM,
} from '../context';
import { openWith, tidyAfter } from '../deliveryTests';
import type { Sender } from '../outbound';
import { NONE_OF_THEM, type Scope } from './complaintEvidence';
import { type Answer, requireWithinReach } from './diagnose';

const PATIENCE = 12_000;
/** A second copy comes soon after the first, or is not waited for. */
const SECOND_COPY = 1500;

export interface Probed {
  answer: Answer;
  /** What was sent, and to which phone: a pass with another text proves nothing about this one. */
  said: string;
}

/** Does a test; somebody agreed to it by pressing the button. */
export async function probe(
  ctx: AppContext,
  actor: Actor,
  send: Sender,
  id: ObservationId,
  scope: Scope,
): Promise<Probed> {
  requireRole(actor, 'administrator');
  await requireWithinReach(ctx, actor, scope);
  const channel = scope.channel ? await ctx.store.channels.one({ id: scope.channel }) : undefined;
  const like = await likeTheOne(ctx, actor, id, scope);
  const phones = (await testPhones(ctx)).filter(({ visible }) => visible);
  const [first] = phones;
  if (!channel || !first) throw new OperationError('invalid', 'The test needs a channel and a handset of the bench.');
  const phone = phones.find(({ number }) => like && number.startsWith(like.prefix)) ?? first;
  const began = ctx.now();
  const open = await openWith(ctx, [phone.number]);
  const word = like?.text ?? `Windgap test ${began.toString(36).slice(-5).toUpperCase()}`;
  const said = `${like ? 'The same text' : 'A text of its own'}, ${id === 'bench-in' ? 'from' : 'to'} ${phone.number}`;
  await ctx.store.write((unit) =>
    recordAudit(unit, actor, began, {
      action: 'test.probe',
      subject: channel.id,
      summary: `${observation(id).test?.offer ?? 'A test'} on ${channel.name}`,
    }),
  );
  const trial: Trial = { channel, phone: phone.number, word, began, open };
  if (id === 'bench-in') return { answer: await comesIn(ctx, trial), said };
  const refused = await send(SYSTEM, {
    to: phone.number,
    from: channel.id,
    text: word,
    ...(like?.media ? { media: like.media } : {}),
    tags: ['delivery test'],
    onlyThisWay: true,
  }).then(
    () => false,
    () => true,
  );
  return { answer: refused ? 'no' : await isShown(ctx, trial, id), said };
}

interface Trial {
  channel: ChannelRow;
  phone: string;
  word: string;
  began: number;
  open: ReadonlySet<string>;
}

/** Writes from the handset and waits for it to come in. */
async function comesIn(ctx: AppContext, { channel, phone, word, began, open }: Trial): Promise<Answer> {
  const way = channelKind(channel.kind).handset ?? 'text';
  await typeOnHandset(ctx, SYSTEM, { number: phone, to: channel.address, text: word, way });
  while (ctx.now() - began < PATIENCE) {
    const rows = await ctx.store.messages.all({ channel_id: channel.id, direction: 'in', sender: phone, text: word });
    const came = rows.filter(({ created_at }) => created_at >= began).map((message) => message.id);
    if (came.length > 0) {
      await tidyAfter(ctx, { test: 'the test of a diagnosis', since: began }, came, open);
      return 'yes';
    }
    await ctx.clock.pause(300);
  }
  return 'no';
}

/** Waits for what was sent to show on the handset: whether at all, unchanged, or once, as the test asks. */
async function isShown(ctx: AppContext, { phone, word, began }: Trial, id: ObservationId): Promise<Answer> {
  const shown = async () => [...(await seeHandsets(ctx, [phone], began)).values()].flatMap(({ entries }) => entries);
  while (ctx.now() - began < PATIENCE) {
    const all = await shown();
    const same = all.filter(({ text }) => text === word);
    if (id === 'bench-out' && same.length > 0) return 'yes';
    if (id === 'bench-same' && all.length > 0) return same.length > 0 ? 'yes' : 'no';
    if (id === 'bench-once' && same.length > 0) {
      await ctx.clock.pause(SECOND_COPY);
      return (await shown()).filter(({ text }) => text === word).length > 1 ? 'no' : 'yes';
    }
    await ctx.clock.pause(300);
  }
  return id === 'bench-out' ? 'no' : 'unknown';
}

interface Like extends Pick<MessageRow, 'text' | 'media'> {
  prefix: string;
}

/** Digits that phones of one country begin with, plus sign and code at most. */
const PREFIX = 3;

/** The message complained of, where its words may be sent once more: not a template’s, which only its platform makes. */
async function likeTheOne(ctx: AppContext, actor: Actor, id: ObservationId, scope: Scope): Promise<Like | undefined> {
  if (!scope.message || scope.message === NONE_OF_THEM) return undefined;
  await requireReachedMessage(ctx.store, actor, scope.message);
  const row = await ctx.store.messages.one({ id: scope.message });
  const way = id === 'bench-in' ? 'in' : 'out';
  if (!row || row.direction !== way || row.template || row.text === '') return undefined;
  // A STOP once more would be the test phone's own.
  if (way === 'in' && consentWord(row.text)) return undefined;
  const person = way === 'in' ? row.sender : row.recipient;
  return { text: row.text, media: row.media, prefix: person.slice(0, PREFIX) };
}
