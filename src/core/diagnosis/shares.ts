/**
 * How much more or less often causes are behind a symptom than was set by hand: fitted on one part of the cases in
 * `tests/calibration/cases.json`, and scored on the other. Written by `npm run fit`.
 */
import type { Symptom } from './symptoms';

export const FITTED: Readonly<Record<string, Partial<Record<Symptom, number>>>> = {
  'account/country-off': {
    'only-some': 0.94,
  },
  'account/credential-refused': {
    'nothing-arrives': 0.33,
  },
  'address/door-unreachable': {
    'replies-missing': 0.95,
  },
  'address/fallback-empty': {
    'replies-missing': 0.76,
  },
  'address/inbound-method': {
    'replies-missing': 1.3,
    'worked-before': 1.1,
  },
  'address/number-moved': {
    'replies-missing': 1.1,
  },
  'address/provider-silent': {
    'replies-missing': 1.6,
  },
  'address/signature-missing': {
    'replies-missing': 0.67,
  },
  'address/wrote-elsewhere': {
    'replies-missing': 0.95,
  },
  'app/app-unreachable': {
    'app-silent': 1.5,
  },
  'asked/automation-off': {
    'app-cannot-send': 0.9,
  },
  'asked/call-key-unknown': {
    'app-cannot-send': 0.94,
  },
  'asked/key-expired': {
    'app-cannot-send': 1.1,
    'worked-before': 1.1,
  },
  'asked/never-asked': {
    'app-cannot-send': 3,
  },
  'asked/values-missing': {
    'arrives-wrong': 1.3,
  },
  'network/handset-unreachable': {
    'nothing-arrives': 0.94,
  },
  'network/network-repeats': {
    'arrives-twice': 1.2,
  },
  'network/phone-hides': {
    'nothing-arrives': 2,
    'only-some': 0.83,
  },
  'network/trunk-alphabet': {
    'arrives-wrong': 0.88,
  },
  'outbox/opted-out': {
    'only-some': 0.71,
  },
  'outbox/provider-unreachable': {
    'nothing-arrives': 1.1,
    'only-some': 1.2,
  },
  'outbox/template-not-submitted': {
    'app-cannot-send': 1.2,
  },
  rest: {
    'app-cannot-send': 0.49,
    'nothing-arrives': 0.77,
    'only-some': 0.87,
    'worked-before': 0.9,
  },
  'route/draft-unpublished': {
    'replies-missing': 0.67,
  },
  'route/no-route': {
    'replies-missing': 1.9,
  },
  'unlisted-account': {
    'app-cannot-send': 0.94,
    'nothing-arrives': 1.4,
    'only-some': 0.6,
    'worked-before': 0.78,
  },
  'unlisted-address': {
    'nothing-arrives': 0.9,
    'only-some': 0.95,
    'worked-before': 0.92,
  },
  'unlisted-app': {
    'app-silent': 0.75,
    'replies-missing': 0.93,
    'worked-before': 0.77,
  },
  'unlisted-asked': {
    'app-cannot-send': 0.33,
    'arrives-wrong': 0.78,
    'nothing-arrives': 0.77,
    'only-some': 0.77,
    'worked-before': 0.75,
  },
  'unlisted-network': {
    'arrives-twice': 0.87,
    'arrives-wrong': 1.1,
    'nothing-arrives': 2.4,
    'only-some': 3,
    'worked-before': 3,
  },
  'unlisted-outbox': {
    'app-cannot-send': 0.91,
    'nothing-arrives': 1.1,
    'only-some': 0.45,
    'worked-before': 0.8,
  },
  'unlisted-route': {
    'app-silent': 0.9,
    'replies-missing': 0.92,
    'worked-before': 0.88,
  },
};
