/** Whether much the same was rejected before. */
import type { PartFinding } from '../finding';
import { replacePlaceholders } from '../template';

export interface RejectedText {
  name: string;
  body: string;
  reason: string;
}

const ALIKE = 0.8;

export function likenessFindings(body: string, rejected: readonly RejectedText[]): PartFinding[] {
  const mine = shingles(body);
  if (mine.size < 3) return [];
  const nearest = rejected
    .map((text) => ({ text, likeness: overlap(mine, shingles(text.body)) }))
    .sort((a, b) => b.likeness - a.likeness)[0];
  if (!nearest || nearest.likeness < ALIKE) return [];
  return [
    {
      part: 'body',
      code: 'like-rejected',
      severity: 'attention',
      problem: `It says much the same as ${nearest.text.name}, which was rejected: ${nearest.text.reason}`,
      remedy: 'Fix what that one was rejected for before submitting this.',
      place: { from: 0, to: body.length },
    },
  ];
}

/** Every three words that follow one another, variables counting as one and the same word. */
function shingles(text: string): Set<string> {
  const words =
    replacePlaceholders(text, () => ' variable ')
      .toLowerCase()
      .match(/[\p{L}\p{N}]+/gu) ?? [];
  return new Set(
    words
      .slice(0, Math.max(0, words.length - 2))
      .map((word, index) => [word, words[index + 1], words[index + 2]].join(' ')),
  );
}

/** Jaccard's index, 0 to 1. */
function overlap(a: ReadonlySet<string>, b: ReadonlySet<string>): number {
  const shared = [...a].filter((entry) => b.has(entry)).length;
  return shared / (a.size + b.size - shared || 1);
}
