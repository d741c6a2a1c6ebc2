/** Words of a provider's that its profile does not list, and what somebody said that they mean. */
import { parseDocument } from 'yaml';
import { kindPlace, withKind } from '../../connectors/http/kinds';
import { OperationError } from '../context';

/** Where a profile lists such words, and what they can mean. */
export const LISTED_WORDS = {
  receipt: { path: ['inbound', 'receipts', 'states'], means: ['sent', 'delivered', 'undelivered', 'read', 'nothing'] },
  word: { path: ['inbound', 'consents', 'words'], means: ['withdrawn', 'given'] },
  /** A whole event of some kind. */
  event: { path: ['inbound', 'ignore'], means: ['nothing'] },
} as const satisfies Record<string, { path: readonly string[]; means: readonly string[] }>;

export interface ListedWord {
  what: keyof typeof LISTED_WORDS;
  word: string;
  means: string;
}

/** Undefined for what cannot be listed, or cannot mean that. */
export function readListedWord(what: string, word: string, means: string): ListedWord | undefined {
  if (!Object.hasOwn(LISTED_WORDS, what)) return undefined;
  const kind = what as ListedWord['what'];
  return (LISTED_WORDS[kind].means as readonly string[]).includes(means) ? { what: kind, word, means } : undefined;
}

/** The text of a profile with a word listed in it. */
export function withWord(text: string, { what, word, means }: ListedWord): string {
  const document = parseDocument(text);
  const { path } = LISTED_WORDS[what];
  if (what === 'event') {
    const eachOf = (part: string) => document.getIn(['inbound', part, 'each']) as string | undefined;
    const place = ['texts', 'receipts', 'consents', 'reactions'].flatMap((part) => {
      const found = kindPlace(eachOf(part) ?? '');
      return found ? [found] : [];
    })[0];
    const ignore = place && withKind(document.getIn(path) as string | undefined, place, word);
    if (!ignore)
      throw new OperationError('conflict', 'This profile does not tell events apart in a way that can be added to.');
    document.setIn(path, ignore);
  } else document.setIn([...path, word], means);
  return document.toString({ lineWidth: 0 });
}
