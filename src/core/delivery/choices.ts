/** Short answers that a person may press below a message, on platforms that show buttons; in words everywhere else. */

/** What a platform shows at most. */
export interface ChoiceRules {
  most: number;
  /** Characters of one. */
  longest: number;
}

export interface Choices {
  labels: string[];
  /** They stand below the message as buttons, and not in its words. */
  asButtons: boolean;
}

/** How some choices go along with a text: as buttons where the platform shows so many of that length and no file is in the way. */
export function offerChoices(
  text: string,
  labels: readonly string[],
  rules: ChoiceRules | undefined,
  withFile: boolean,
): { text: string; choices: Choices | null } {
  if (labels.length === 0) return { text, choices: null };
  const asButtons =
    rules !== undefined &&
    !withFile &&
    labels.length <= rules.most &&
    labels.every((label) => [...label].length <= rules.longest);
  const choices = { labels: [...labels], asButtons };
  return { text: asButtons ? text : inWords(text, choices), choices };
}

/** The text with its choices in words, as another channel would carry it. */
export function inWords(text: string, { labels }: Pick<Choices, 'labels'>): string {
  return [text, labels.join(' / ')].filter(Boolean).join('\n');
}
