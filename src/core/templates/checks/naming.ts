/** The name, and the languages a template is said to have. */
import type { PartFinding, TemplateFinding } from '../finding';
import type { TemplateRules } from '../rules';
import type { Variant } from '../template';

export function nameFindings(name: string, rules: TemplateRules['name'], taken: readonly string[]): PartFinding[] {
  const part = 'name';
  if (name === '')
    return [
      { part, code: 'name-empty', severity: 'error', problem: 'It has no name.', remedy: `A name is ${rules.words}.` },
    ];
  const findings: PartFinding[] = [];
  const whole = { from: 0, to: name.length };
  if (!new RegExp(`^(?:${rules.pattern})$`).test(name)) {
    const better = nameLike(name, rules);
    findings.push({
      part,
      code: 'name-not-allowed',
      severity: 'error',
      problem: `The platform does not take the name “${name}”.`,
      remedy: `A name is ${rules.words}.`,
      place: whole,
      ...(better ? { fix: { label: `Use ${better}`, edit: { ...whole, write: better } } } : {}),
    });
  }
  if (name.length > rules.longest)
    findings.push({
      part,
      code: 'name-too-long',
      severity: 'error',
      problem: `The name has ${name.length} characters; ${rules.longest} are allowed.`,
      remedy: 'Shorten it.',
      place: { from: rules.longest, to: name.length },
    });
  if (taken.includes(name))
    findings.push({
      part,
      code: 'name-taken',
      severity: 'error',
      problem: 'Another template of this account has this name.',
      remedy: 'Choose another, or revise that one.',
      place: whole,
    });
  return findings;
}

/** The nearest name that is allowed: accents off, everything else to one separator. */
export function nameLike(text: string, { pattern, longest }: TemplateRules['name']): string | undefined {
  const plain = text.normalize('NFKD').replace(/\p{M}/gu, '').toLowerCase();
  for (const separator of ['_', '-', '']) {
    const name = plain
      .replace(/[^a-z0-9]+/g, separator)
      .replace(/^[^a-z]+|[-_]+$/g, '')
      .slice(0, longest)
      .replace(/[-_]+$/, '');
    if (name && new RegExp(`^(?:${pattern})$`).test(name)) return name;
  }
  return undefined;
}

export function variantFindings(variants: readonly Variant[]): TemplateFinding[] {
  const findings: TemplateFinding[] = [];
  for (const [index, { language }] of variants.entries()) {
    const base = { part: 'language', language, severity: 'error' } as const;
    if (!isLanguage(language))
      findings.push({
        ...base,
        code: 'language-unknown',
        problem: `“${language}” is no language tag.`,
        remedy: 'Use a tag such as en, sv or pt-BR.',
      });
    if (variants.findIndex((other) => other.language === language) < index)
      findings.push({
        ...base,
        code: 'language-twice',
        problem: `There are two variants in ${language}.`,
        remedy: 'Remove one, or give it its own language.',
      });
  }
  return findings;
}

export function isLanguage(tag: string): boolean {
  try {
    const { language } = new Intl.Locale(tag);
    return (
      language !== undefined &&
      new Intl.DisplayNames(['en'], { type: 'language', fallback: 'none' }).of(language) !== undefined
    );
  } catch {
    return false;
  }
}
