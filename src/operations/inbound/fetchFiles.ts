/**
 * Files that came as a link: fetched once, soon, and kept here, so that nobody who reads the message depends on the
 * provider's link, which ends. What cannot be fetched says why, on the message and at the address it was to have.
 */
import { randomBytes } from 'node:crypto';
import { OutboundError } from '../../connectors/http/outbound';
import { fileName, LARGEST_FILE, type Media, type MessageFile } from '../../core/delivery/media';
import type { IncomingFileRow } from '../../store/schema/rows';
import type { Unit } from '../../store/store';
import { isStoreTrouble } from '../../store/trouble';
import { type AppContext, noteMessages } from '../context';
import { createBeside } from '../workQueue';
import { judgeFile } from './keepFiles';

const TIMEOUT = 30_000;
/** A link may lead on to where the file really is. */
const MOST_REDIRECTS = 3;
/** How long after one attempt the next one comes, milliseconds. Links of providers end after minutes to days. */
const PAUSES = [5000, 30_000, 120_000, 600_000, 3_600_000];
const AT_ONCE = 4;
/** How long after trouble of the store's own, milliseconds. */
const AFTER_TROUBLE = 5000;
/** So many of those that wait are looked at in a round. */
const LOOKED_AT = 200;

/** The file as it stands with its message until it is here, and what is to be fetched. */
export function expectFile(
  { url, type }: Media,
  messageId: string,
  { at, publicUrl }: { at: number; publicUrl: string },
): { file: MessageFile; media: Media; row: IncomingFileRow } {
  // Whoever knows its id may fetch it, so nobody may guess it from another’s.
  const id = `fil_${randomBytes(20).toString('hex')}`;
  const ours = `${publicUrl}/media/${id}`;
  return {
    file: { name: fileName({ url, type }).slice(0, 200), type, bytes: 0, url: ours, awaited: true },
    media: { url: ours, type },
    row: { id, message_id: messageId, source: url, state: 'due', due_at: at, attempts: 0, said: null, created_at: at },
  };
}

/** Fetches what is due, a few at once and each by itself: a slow link delays no other. `ended` is called after each. */
export function createFileFetcher(ctx: AppContext, ended: () => void) {
  const beside = createBeside(AT_ONCE, ended);
  return {
    /** Returns when the next one is due, in milliseconds. */
    async round(): Promise<number | undefined> {
      const waiting = await ctx.store.select<{ id: string; at: number }>(
        'SELECT id, due_at AS at FROM incoming_files WHERE due_at IS NOT NULL ORDER BY due_at LIMIT :most',
        { most: LOOKED_AT },
      );
      const now = ctx.now();
      for (const { id, at } of waiting) if (at <= now) beside.begin(id, () => fetchOne(ctx, id));
      const next = waiting.find(({ at }) => at > now);
      return next && next.at - now;
    },
    drained: () => beside.drained(),
  };
}

async function fetchOne(ctx: AppContext, id: string): Promise<void> {
  try {
    const row = await ctx.store.incomingFiles.one({ id });
    // It may have come while it was looked for.
    if (row?.state !== 'due') return;
    const got = await download(ctx, row.source);
    await ctx.store.write((unit) => note(unit, row, got, ctx.now()));
  } catch (error) {
    ctx.log.error({ err: error, file: id }, 'a file could not be kept');
    // What is the store's own trouble passes, and the file is fetched again; not at once, as nobody could keep it.
    if (isStoreTrouble(error)) return ctx.clock.pause(AFTER_TROUBLE);
    const said = 'Windgap failed at keeping it.';
    await ctx.store
      .write((unit) => unit.incomingFiles.change({ id }, { state: 'failed', due_at: null, said }))
      .catch((later: unknown) => ctx.log.error({ err: later, file: id }, 'that it failed could not be noted'));
  }
}

type Got = { content: Buffer } | { refused: string; again: boolean };

/** The bytes behind a link, or in words why there are none, and whether another attempt may bring them. */
async function download(ctx: AppContext, source: string): Promise<Got> {
  let url = source;
  for (let hops = 0; hops <= MOST_REDIRECTS; hops++) {
    if (!URL.canParse(url)) return { refused: 'Its link is no web address.', again: false };
    try {
      const answer = await ctx.http({
        method: 'GET',
        url,
        headers: { accept: '*/*', 'user-agent': 'Windgap' },
        timeoutMs: TIMEOUT,
        largest: LARGEST_FILE,
        binary: true,
      });
      const { location } = answer.headers;
      if (answer.status >= 300 && answer.status < 400 && location) {
        url = URL.canParse(location, url) ? new URL(location, url).href : location;
        continue;
      }
      if (answer.status >= 200 && answer.status < 300) return { content: Buffer.from(answer.body, 'latin1') };
      return { refused: refusalOf(answer.status), again: answer.status >= 500 || answer.status === 429 };
    } catch (error) {
      if (!(error instanceof OutboundError)) throw error;
      if (error.kind === 'too-large')
        return { refused: `It is over ${LARGEST_FILE / 1e6} MB, and was not kept.`, again: false };
      if (error.kind === 'not-allowed')
        return { refused: 'Its link leads to a private address, and was not followed.', again: false };
      return { refused: `It could not be fetched: ${error.message}.`, again: true };
    }
  }
  return { refused: 'Its link leads from one place to the next without end.', again: false };
}

function refusalOf(status: number): string {
  if (status === 410) return 'Its link has ended (410).';
  if (status === 404) return 'There is nothing at its link (404): it may have ended.';
  if (status === 401 || status === 403) return `Its link may not be opened from here (${status}).`;
  return `The provider answered ${status} instead of the file.`;
}

async function note(unit: Unit, row: IncomingFileRow, got: Got, at: number): Promise<void> {
  const attempts = row.attempts + 1;
  const pause = PAUSES[row.attempts];
  if ('refused' in got && got.again && pause !== undefined) {
    await unit.incomingFiles.change({ id: row.id }, { attempts, due_at: at + pause, said: got.refused });
    return;
  }
  const message = await unit.messages.one({ id: row.message_id });
  const awaited = message?.files?.find(({ url }) => url?.endsWith(row.id));
  const name = awaited?.name ?? row.id;
  const judged = 'refused' in got ? undefined : await judgeFile(name, got.content);
  const refused = 'refused' in got ? got.refused : judged?.refused;
  const file: MessageFile =
    refused === undefined && judged
      ? { name, type: judged.type, bytes: judged.bytes, id: row.id, url: awaited?.url ?? '' }
      : { name, type: awaited?.type ?? '', bytes: judged?.bytes ?? 0, refused: refused ?? '' };
  if (refused === undefined && judged && 'content' in got)
    await unit.mediaFiles.insert([
      { id: row.id, name, type: judged.type, bytes: judged.bytes, content: got.content, created_at: at },
    ]);
  await unit.incomingFiles.change(
    { id: row.id },
    { attempts, state: refused === undefined ? 'kept' : 'failed', due_at: null, said: refused ?? null },
  );
  if (!message) return;
  const files = (message.files ?? []).map((each) => (each === awaited ? file : each));
  const media =
    refused === undefined && message.media ? { ...message.media, type: file.type || message.media.type } : null;
  await unit.messages.change({ id: message.id }, { files, media });
  await noteMessages(unit, at, [message]);
}
