/** What a send hook makes of a record: the message to send, or every reason why there is none. */
import { normaliseAddress } from '../addresses/address';
import { languageOfCountry } from '../addresses/display';
import type { KnownPeople } from '../contacts/attributes';
import type { Media } from '../delivery/media';
import type { Finding } from '../finding';
import { type Mapping, mapValues, variantFor } from '../templates/mapping';
import { render, type Values } from '../templates/render';
import { allVariables, type Variant } from '../templates/template';
import { fieldValue, listFields, missingField, type PostedRecord, plainText } from '../text/fields';
import { mergeText } from '../text/merge';

/** Which number a message leaves from: one and the same, the one named in a field, or the one the person last wrote to. */
export type HookSender =
  | { by: 'channel'; channel: string }
  | { by: 'field'; field: string }
  | { by: 'thread'; otherwise: string };

/** A template that is filled from records, as it would be sent now. */
export interface MappedTemplate {
  id: string;
  variants: readonly Variant[];
  mapping: Mapping;
}

export interface HookDefinition {
  /** With merge fields; not read where there is a template. */
  text: string;
  template?: MappedTemplate;
  phoneField: string;
  /** ISO 3166-1 alpha-2, for numbers written without a country code. */
  country?: string;
  sender: HookSender;
  /** The field that holds the address of a file to send along. */
  mediaField?: string;
  /** What is known of those whom records are about; absent where nothing is asked of it. */
  people?: KnownPeople;
}

export interface HookOrder {
  to: string;
  /** As a person of the number's country will read it. */
  text: string;
  template?: { id: string; values: Values };
  /** What the sender's field says; the address or name of a channel. */
  from?: string;
  media?: Media;
}

export type HookFinding = Finding & {
  field: 'text' | 'template' | 'phoneField' | 'sender' | 'mediaField';
  /** Which variable of the template it is about. */
  variable?: string;
};
export type HookResult = { ok: true; order: HookOrder } | { ok: false; findings: HookFinding[] };

export function orderFrom(definition: HookDefinition, record: PostedRecord): HookResult {
  const to = phoneIn(record, definition.phoneField, definition.country);
  const said = sayingOf(definition, record, to.ok ? to.value : undefined);
  const findings = [...said.findings];
  if (!to.ok) findings.push({ ...to.finding, field: 'phoneField' });
  const from = senderIn(record, definition.sender);
  if (from && !from.ok) findings.push({ ...from.finding, field: 'sender' });
  const media = mediaIn(record, definition.mediaField);
  if (media && !media.ok) findings.push({ ...media.finding, field: 'mediaField' });
  if (findings.length > 0 || !to.ok) return { ok: false, findings };
  return {
    ok: true,
    order: {
      to: to.value,
      ...said.order,
      from: from?.ok ? from.value : undefined,
      media: media?.ok ? media.value : undefined,
    },
  };
}

function sayingOf(
  { text, template, people = {} }: HookDefinition,
  record: PostedRecord,
  to: string | undefined,
): { order: Pick<HookOrder, 'text' | 'template'>; findings: HookFinding[] } {
  if (!template) {
    const merged = mergeText(text, record);
    return {
      order: { text: merged.text.trim() },
      findings: merged.findings.map((finding) => ({ ...finding, field: 'text' })),
    };
  }
  const { values, findings } = mapValues(allVariables(template.variants), template.mapping, {
    record,
    attributes: to !== undefined && Object.hasOwn(people, to) ? people[to] : {},
  });
  const known = to === undefined ? undefined : normaliseAddress(to);
  const own = to !== undefined && Object.hasOwn(people, to) ? people[to]?.language : undefined;
  const variant = variantFor(
    template.variants,
    own || languageOfCountry(known?.ok ? known.address.country : undefined),
  );
  const rendered = variant && render(variant, values);
  // What is missing was named with its cause already; a placeholder among the values was not.
  const tokens = rendered?.findings.filter(({ code }) => code === 'value-token') ?? [];
  return {
    order: { text: rendered?.text ?? '', template: { id: template.id, values } },
    findings: [...findings, ...tokens].map((finding) => ({ ...finding, field: 'template' as const })),
  };
}

type Found<Value> = { ok: true; value: Value } | { ok: false; finding: Finding };

const refuse = (code: string, problem: string, remedy: string): { ok: false; finding: Finding } => ({
  ok: false,
  finding: { code, severity: 'error', problem, remedy },
});

/** The phone number of a record in E.164; when it is not in the field, whether another field holds one. */
export function phoneIn(record: PostedRecord, field: string, country: string | undefined): Found<string> {
  const value = fieldValue(record, field);
  if (value === undefined)
    return elsewhere(record, field, country) ?? { ok: false, finding: missingField(record, field) };
  const text = plainText(value)?.trim();
  if (text === undefined)
    return refuse(
      'field-group',
      `“${field}” is a group of fields, not a number.`,
      'Choose the field inside it that holds the number.',
    );
  if (text === '')
    return (
      elsewhere(record, field, country) ??
      refuse(
        'record-without-phone',
        `“${field}” came empty: this record has no phone number.`,
        'Add the number to the record in the app, or have the app send only records that have one.',
      )
    );
  const normalised = normaliseAddress(text, { defaultCountry: country });
  if (normalised.ok) return { ok: true, value: normalised.address.value };
  const { finding } = normalised;
  if (finding.code === 'address-country-needed')
    return refuse(
      'phone-national',
      `“${field}” holds ${text}, a national number, and this hook has no country for such numbers.`,
      'Choose the country of these numbers at the hook, or have the app post them with + and the country code.',
    );
  return (
    elsewhere(record, field, country) ??
    refuse(
      'phone-unreadable',
      `“${field}” holds no phone number. ${finding.problem}`,
      'Choose the field that holds the number, or fix it in the app’s record.',
    )
  );
}

function elsewhere(record: PostedRecord, field: string, country: string | undefined) {
  const [other] = phoneFields(record, country).filter((name) => name !== field);
  if (other === undefined) return undefined;
  return refuse(
    'phone-in-other-field',
    `“${field}” holds no phone number, but “${other}” does.`,
    `Choose ${other} as the field with the phone number.`,
  );
}

const PHONEISH = /phone|mobile|cell|tel|msisdn|number/i;

/** Fields that hold a phone number, those that are called so first. Bare digits such as an order's number do not count. */
export function phoneFields(record: PostedRecord, country: string | undefined): string[] {
  const named = (name: string) => PHONEISH.test(name.split('.').at(-1) ?? name);
  return listFields(record)
    .filter(({ name, value }) => {
      if (value.trim().startsWith('+')) return normaliseAddress(value).ok;
      if (!named(name) || !/^[\d\s()./-]{7,25}$/.test(value.trim())) return false;
      return country === undefined || normaliseAddress(value, { defaultCountry: country }).ok;
    })
    .map(({ name }) => name)
    .sort((a, b) => Number(named(b)) - Number(named(a)));
}

/** The numbers a record holds, in E.164. */
export function phonesIn(record: PostedRecord, country: string | undefined): string[] {
  return phoneFields(record, country).flatMap((field) => {
    const phone = phoneIn(record, field, country);
    return phone.ok ? [phone.value] : [];
  });
}

function senderIn(record: PostedRecord, sender: HookSender): Found<string> | undefined {
  if (sender.by !== 'field') return undefined;
  const value = fieldValue(record, sender.field);
  if (value === undefined) return { ok: false, finding: missingField(record, sender.field) };
  const text = plainText(value)?.trim();
  if (text) return { ok: true, value: text };
  return refuse(
    'sender-empty',
    `“${sender.field}” does not say which number to send from.`,
    'Give the record an owner whose number it is, or choose one number for this hook.',
  );
}

/** By the ending of an address; providers are told the type along with it. */
const TYPES: Record<string, string> = {
  jpg: 'image/jpeg',
  jpeg: 'image/jpeg',
  png: 'image/png',
  gif: 'image/gif',
  pdf: 'application/pdf',
  mp4: 'video/mp4',
};

/** A record without a file is a message without one. */
function mediaIn(record: PostedRecord, field: string | undefined): Found<Media> | undefined {
  if (!field) return undefined;
  const value = fieldValue(record, field);
  if (value === undefined) return { ok: false, finding: missingField(record, field) };
  const url = plainText(value)?.trim();
  if (url === '') return undefined;
  const path = url !== undefined && URL.canParse(url) ? new URL(url).pathname : undefined;
  const type = TYPES[path?.split('.').at(-1)?.toLowerCase() ?? ''];
  if (url && path !== undefined && type) return { ok: true, value: { url, type } };
  return refuse(
    'media-unreadable',
    `“${field}” holds no address of a file that can be sent.`,
    `An address begins with https and ends in ${Object.keys(TYPES).join(', ')}.`,
  );
}
