/** What the body and the footer say, and how variables stand in them. */
import type { PartFinding } from '../finding';
import type { TemplateRules } from '../rules';
import { type Placeholder, placeholdersIn } from '../template';

export function bodyFindings(text: string, rules: TemplateRules['body']): PartFinding[] {
  const part = 'body';
  if (text.trim() === '')
    return [
      {
        part,
        code: 'body-empty',
        severity: 'error',
        problem: 'The body is empty.',
        remedy: 'Write what is to be said.',
      },
    ];
  return [
    ...lengthFindings(part, text, rules.longest),
    ...variableFindings(text, placeholdersIn(text), rules),
    ...spacingFindings(text, rules),
  ];
}

export function footerFindings(text: string | undefined, rules: TemplateRules['footer']): PartFinding[] {
  if (text === undefined) return [];
  const part = 'footer';
  const [variable] = placeholdersIn(text);
  return [
    ...(text.trim() === ''
      ? [
          {
            part,
            code: 'footer-empty',
            severity: 'error',
            problem: 'The footer says nothing.',
            remedy: 'Write it, or leave it out.',
          } as const,
        ]
      : []),
    ...lengthFindings(part, text, rules.longest),
    ...(variable
      ? [
          {
            part,
            code: 'footer-variable',
            severity: 'error',
            problem: 'A footer is the same for everybody.',
            remedy: 'Say it in the body.',
            place: { from: variable.from, to: variable.to },
          } as const,
        ]
      : []),
  ];
}

function lengthFindings(part: 'body' | 'footer', text: string, longest: number): PartFinding[] {
  if (text.length <= longest) return [];
  return [
    {
      part,
      code: `${part}-too-long`,
      severity: 'error',
      problem: `The ${part} has ${text.length} characters; ${longest} are allowed.`,
      remedy: 'Shorten it.',
      place: { from: longest, to: text.length },
    },
  ];
}

/** Words and numbers; what a reviewer reads when the variables are left out. */
const WORD = /[\p{L}\p{N}][\p{L}\p{N}'’-]*/gu;

function variableFindings(
  text: string,
  variables: readonly Placeholder[],
  rules: TemplateRules['body'],
): PartFinding[] {
  const part = 'body';
  const findings: PartFinding[] = [];
  const at = ({ from, to }: Placeholder) => ({ from, to });
  const says = (piece: string) => /[\p{L}\p{N}]/u.test(piece);
  const error = (code: string, problem: string, remedy: string, place: PartFinding['place']) =>
    findings.push({ part, code, severity: 'error', problem, remedy, place });
  const [first] = variables;
  const last = variables.at(-1);
  if (!rules.variableAtEdge) {
    if (first && !says(text.slice(0, first.from)))
      error(
        'variable-at-start',
        'The body begins with a variable.',
        'Put words before it, such as a greeting.',
        at(first),
      );
    if (last && !says(text.slice(last.to)))
      error('variable-at-end', 'The body ends with a variable.', 'Put words after it.', at(last));
  }
  if (!rules.variablesAdjacent) {
    for (const [index, next] of variables.entries()) {
      const before = variables[index - 1];
      if (before && !says(text.slice(before.to, next.from)))
        error(
          'variables-adjacent',
          `Nothing is said between {{ ${before.name} }} and {{ ${next.name} }}.`,
          'Put a word between them, or make them one variable.',
          { from: before.from, to: next.to },
        );
    }
  }
  const names = new Set(variables.map(({ name }) => name));
  const beyond = [...variables].find(
    (_, index) => new Set(variables.slice(0, index + 1).map(({ name }) => name)).size > rules.mostVariables,
  );
  if (beyond)
    error(
      'variables-too-many',
      `There are ${names.size} variables; ${rules.mostVariables} are allowed.`,
      'Say some of it in words that are the same for everybody.',
      at(beyond),
    );
  const words = text.replace(/\{\{[^{}]*\}\}/g, ' ').match(WORD)?.length ?? 0;
  const needed = Math.ceil(variables.length * rules.wordsPerVariable);
  if (variables.length > 0 && words < needed)
    error(
      'words-too-few',
      `${words === 1 ? 'One word' : `${words} words`} for ${variables.length === 1 ? 'one variable' : `${variables.length} variables`}; ${needed} are expected, so that a reviewer sees what it is about.`,
      'Say more around the variables.',
      { from: 0, to: text.length },
    );
  const letters = text.replace(/\{\{[^{}]*\}\}/g, '').match(/\p{L}/gu)?.length ?? 0;
  if (variables.length > 1 && words >= needed && letters / variables.length < DENSE)
    findings.push({
      part,
      code: 'variables-dense',
      grade: `${Math.floor(letters / variables.length)} letters`,
      severity: 'attention',
      problem: `Only ${Math.round(letters / variables.length)} letters for each variable: most of it is different for everybody.`,
      remedy: 'Say more around the variables; reviewers differ in how much they want.',
      place: { from: 0, to: text.length },
    });
  return findings;
}

/** Letters a variable that are little, whatever the words of a language are long. */
const DENSE = 18;

function spacingFindings(text: string, rules: TemplateRules['body']): PartFinding[] {
  const part = 'body';
  const findings: PartFinding[] = [];
  const breaks = new RegExp(`(?:[ \\t]*\\r?\\n){${rules.mostLineBreaks + 1},}`, 'g');
  for (const match of text.matchAll(breaks)) {
    const place = { from: match.index, to: match.index + match[0].length };
    findings.push({
      part,
      code: 'line-breaks',
      severity: 'error',
      problem: `More than ${rules.mostLineBreaks} line breaks in a row.`,
      remedy: 'Leave fewer lines empty.',
      place,
      fix: { label: 'Take some out', edit: { ...place, write: '\n'.repeat(rules.mostLineBreaks) } },
    });
  }
  for (const match of text.matchAll(/[ \t]{4,}/g)) {
    const place = { from: match.index, to: match.index + match[0].length };
    findings.push({
      part,
      code: 'spaces-in-a-row',
      severity: 'error',
      problem: 'More than three spaces in a row.',
      remedy: 'One is enough.',
      place,
      fix: { label: 'Leave one', edit: { ...place, write: ' ' } },
    });
  }
  return findings;
}
