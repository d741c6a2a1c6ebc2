/** Files that go with templates and replies: judged by what they hold, kept here, fetched by the platform. */
import { randomBytes } from 'node:crypto';
import { fileTypeFromBuffer } from 'file-type';
import { LARGEST_FILE, type Media } from '../../core/delivery/media';
import type { HeaderMedia } from '../../core/templates/template';
import type { MediaFileRow } from '../../store/schema/rows';
import { type Actor, type AppContext, found, invalidText, requireRole } from '../context';

/** Keeps a file. Its type is what its content shows, whatever its name says. */
export async function keepMedia(
  ctx: AppContext,
  actor: Actor,
  { name, content }: { name: string; content: Buffer },
): Promise<HeaderMedia> {
  requireRole(actor, 'agent');
  if (content.length === 0) throw invalidText('file', 'The file is empty.', 'Choose another.');
  if (content.length > LARGEST_FILE) throw invalidText('file', 'The file is over 20 MB.', 'Make it smaller.');
  const type = (await fileTypeFromBuffer(content))?.mime ?? '';
  const at = ctx.now();
  // Whoever knows its id may fetch it, so nobody may guess it from another's: ids of one moment follow one another.
  const file = { id: `fil_${randomBytes(20).toString('hex')}`, name: name.slice(0, 200), type, bytes: content.length };
  await ctx.store.write((unit) => unit.mediaFiles.insert([{ ...file, content, created_at: at }]));
  return file;
}

/** A kept file as it goes with a message: at an address the provider can fetch. */
export async function mediaToSend(ctx: AppContext, actor: Actor, id: string): Promise<Media> {
  requireRole(actor, 'agent');
  const file = found(await ctx.store.mediaFiles.one({ id }), 'file');
  return { url: `${ctx.config.publicUrl}/media/${file.id}`, type: file.type };
}

/** How long somebody who asks for a file waits until it has been fetched, and how often it is looked for, milliseconds. */
const PATIENCE = 10_000;
const LOOK_EVERY = 200;

export type KeptFile =
  | { file: MediaFileRow }
  /** It came as a link and is not here yet. */
  | { awaited: true }
  /** It came as a link and could not be fetched: why, in a sentence. */
  | { failed: string };

/** Whoever knows a file's address may fetch it, as platforms and apps do. One that has just come is waited for. */
export async function readMedia(ctx: AppContext, id: string): Promise<KeptFile | undefined> {
  const began = ctx.clock.elapsed();
  for (;;) {
    const file = await ctx.store.mediaFiles.one({ id });
    if (file) return { file };
    const incoming = await ctx.store.incomingFiles.one({ id });
    if (!incoming) return undefined;
    if (incoming.state === 'failed') return { failed: incoming.said ?? 'It could not be fetched.' };
    // After a first attempt that failed the next one is too far off to wait for.
    if (incoming.attempts > 0 || ctx.clock.elapsed() - began > PATIENCE) return { awaited: true };
    await ctx.clock.pause(LOOK_EVERY);
  }
}
