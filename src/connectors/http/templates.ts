/** Submits templates to a platform and reads what became of them, as its profile describes it. */
import { numbered, numberedValues } from '../../core/templates/render';
import type { TemplateRules } from '../../core/templates/rules';
import type { Button, Category, Variant } from '../../core/templates/template';
import type { TemplateReview, TemplateSubmission } from '../connector';
import type { TemplatesShape } from '../profile/templates';
import { type Json, nodes } from './jsonPath';
import { optional, required, time, wholeNumber } from './read';
import { renderTemplate } from './template';

export function rulesOf({ rules, categories }: TemplatesShape): TemplateRules {
  return { ...rules, categories: Object.keys(categories) as Category[] };
}

/** What the requests of a profile may speak of as `template`. */
export function submissionScope(shape: TemplatesShape, { template, remoteId, mediaUrl }: TemplateSubmission): object {
  return {
    name: template.name,
    category: shape.categories[template.category] ?? '',
    remoteId: remoteId ?? '',
    variants: template.variants.map((variant) => variantScope(shape, variant, mediaUrl)),
  };
}

function variantScope(shape: TemplatesShape, variant: Variant, mediaUrl: (id: string) => string): object {
  const write = numbered(variant, (number) => renderTemplate(shape.placeholder, { number: String(number) }));
  const { header } = variant;
  return {
    language: variant.language,
    headerText: header?.kind === 'text' ? write(header.text) : undefined,
    media:
      header && header.kind !== 'text' && header.media
        ? { url: mediaUrl(header.media.id), type: header.media.type, bytes: header.media.bytes }
        : undefined,
    body: write(variant.body),
    footer: variant.footer,
    buttons: variant.buttons.map((button) => buttonScope(shape, button, write)),
    samples: numberedValues(variant, variant.samples),
  };
}

function buttonScope(shape: TemplatesShape, button: Button, write: (text: string) => string): object {
  return {
    kind: shape.buttons[button.kind] ?? '',
    label: button.label,
    target: button.kind === 'quick-reply' ? undefined : write(button.target),
  };
}

export function readSubmitted(shape: TemplatesShape, answer: Json, at: string): TemplateReview {
  const [one] = nodes(answer, at);
  if (one === undefined) throw new Error(`nothing at ${at}`);
  return { ...readReview(shape, one), usualMinutes: wholeMinutes(answer, shape.read.usualMinutes) };
}

export function readReviews(shape: TemplatesShape, answer: Json, each: string): TemplateReview[] {
  return nodes(answer, each).map((entry) => readReview(shape, entry));
}

function readReview({ read, states, parts, categories }: TemplatesShape, entry: Json): TemplateReview {
  const said = required(entry, read.state);
  const state = Object.hasOwn(states, said) ? states[said] : undefined;
  if (!state) throw new Error(`the state "${said}" is not in the profile`);
  const category = optional(entry, read.category);
  const { reasons } = read;
  return {
    remoteId: required(entry, read.remoteId),
    edition: optional(entry, read.edition) ?? '',
    state,
    category: (Object.keys(categories) as Category[]).find((name) => categories[name] === category),
    decidedAt: time(entry, read.decidedAt),
    reasons: reasons
      ? nodes(entry, reasons.each).map((reason) => {
          const part = optional(reason, reasons.part);
          return {
            text: required(reason, reasons.text),
            code: optional(reason, reasons.code),
            part: part !== undefined && Object.hasOwn(parts, part) ? parts[part] : undefined,
            language: optional(reason, reasons.language),
          };
        })
      : [],
  };
}

function wholeMinutes(answer: Json, path: string | undefined): number | undefined {
  const exact = wholeNumber(answer, path) ?? Number(optional(answer, path));
  return Number.isFinite(exact) ? Math.max(1, Math.ceil(exact)) : undefined;
}
