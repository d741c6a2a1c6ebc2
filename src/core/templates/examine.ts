/**
 * Everything there is to say of a template before anybody else judges it: each finding
 * with its rule, its place and its remedy.
 */
import type { LanguageDetector } from '../text/language';
import { bodyFindings, footerFindings } from './checks/body';
import { buttonFindings } from './checks/buttons';
import { categoryFindings } from './checks/category';
import { costFindings } from './checks/cost';
import { headerFindings } from './checks/header';
import { leavingFindings } from './checks/leaving';
import { likenessFindings, type RejectedText } from './checks/likeness';
import { linkFindings } from './checks/links';
import { mannerFindings } from './checks/manner';
import { nameFindings, variantFindings } from './checks/naming';
import { sampleFindings } from './checks/samples';
import { languageFindings } from './checks/speech';
import { tokenFindings } from './checks/tokens';
import type { PartFinding, TemplateFinding } from './finding';
import type { TemplateRules } from './rules';
import { type Category, type Template, type Variant, variablesOf, writtenParts } from './template';

export interface Surroundings {
  /** Names of the account's other templates. */
  taken?: readonly string[];
  rejected?: readonly RejectedText[];
  /** Without one, languages are not compared. */
  detect?: LanguageDetector;
}

/** Of a template for a platform, by the platform's rules. */
export function examineTemplate(
  template: Template,
  rules: TemplateRules,
  around: Surroundings = {},
): TemplateFinding[] {
  return [
    ...nameFindings(template.name, rules.name, around.taken ?? []),
    ...(rules.categories.includes(template.category) ? [] : [notOffered(template.category, rules)]),
    ...variantFindings(template.variants),
    ...template.variants.flatMap((variant) => inLanguage(variant, variantOf(template, variant, rules, around))),
    ...unevenVariables(template.variants),
  ];
}

/** Of a plain text or a saved reply, which nobody else judges. */
export function examinePlain(template: Pick<Template, 'variants'>, around: Surroundings = {}): TemplateFinding[] {
  return [
    ...variantFindings(template.variants),
    ...template.variants.flatMap((variant) =>
      inLanguage(variant, [
        ...(variant.body.trim() === ''
          ? [
              {
                part: 'body',
                code: 'body-empty',
                severity: 'error',
                problem: 'The text is empty.',
                remedy: 'Write what is to be said.',
              } as const,
            ]
          : []),
        ...tokenFindings({ part: 'body', text: variant.body }),
        ...(variant.header?.kind === 'text' ? tokenFindings({ part: 'header', text: variant.header.text }) : []),
        ...sampleFindings(variant).map((finding) =>
          finding.code === 'sample-missing' ? { ...finding, severity: 'notice' as const } : finding,
        ),
        ...costFindings(variant),
        ...leavingFindings(variant),
        ...(around.detect ? languageFindings(variant, around.detect) : []),
      ]),
    ),
    ...unevenVariables(template.variants),
  ];
}

function variantOf(template: Template, variant: Variant, rules: TemplateRules, around: Surroundings): PartFinding[] {
  const parts = writtenParts(variant);
  const inText = parts.filter(({ part }) => !part.endsWith('-target'));
  return [
    ...headerFindings(variant.header, rules.header),
    ...bodyFindings(variant.body, rules.body),
    ...footerFindings(variant.footer, rules.footer),
    ...buttonFindings(variant.buttons, rules),
    ...parts.flatMap(tokenFindings),
    ...inText.flatMap((written) => linkFindings(written, rules.links)),
    ...(template.category === 'one-time-code'
      ? inText.flatMap(mannerFindings).filter(({ code }) => code !== 'secret-asked')
      : inText.flatMap(mannerFindings)),
    ...categoryFindings(template.category, variant),
    ...(template.category === 'promotional' ? leavingFindings(variant, { filed: true }) : []),
    ...sampleFindings(variant),
    ...(around.detect ? languageFindings(variant, around.detect) : []),
    ...likenessFindings(variant.body, around.rejected ?? []),
  ];
}

function inLanguage({ language }: Variant, findings: readonly PartFinding[]): TemplateFinding[] {
  return findings.map((finding) => ({ ...finding, language }));
}

function notOffered(category: Category, { categories }: TemplateRules): TemplateFinding {
  return {
    part: 'category',
    code: 'category-not-offered',
    severity: 'error',
    problem: `The platform has no category “${category}”.`,
    remedy: `These are offered: ${categories.join(', ')}.`,
  };
}

/** A variable one language has and the first lacks would have to be mapped for some people only. */
function unevenVariables(variants: readonly Variant[]): TemplateFinding[] {
  const [first, ...others] = variants;
  if (!first) return [];
  const wanted = variablesOf(first);
  return others.flatMap((variant): TemplateFinding[] => {
    const mine = variablesOf(variant);
    const less = wanted.filter((name) => !mine.includes(name));
    const more = mine.filter((name) => !wanted.includes(name));
    if (less.length + more.length === 0) return [];
    const said = [
      ...(less.length > 0 ? [`lacks ${less.map((name) => `{{ ${name} }}`).join(', ')}`] : []),
      ...(more.length > 0 ? [`has ${more.map((name) => `{{ ${name} }}`).join(', ')} besides`] : []),
    ].join(' and ');
    return [
      {
        part: 'language',
        language: variant.language,
        code: 'variables-uneven',
        severity: 'attention',
        problem: `The variant in ${variant.language} ${said}.`,
        remedy: `Say the same as in ${first.language}, with the same variables.`,
      },
    ];
  });
}
