/** A full queue for a channel. */
import { SYSTEM } from '../../src/operations/context/actor';
import { createSender } from '../../src/operations/outbound/sendMessage';
import { INES } from './mossgate';
import type { Installation } from './processes';

/** Queues so many texts, each with its number at the end. Returns their ids. */
export async function queueTexts(
  { ctx }: Installation,
  total: number,
  channelId: string,
  words: string,
): Promise<string[]> {
  const send = createSender(ctx);
  const sent = await Promise.all(
    Array.from({ length: total }, (_, index) => send(SYSTEM, { to: INES, text: `${words} ${index}`, from: channelId })),
  );
  return sent.map((answer) => answer.message.id);
}
