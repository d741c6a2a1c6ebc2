/**
 * What is known beforehand to be refused, so that it is said before anything is sent.
 * Absent facts predict nothing: a provider that does not tell is asked by sending.
 */
import type { CauseCode } from '../delivery/causes';
import type { AccountFacts, Requirements } from './facts';

export interface SendingPlan {
  now: number;
  facts: AccountFacts;
  requires: Requirements;
  disabled: boolean;
  recipient: { value: string; country?: string };
  /** Hours of free text after the contact's last message, where the platform has such a rule. */
  replyWindowHours?: number;
  lastInboundAt?: number;
}

export interface Prediction {
  cause: CauseCode;
  said?: string;
  subject?: string;
}

export function predictRefusal(plan: SendingPlan): Prediction | undefined {
  const { facts, recipient } = plan;
  const { country } = recipient;
  if (plan.disabled) return { cause: 'account-disabled' };
  if (facts.expiresAt !== undefined && facts.expiresAt <= plan.now) return { cause: 'credential-expired' };
  if (facts.trial && facts.verifiedPhones && !facts.verifiedPhones.includes(recipient.value))
    return { cause: 'trial-unverified', subject: recipient.value };
  if (country && facts.countries && !facts.countries.includes(country))
    return { cause: 'country-off', subject: country };
  const missing = country ? missingRegistration(facts, plan.requires, country) : undefined;
  if (missing) return { cause: 'registration-missing', subject: country, said: missing };
  return closedWindow(plan);
}

/** What is missing of a country's registration, in words; undefined when nothing is. */
export function missingRegistration(facts: AccountFacts, requires: Requirements, country: string): string | undefined {
  if (!requires.registrationCountries.includes(country) || !facts.registrations) return undefined;
  const registration = facts.registrations.find((entry) => entry.country === country);
  if (!registration) return 'nothing is registered';
  for (const step of ['brand', 'use'] as const) {
    if (registration[step] === 'approved') continue;
    const what = step === 'brand' ? 'the brand' : 'the campaign use';
    const reason = registration.reason ? `: ${registration.reason}` : '';
    return registration[step] === 'none'
      ? `${what} is not registered`
      : `${what} is ${registration[step]}${registration[step] === 'rejected' ? reason : ''}`;
  }
  return undefined;
}

function closedWindow(plan: SendingPlan): Prediction | undefined {
  if (plan.replyWindowHours === undefined) return undefined;
  const closes = windowClosesAt(plan.replyWindowHours, plan.lastInboundAt);
  if (closes !== undefined && closes > plan.now) return undefined;
  if (plan.lastInboundAt === undefined) return { cause: 'window-closed', said: 'this contact has never written here' };
  const hours = Math.floor((plan.now - plan.lastInboundAt) / 3_600_000);
  return { cause: 'window-closed', said: `the last message came ${hours} hours ago` };
}

/** Epoch milliseconds at which free text ends; undefined while a contact has never written. */
export function windowClosesAt(hours: number, lastInboundAt: number | undefined): number | undefined {
  return lastInboundAt === undefined ? undefined : lastInboundAt + hours * 3_600_000;
}
