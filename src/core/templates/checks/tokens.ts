/** What looks like a variable and is none: it would reach the phone as it stands. */
import type { PartFinding } from '../finding';
import { placeholdersIn, type WrittenPart } from '../template';

/** Braces and percent signs of any program's placeholders, once real ones are taken out. */
const TOKENLIKE =
  /\{\{[^{}]*\}\}?|\{\{ *[\w.-]*|\{%[^%]*%?\}?|\{[a-z][\w.-]*(?: [\w.-]+)?\}|\}\}|%[a-z_]+%|<<[^<>]+>>|\[\[[^[\]]*\]\]/gi;

export function tokenFindings({ part, text }: WrittenPart): PartFinding[] {
  const known = placeholdersIn(text);
  return [...text.matchAll(TOKENLIKE)].flatMap((match): PartFinding[] => {
    const place = { from: match.index, to: match.index + match[0].length };
    if (known.some(({ from, to }) => place.from < to && place.to > from)) return [];
    const name = match[0]
      .replace(/[^\w]+/g, '_')
      .toLowerCase()
      .replace(/^[^a-z]+|_+$/g, '')
      .slice(0, 40);
    const better = name && `{{ ${name} }}`;
    return [
      {
        part,
        code: 'token-broken',
        severity: 'error',
        problem: `“${match[0]}” is no variable and would be sent as it stands.`,
        remedy: 'A variable is written {{ boat_name }}: two braces, small letters, digits and underscores.',
        place,
        ...(better ? { fix: { label: `Write ${better}`, edit: { ...place, write: better } } } : {}),
      },
    ];
  });
}
