/** Where the value of each variable comes from, and what a record or a contact makes of it. */
import { STANDARD_ATTRIBUTES } from '../contacts/attributes';
import type { Finding } from '../finding';
import { fieldValue, missingField, type PostedRecord, plainText } from '../text/fields';
import type { Values } from './render';
import { contradicts, VALUE_KIND_WORDS } from './valueKinds';

export type Source =
  | { from: 'field'; field: string; fallback?: string }
  | { from: 'attribute'; attribute: string; fallback?: string }
  | { from: 'constant'; value: string };

/** By variable. */
export type Mapping = Readonly<Record<string, Source>>;

/** What values are taken from: a record an app posted, and the contact's attributes by name. */
export interface Origin {
  record?: PostedRecord;
  attributes?: Readonly<Record<string, string>>;
}

export type MappingFinding = Finding & { variable: string };

export interface Mapped {
  values: Values;
  findings: MappingFinding[];
}

/** The values for one recipient. What comes out empty or plainly wrong is a finding, and is then not to be sent. */
export function mapValues(variables: readonly string[], mapping: Mapping, origin: Origin): Mapped {
  const values: Record<string, string> = {};
  const findings: MappingFinding[] = [];
  for (const variable of variables) {
    const source = Object.hasOwn(mapping, variable) ? mapping[variable] : undefined;
    const found = source ? valueFrom(source, origin) : unmapped(variable);
    if (found.finding) findings.push({ ...found.finding, variable });
    if (found.value === undefined) continue;
    const value = found.value.trim();
    const wrong = contradicts(variable, value);
    if (wrong)
      findings.push({
        variable,
        code: 'value-of-another-kind',
        severity: 'error',
        problem: `{{ ${variable} }} would be “${value.slice(0, 60)}”: ${VALUE_KIND_WORDS[wrong.found]} in the place of ${VALUE_KIND_WORDS[wrong.promised]}.`,
        remedy: 'Are two variables swapped?',
      });
    values[variable] = value;
  }
  return { values, findings };
}

interface Found {
  value?: string;
  finding?: Finding;
}

function valueFrom(source: Source, origin: Origin): Found {
  if (source.from === 'constant')
    return source.value.trim() === '' ? { finding: empty('The constant') } : { value: source.value };
  const found =
    source.from === 'field'
      ? fromRecord(source.field, origin.record ?? {})
      : fromContact(source.attribute, origin.attributes ?? {});
  if (found.value !== undefined && found.value.trim() !== '') return found;
  return source.fallback?.trim() ? { value: source.fallback } : { finding: found.finding };
}

function fromRecord(field: string, record: PostedRecord): Found {
  const value = fieldValue(record, field);
  if (value === undefined) return { finding: missingField(record, field) };
  const text = plainText(value);
  if (text === undefined)
    return {
      finding: {
        code: 'field-group',
        severity: 'error',
        problem: `“${field}” is a group of fields, not a value.`,
        remedy: 'Choose a field inside the group.',
      },
    };
  return text.trim() === '' ? { finding: empty(`“${field}”`) } : { value: text };
}

function fromContact(attribute: string, attributes: Readonly<Record<string, string>>): Found {
  const value = Object.hasOwn(attributes, attribute) ? attributes[attribute] : undefined;
  return value?.trim() ? { value } : { finding: empty(`The contact’s ${attribute}`) };
}

function empty(what: string): Finding {
  return {
    code: 'field-empty',
    severity: 'error',
    problem: `${what} is empty.`,
    remedy: 'Have it filled where it comes from, or give a fallback.',
  };
}

function unmapped(variable: string): Found {
  return {
    finding: {
      code: 'variable-unmapped',
      severity: 'error',
      problem: `Nothing is mapped to {{ ${variable} }}.`,
      remedy: 'Choose a field, an attribute or a constant.',
    },
  };
}

const bare = (name: string) => name.toLowerCase().replace(/[^\p{L}\p{N}]+/gu, '');

/** A first guess: the field or attribute that is called like the variable. */
export function guessMapping(
  variables: readonly string[],
  fields: readonly string[],
  attributes: readonly string[] = STANDARD_ATTRIBUTES,
): Record<string, Source> {
  const guesses: Record<string, Source> = {};
  for (const variable of variables) {
    const last = (field: string) => bare(field.split('.').at(-1) ?? field);
    const field =
      fields.find((name) => bare(name) === bare(variable)) ??
      fields.find((name) => last(name) === bare(variable)) ??
      fields.find(
        (name) => last(name).length > 2 && (bare(variable).endsWith(last(name)) || last(name).endsWith(bare(variable))),
      );
    if (field) guesses[variable] = { from: 'field', field };
    else {
      const attribute = attributes.find((name) => bare(name) === bare(variable));
      if (attribute) guesses[variable] = { from: 'attribute', attribute };
    }
  }
  return guesses;
}

const mainLanguage = (tag: string) => tag.toLowerCase().split('-')[0];

/** Whether who reads one reads the other: the primary subtags agree (BCP 47 §2.2.1). */
export function sameLanguage(one: string, other: string): boolean {
  return mainLanguage(one) === mainLanguage(other);
}

/** The variant a person gets: theirs, one of the same language, or the first. */
export function variantFor<V extends { language: string }>(
  variants: readonly V[],
  language: string | undefined,
): V | undefined {
  return (
    variants.find((variant) => variant.language.toLowerCase() === language?.toLowerCase()) ??
    (language ? variants.find((variant) => sameLanguage(variant.language, language)) : undefined) ??
    variants[0]
  );
}
