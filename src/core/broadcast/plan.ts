/**
 * What a broadcast is for one person: a message, ready as it would leave, or one reason why there is none. Everything it is
 * judged by is given, so the plan, the preview and the moment at which a message is really queued come to the same answer
 * from the same facts.
 */
import { type Address, normaliseAddress } from '../addresses/address';
import { countryName, languageOfCountry } from '../addresses/display';
import { nameCarriage } from '../addresses/senderNames';
import { type ChannelKind, channelKind } from '../connect/channelKinds';
import type { AccountFacts, Requirements } from '../connect/facts';
import { type Prediction, predictRefusal } from '../connect/predict';
import { type NumberPurpose, PURPOSES } from '../connect/purposes';
import type { ConsentWay } from '../consent/ways';
import { type ChoiceRules, type Choices, offerChoices } from '../delivery/choices';
import { type IdentityKind, identityKey, identityKind } from '../identities/identityKinds';
import { type AllowedDestinations, costlyKind, destinationOf, notAllowed } from '../limits/destination';
import { type PriceLine, priceOf } from '../limits/prices';
import { type Mapping, mapValues, sameLanguage, variantFor } from '../templates/mapping';
import { numberedValues, render, renderPlain, type Values } from '../templates/render';
import { type Variant, variablesOf } from '../templates/template';
import type { PostedRecord } from '../text/fields';
import { measureText } from '../text/measure';
import { mergeText } from '../text/merge';
import type { LeftOut, LeftOutCode } from './leftOut';
import { type Due, type Zoned, zoneOfPerson } from './timetable';

/** A channel as a plan needs to know it. */
export interface PlanChannel {
  id: string;
  name: string;
  kind: ChannelKind;
  /** Its own number, name or address. */
  address: string;
  accountId: string;
  accountName: string;
  facts: AccountFacts;
  requires: Requirements;
  disabled: boolean;
  /** Of its number. */
  senderName: boolean;
  purpose: NumberPurpose | null;
  sendsTexts: boolean;
  /** People can answer it. */
  answered: boolean;
  /** Countries in which its sender name is registered. */
  registeredIn: readonly string[];
  destinations: AllowedDestinations;
  prices: readonly PriceLine[];
  replyWindowHours?: number;
  longestText: number;
  choices?: ChoiceRules;
}

export interface PlanTemplate {
  id: string;
  name: string;
  /** The account whose platform judges it; absent for a plain one, which any channel carries. */
  accountId?: string;
  version?: number;
  remoteId?: string | null;
  edition?: string | null;
  /** Those that may be sent now. */
  variants: readonly Variant[];
  /** Why none may, in words. */
  unserved?: string;
}

export interface BroadcastMessage {
  /** The record it was ordered with: its fields fill the text for everybody. */
  given?: PostedRecord;
  purpose: 'notice' | 'marketing';
  /** With merge fields. Where there is a template, for channels that do not carry it; may be empty then. */
  text: string;
  subject?: string;
  /** Answers that may be pressed, with the text. */
  choices: readonly string[];
  template?: { id: string; mapping: Mapping };
  /** Send a template in another language to whoever reads none of its. */
  anyLanguage: boolean;
}

export interface PlanFacts {
  now: number;
  message: BroadcastMessage;
  template?: PlanTemplate;
  /** In the order in which they are tried for each person. */
  channels: readonly PlanChannel[];
  /** When it is due for somebody in a zone, whose number is of a country. */
  due(zone: string, country?: string): Due | undefined;
  /** Epoch milliseconds after which it is pointless. */
  validUntil?: number;
  /** Of the installation. */
  zone: string;
  language?: string;
  /** For numbers a file writes without a country code. */
  country?: string;
  /** Broadcasts for marketing that one person gets at most in so many days. */
  cap?: { most: number; days: number };
  /** Addresses that were given a message of this broadcast already, by `addressKey`. */
  taken: ReadonlySet<string>;
}

export interface PlanIdentity {
  kind: IdentityKind;
  scope: string;
  value: string;
  doubted: boolean;
  /** Ways its opt-ins in force cover; `account` empty where for all. */
  agreed: readonly { way: ConsentWay; account: string }[];
}

export interface PlanPerson {
  /** The best of each kind first. */
  identities: readonly PlanIdentity[];
  declined: ReadonlySet<ConsentWay>;
  name?: string;
  language?: string;
  zone?: string;
  /** What merge fields are filled from. */
  record: PostedRecord;
  attributes: Readonly<Record<string, string>>;
  /** When they last wrote, by channel. */
  wroteTo: ReadonlyMap<string, number>;
  lastWroteAt?: number;
  /** Marketing broadcasts they got in the days of the cap. */
  gotLately: number;
  heldOut: boolean;
}

/** What would leave. */
export interface Planned {
  channelId: string;
  /** Why it is not the first channel; absent where it is. */
  insteadOf?: { channelId: string; code: LeftOutCode };
  identity: Pick<PlanIdentity, 'kind' | 'scope' | 'value'>;
  country?: string;
  /** Nobody can tell whether it is a mobile. */
  maybeLandline: boolean;
  text: string;
  subject?: string;
  choices: Choices | null;
  template?: { variant: Variant; values: Values; numbered: string[] };
  language?: string;
  /** The language they read, where the message is in another. */
  otherLanguage?: string;
  encoding: string;
  parts: number;
  price?: { micros: number; currency: string };
  due: Due;
  zone: Zoned;
}

export type Judged = { goes: true; message: Planned } | { goes: false; why: LeftOut };

const WROTE_WITHIN = 30 * 86_400_000;

export const addressKey = ({ kind, scope, value }: Pick<PlanIdentity, 'kind' | 'scope' | 'value'>): string =>
  identityKey({ kind, scope, value });

/** The first channel over which they can be written to, or why none can: of the first on which they have an address. */
export function judge(facts: PlanFacts, person: PlanPerson): Judged {
  if (person.heldOut) return out({ code: 'held-out' });
  let first: LeftOut | undefined;
  for (const channel of facts.channels) {
    const judged = judgeOver(facts, person, channel);
    if (judged.goes) {
      const message = first?.channelId
        ? { ...judged.message, insteadOf: { channelId: first.channelId, code: first.code } }
        : judged.message;
      return { goes: true, message };
    }
    const why = { ...judged.why, channelId: channel.id };
    if (!first || (first.code === 'no-address' && why.code !== 'no-address')) first = why;
  }
  return out(first ?? { code: 'no-address' });
}

const out = (why: LeftOut): Judged => ({ goes: false, why });

function judgeOver(facts: PlanFacts, person: PlanPerson, channel: PlanChannel): Judged {
  const { message } = facts;
  const kind = channelKind(channel.kind);
  const scope = identityKind(kind.identity).perAccount ? channel.accountId : '';
  const identity = person.identities.find((each) => each.kind === kind.identity && each.scope === scope);
  if (!identity) return out({ code: 'no-address' });
  if (person.declined.has(kind.consent)) return out({ code: 'declined' });
  const stands = standsAgainst(facts, person, channel, identity);
  if (stands) return out(stands);
  const address = addressOf(identity);
  if (!address) return out({ code: 'address-invalid', said: identity.value });
  if (address.kind === 'fixed') return out({ code: 'landline', said: identity.value });
  const refused = refusedThere(facts, person, channel, address);
  if (refused) return out(refused);
  const said = sayingOf(facts, person, channel, address);
  if ('code' in said) return out(said);
  const telephone = identityKind(kind.identity).telephone;
  const measured = measureText(said.text);
  const zone = zoneOfPerson(person.zone, address.country, facts.zone);
  const due = facts.due(zone.zone, address.country);
  if (!due) return out({ code: 'time-passed', said: zone.zone });
  if (facts.validUntil !== undefined && due.at >= facts.validUntil) return out({ code: 'too-late' });
  if (facts.taken.has(addressKey(identity))) return out({ code: 'duplicate', said: identity.value });
  const to = telephone ? destinationOf(identity.value) : undefined;
  const price = to && priceOf(channel.prices, to, measured.parts.length);
  return {
    goes: true,
    message: {
      channelId: channel.id,
      identity: { kind: identity.kind, scope: identity.scope, value: identity.value },
      country: address.country,
      maybeLandline: address.kind === 'fixed-or-mobile',
      ...said,
      ...(message.subject && kind.subjects && !said.subject ? { subject: message.subject } : {}),
      encoding: measured.encoding,
      parts: telephone ? measured.parts.length : 1,
      ...(price ? { price: { micros: price.micros, currency: price.currency } } : {}),
      due,
      zone,
    },
  };
}

/** What of the person, the address and the channel alone speaks against it. */
function standsAgainst(
  { message, cap, now }: PlanFacts,
  person: PlanPerson,
  channel: PlanChannel,
  identity: PlanIdentity,
): LeftOut | undefined {
  const { consent } = channelKind(channel.kind);
  if (identity.doubted) return { code: 'address-doubted' };
  const agreed = identity.agreed.some(
    ({ way, account }) => way === consent && (account === '' || account === channel.accountId),
  );
  if (message.purpose === 'marketing' && !agreed) return { code: 'no-consent' };
  if (message.purpose === 'marketing' && cap && person.gotLately >= cap.most)
    return { code: 'cap-reached', said: `${person.gotLately} in ${cap.days} days` };
  if (!channel.sendsTexts) return { code: 'channel-cannot-send', said: `${channel.name} only receives` };
  const wrote = (person.lastWroteAt ?? 0) > now - WROTE_WITHIN;
  if (channel.purpose && forbids(channel.purpose, message.purpose, wrote))
    return { code: 'purpose-forbids', said: `${channel.name}: ${PURPOSES[channel.purpose].toLowerCase()}` };
  return undefined;
}

/** Marketing leaves from no number that people know for something else, and nothing but codes and tests from theirs. */
function forbids(purpose: NumberPurpose, message: BroadcastMessage['purpose'], wrote: boolean): boolean {
  if (purpose === 'tests') return true;
  if (purpose === 'one-time-codes') return message === 'marketing' || !wrote;
  return message === 'marketing' && purpose !== 'marketing';
}

/** As a number of the network; anything else is what it is. */
function addressOf({ kind, value }: PlanIdentity): Address | undefined {
  if (!identityKind(kind).telephone) return { value, kind: 'other', fictional: false };
  const known = normaliseAddress(value);
  return known.ok ? known.address : undefined;
}

/** What the provider, the country or the installation is known to refuse. */
function refusedThere(
  facts: PlanFacts,
  person: PlanPerson,
  channel: PlanChannel,
  { value, country }: Address,
): LeftOut | undefined {
  if (identityKind(channelKind(channel.kind).identity).telephone) {
    const to = destinationOf(value);
    const wrote = (person.lastWroteAt ?? 0) > facts.now - WROTE_WITHIN;
    const not = to && notAllowed(to, channel.destinations, wrote);
    if (not === 'costly') return { code: 'number-costly', said: (to && costlyKind(to.kind)) ?? undefined };
    if (not === 'country') return { code: 'destination-not-allowed', said: country };
    if (channel.senderName && country) {
      const carriage = nameCarriage(country);
      if (carriage === 'refused') return { code: 'sender-name-refused', said: country };
      if (carriage === 'registered' && !channel.registeredIn.includes(country))
        return { code: 'sender-name-unregistered', said: country };
    }
  }
  const foreseen = predictRefusal({
    now: facts.now,
    facts: channel.facts,
    requires: channel.requires,
    disabled: channel.disabled,
    recipient: { value, country },
    replyWindowHours: carriesTemplate(facts, channel) ? undefined : channel.replyWindowHours,
    lastInboundAt: person.wroteTo.get(channel.id),
  });
  return foreseen && foreseenAs(foreseen, channel);
}

function foreseenAs({ cause, said, subject }: Prediction, channel: PlanChannel): LeftOut {
  const words = [subject?.length === 2 ? countryName(subject) : undefined, said].filter(Boolean).join(': ');
  const more = words ? { said: words } : {};
  switch (cause) {
    case 'trial-unverified':
    case 'country-off':
    case 'registration-missing':
    case 'window-closed':
      return { code: cause, ...more };
    default:
      return { code: 'channel-cannot-send', said: channel.accountName };
  }
}

/** A platform's template goes over its own account only. */
function carriesTemplate({ template }: PlanFacts, channel: PlanChannel): boolean {
  return template?.accountId !== undefined && template.accountId === channel.accountId;
}

type Said = Pick<Planned, 'text' | 'subject' | 'choices' | 'template' | 'language' | 'otherLanguage'>;

function sayingOf(facts: PlanFacts, person: PlanPerson, channel: PlanChannel, address: Address): Said | LeftOut {
  const { template, message } = facts;
  const reads = person.language ?? languageOfCountry(address.country) ?? facts.language;
  const fits = template && (template.accountId === undefined || template.accountId === channel.accountId);
  if (fits) return ofTemplate(facts, template, person, channel, reads);
  if (template && message.text.trim() === '')
    return { code: 'channel-cannot-send', said: `${template.name} is not for ${channel.name}, and there is no text` };
  const merged = mergeText(message.text, recordOf(message, person));
  const [finding] = merged.findings;
  if (finding) return { code: 'value-missing', said: finding.problem };
  const text = merged.text.trim();
  if (text.length > channel.longestText) return { code: 'text-too-long', said: `${text.length} characters` };
  return offerChoices(text, message.choices, channel.choices, false);
}

/** What was ordered with a record says the record's values, and of each person what it does not name. */
const recordOf = ({ given }: BroadcastMessage, { record }: PlanPerson): PostedRecord =>
  given ? { ...record, ...given } : record;

function ofTemplate(
  { message, language }: PlanFacts,
  template: PlanTemplate,
  person: PlanPerson,
  channel: PlanChannel,
  reads: string | undefined,
): Said | LeftOut {
  if (template.unserved !== undefined || template.variants.length === 0)
    return { code: 'template-not-approved', said: template.unserved };
  const variant = variantFor(template.variants, reads ?? language) as Variant;
  const other = reads !== undefined && !sameLanguage(variant.language, reads);
  if (other && !message.anyLanguage) return { code: 'template-not-approved', said: reads };
  const mail = channelKind(channel.kind).subjects === true;
  const plain = template.accountId === undefined;
  const shown = plain && !mail ? { ...variant, header: undefined } : variant;
  const { values, findings } = mapValues(variablesOf(shown), message.template?.mapping ?? {}, {
    record: recordOf(message, person),
    attributes: person.attributes,
  });
  const rendered = plain ? renderPlain(shown, values, { mail }) : render(shown, values);
  const [finding] = [...findings, ...rendered.findings];
  if (finding) return { code: 'value-missing', said: finding.problem };
  if (rendered.text.length > channel.longestText)
    return { code: 'text-too-long', said: `${rendered.text.length} characters` };
  const offered =
    'choices' in rendered
      ? offerChoices(rendered.text, rendered.choices, channel.choices, false)
      : { text: rendered.text, choices: null };
  return {
    ...offered,
    ...('subject' in rendered && rendered.subject ? { subject: rendered.subject } : {}),
    ...(plain ? {} : { template: { variant, values, numbered: numberedValues(variant, values) } }),
    language: variant.language,
    ...(other ? { otherLanguage: reads } : {}),
  };
}
