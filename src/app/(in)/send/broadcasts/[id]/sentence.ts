/** A broadcast as a sentence, each part with the place where it is changed. */
import type { AudiencePart, BroadcastDefinition } from '../../../../../core/broadcast/definition';
import { inWords } from '../../../../../core/contacts/audience';

interface Named {
  channels: [string, string][];
  audiences: [string, string][];
  templates: readonly { id: string; name: string }[];
  listLines: number;
}

export interface Piece {
  words: string;
  /** The part of the form it is about. */
  place?: string;
}

export function sentenceOf(
  { message, audience, channels, when }: BroadcastDefinition,
  { channels: named, audiences, templates, listLines }: Named,
): Piece[] {
  const template = templates.find(({ id }) => id === message.template?.id);
  const text = message.text.trim();
  const says = template?.name ?? (text ? `“${text.length > 60 ? `${text.slice(0, 60)}…` : text}”` : 'nothing yet');
  const words = (parts: typeof audience.include) =>
    parts.map((part) => partWords(part, audiences, listLines)).join(' and ');
  const over = channels
    .map((id) => named.find(([each]) => each === id)?.[1] ?? 'a channel that is gone')
    .join(', else ');
  return [
    { words: 'Send ' },
    { words: says, place: 'message' },
    { words: ' to ' },
    { words: words(audience.include) || 'nobody yet', place: 'audience' },
    ...(audience.exclude.length > 0
      ? [{ words: ', but not ' }, { words: words(audience.exclude), place: 'audience' }]
      : []),
    { words: ' over ' },
    { words: over || 'no channel yet', place: 'channels' },
    { words: ' ' },
    { words: whenWords(when), place: 'when' },
    { words: '.' },
  ];
}

function whenWords(when: BroadcastDefinition['when']): string {
  if (when.at === 'once') return 'at once';
  if (when.at === 'local') return `on ${when.day} at ${when.time} where they are`;
  const at = new Date(when.instant);
  return `at ${new Intl.DateTimeFormat('en-GB', { dateStyle: 'medium', timeStyle: 'short' }).format(at)}`;
}

/** A part of an audience in words. */
export function partWords(part: AudiencePart, audiences: [string, string][], listLines: number): string {
  switch (part.by) {
    case 'everybody':
      return 'everybody';
    case 'list':
      return `the list (${listLines})`;
    case 'people':
      return `${part.ids.length} chosen`;
    case 'saved':
      return audiences.find(([id]) => id === part.id)?.[1] ?? 'an audience that was removed';
    case 'failed':
      return 'whom it did not reach before';
    case 'filter':
      return inWords(part.conditions);
  }
}
