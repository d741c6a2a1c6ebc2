import { normaliseAddress } from '../../addresses/address';
import type { PartFinding } from '../finding';
import type { TemplateRules } from '../rules';
import { type Button, type ButtonKind, placeholdersIn } from '../template';
import { addressFindings } from './links';

const KIND_WORDS: Record<ButtonKind, [one: string, many: string]> = {
  link: ['link', 'links'],
  call: ['call button', 'call buttons'],
  'quick-reply': ['quick reply', 'quick replies'],
};

export function buttonFindings(buttons: readonly Button[], rules: TemplateRules): PartFinding[] {
  return [
    ...countFindings(buttons, rules.buttons),
    ...buttons.flatMap((button, index) => [
      ...labelFindings(buttons, index, rules.buttons),
      ...(button.kind === 'link' ? linkTarget(button.target, index, rules) : []),
      ...(button.kind === 'call' ? callTarget(button.target, index) : []),
    ]),
  ];
}

function countFindings(buttons: readonly Button[], rules: TemplateRules['buttons']): PartFinding[] {
  const findings: PartFinding[] = [];
  const label = (index: number) => `button-${index}-label` as const;
  if (buttons.length > rules.most)
    findings.push({
      part: label(rules.most),
      code: 'buttons-too-many',
      severity: 'error',
      problem: `There are ${buttons.length} buttons; ${rules.most} are allowed.`,
      remedy: 'Take out the less important ones.',
    });
  for (const kind of ['link', 'call', 'quick-reply'] as const) {
    const most = rules.mostOf[kind] ?? 0;
    const [one, many] = KIND_WORDS[kind];
    const beyond = buttons.map((button, index) => ({ button, index })).filter(({ button }) => button.kind === kind)[
      most
    ];
    if (beyond)
      findings.push({
        part: label(beyond.index),
        code: 'buttons-of-a-kind',
        severity: 'error',
        problem:
          most === 0
            ? `The platform takes no ${many}.`
            : `Only ${most === 1 ? `one ${one} is` : `${most} ${many} are`} allowed.`,
        remedy: 'Take one out, or make it a button of another kind.',
      });
  }
  // Quick replies stand together, before or after the others.
  const kinds = buttons.map(({ kind }) => kind === 'quick-reply');
  const changes = kinds.filter((quick, index) => index > 0 && quick !== kinds[index - 1]).length;
  if (changes > 1)
    findings.push({
      part: label(kinds.findIndex((quick, index) => index > 0 && quick !== kinds[index - 1])),
      code: 'buttons-mixed',
      severity: 'error',
      problem: 'Quick replies stand between other buttons.',
      remedy: 'Keep the quick replies together.',
    });
  return findings;
}

function labelFindings(buttons: readonly Button[], index: number, rules: TemplateRules['buttons']): PartFinding[] {
  const { label } = buttons[index] as Button;
  const part = `button-${index}-label` as const;
  const error = (code: string, problem: string, remedy: string, place?: PartFinding['place']): PartFinding => ({
    part,
    code,
    severity: 'error',
    problem,
    remedy,
    place,
  });
  if (label.trim() === '')
    return [error('label-empty', 'The button has no label.', 'Say what happens when it is pressed.')];
  const findings: PartFinding[] = [];
  if (label.length > rules.longestLabel)
    findings.push(
      error(
        'label-too-long',
        `The label has ${label.length} characters; ${rules.longestLabel} are allowed.`,
        'Shorten it.',
        {
          from: rules.longestLabel,
          to: label.length,
        },
      ),
    );
  const [variable] = placeholdersIn(label);
  if (variable)
    findings.push(
      error('label-variable', 'A label is the same for everybody.', 'Say it in the body.', {
        from: variable.from,
        to: variable.to,
      }),
    );
  if (buttons.findIndex((other) => other.label.trim().toLowerCase() === label.trim().toLowerCase()) < index)
    findings.push(
      error('label-twice', 'Two buttons have the same label.', 'Let each say what it alone does.', {
        from: 0,
        to: label.length,
      }),
    );
  return findings;
}

function linkTarget(target: string, index: number, rules: TemplateRules): PartFinding[] {
  const part = `button-${index}-target` as const;
  const variables = placeholdersIn(target);
  const whole = { from: 0, to: target.length };
  const error = (code: string, problem: string, remedy: string, place: PartFinding['place']): PartFinding => ({
    part,
    code,
    severity: 'error',
    problem,
    remedy,
    place,
  });
  const sample = target.replace(/\{\{[^{}]*\}\}/g, 'x');
  if (!URL.canParse(sample) || !/^https?:$/.test(new URL(sample).protocol))
    return [error('link-malformed', 'This is no web address.', 'Write it whole, with https://.', whole)];
  const findings = addressFindings(part, target, 0, rules.links);
  const [first, second] = variables;
  if (second)
    findings.push(
      error('link-variables', 'A link may hold one variable.', 'Put both into one value.', {
        from: second.from,
        to: second.to,
      }),
    );
  else if (first && first.to < target.length && !findings.some(({ code }) => code === 'link-variable-host'))
    findings.push(
      error('link-variable-inside', 'A variable may only be the end of a link.', 'Move it to the end.', {
        from: first.from,
        to: first.to,
      }),
    );
  return findings;
}

function callTarget(target: string, index: number): PartFinding[] {
  const normalised = normaliseAddress(target);
  if (normalised.ok) return [];
  return [
    {
      ...normalised.finding,
      part: `button-${index}-target`,
      code: 'call-number-wrong',
      place: { from: 0, to: target.length },
    },
  ];
}
