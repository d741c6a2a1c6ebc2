/** What a recipient sees. */
import { inWords } from '../delivery/choices';
import type { Finding } from '../finding';
import { TOKEN } from '../text/merge';
import { type Button, placeholdersIn, replacePlaceholders, type Variant, variablesOf } from './template';

export type Values = Readonly<Record<string, string>>;

export interface Rendered {
  header?: string;
  body: string;
  footer?: string;
  buttons: Button[];
  /** All of it as one text: what a platform without templates would carry. */
  text: string;
  /** Values that are missing, each by the name of its variable; what they belong to is then not to be sent. */
  findings: (Finding & { variable: string })[];
}

/**
 * Puts values into a variant. It never throws and leaves no variable behind: in the place
 * of one that has no value stands nothing, and a finding says so.
 */
export function render(variant: Pick<Variant, 'header' | 'body' | 'footer' | 'buttons'>, values: Values): Rendered {
  // Values that stand side by side must not make a placeholder together.
  const fill = (text: string) => replacePlaceholders(text, (name) => oneLine(values, name)).replace(/\{(?=\{)/g, '{ ');
  const header = variant.header?.kind === 'text' ? fill(variant.header.text) : undefined;
  const body = fill(variant.body);
  const footer = variant.footer === undefined ? undefined : fill(variant.footer);
  const buttons = variant.buttons.map((button): Button => {
    const label = fill(button.label);
    return button.kind === 'quick-reply'
      ? { ...button, label }
      : { ...button, label, target: fillTarget(button.target, values) };
  });
  const lines = [
    header,
    body,
    footer,
    ...buttons.map((button) => (button.kind === 'quick-reply' ? undefined : `${button.label}: ${button.target}`)),
  ];
  const variables = variablesOf({ language: '', samples: {}, ...variant });
  return {
    ...(header === undefined ? {} : { header }),
    body,
    ...(footer === undefined ? {} : { footer }),
    buttons,
    text: lines.filter((line) => line !== undefined && line !== '').join('\n'),
    findings: variables.flatMap((variable) =>
      valueFindings(variable, Object.hasOwn(values, variable) ? values[variable] : undefined),
    ),
  };
}

export interface PlainRendered {
  /** Without its answers to press. */
  text: string;
  choices: string[];
  /** Where it is a mail that has one. */
  subject?: string;
  findings: Rendered['findings'];
}

/**
 * What is made of a text that no platform reviews: its header is the subject of a mail and stands in no text, where nothing
 * has to be known for it either; its answers go along in the way the channel shows such.
 */
export function renderPlain(
  variant: Pick<Variant, 'header' | 'body' | 'footer' | 'buttons'>,
  values: Values,
  { mail }: { mail: boolean },
): PlainRendered {
  const { text, buttons, findings } = render({ ...variant, header: undefined }, values);
  const choices = buttons.flatMap((button) => (button.kind === 'quick-reply' ? [button.label] : []));
  if (!mail || variant.header?.kind !== 'text') return { text, choices, findings };
  const whole = render(variant, values);
  return { text, choices, subject: whole.header, findings: whole.findings };
}

/** The same in one text, as it is where there is neither a subject nor a button. */
export function asOneText(variant: Pick<Variant, 'header' | 'body' | 'footer' | 'buttons'>, values: Values): string {
  const { text, choices } = renderPlain(variant, values, { mail: false });
  return choices.length > 0 ? inWords(text, { labels: choices }) : text;
}

/** The same for somebody who goes on writing: what is not known stands there as its variable, and is not sent so. */
export function asDraft(variant: Pick<Variant, 'header' | 'body' | 'footer' | 'buttons'>, values: Values): string {
  const known = (text: string) => replacePlaceholders(text, (name) => oneLine(values, name) || `{{ ${name} }}`);
  const labels = variant.buttons.flatMap(({ kind, label }) => (kind === 'quick-reply' ? [known(label)] : []));
  const lines = [
    known(variant.body),
    ...(variant.footer === undefined ? [] : [known(variant.footer)]),
    ...variant.buttons.flatMap((button) =>
      button.kind === 'quick-reply' ? [] : [`${known(button.label)}: ${known(button.target)}`],
    ),
  ];
  const text = lines.join('\n');
  return labels.length > 0 ? inWords(text, { labels }) : text;
}

/** What a platform is given: each value by the number of its variable, counted from 1. */
export function numberedValues(variant: Variant, values: Values): string[] {
  return variablesOf(variant).map((name) => oneLine(values, name));
}

/** The body and the other parts as a platform reads them: variables by their numbers. */
export function numbered(variant: Variant, write: (number: number) => string): (text: string) => string {
  const order = variablesOf(variant);
  return (text) => replacePlaceholders(text, (name) => write(order.indexOf(name) + 1));
}

/** A value is one line: platforms refuse others. A placeholder in a value is not passed on as one. */
function oneLine(values: Values, name: string): string {
  const value = Object.hasOwn(values, name) ? values[name] : undefined;
  if (value === undefined || isToken(value)) return '';
  return value.replace(/\s+/g, ' ').trim();
}

/** What may not stand in a link is percent-encoded; what separates its parts stays. */
function fillTarget(target: string, values: Values): string {
  return replacePlaceholders(target, (name) => encodeURI(wellFormed(oneLine(values, name))));
}

/** Half a surrogate pair cannot be written in a link. */
function wellFormed(text: string): string {
  return text.replace(/[\uD800-\uDBFF](?![\uDC00-\uDFFF])|(?<![\uD800-\uDBFF])[\uDC00-\uDFFF]/g, '\ufffd');
}

function isToken(value: string): boolean {
  return TOKEN.test(value) || placeholdersIn(value).length > 0;
}

function valueFindings(variable: string, value: string | undefined): Rendered['findings'] {
  if (value !== undefined && isToken(value))
    return [
      {
        variable,
        code: 'value-token',
        severity: 'error',
        problem: `The value of {{ ${variable} }} is itself an unfilled placeholder: ${value.slice(0, 60)}.`,
        remedy: 'Fix it where the value comes from.',
      },
    ];
  if (value !== undefined && value.trim() !== '') return [];
  return [
    {
      variable,
      code: 'value-missing',
      severity: 'error',
      problem: `{{ ${variable} }} has no value.`,
      remedy: 'Map it to something that is filled, or give it a fallback.',
    },
  ];
}
