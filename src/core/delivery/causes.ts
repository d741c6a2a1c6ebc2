/**
 * The causes catalogue: every reason Windgap can give for something not working, in
 * plain words, with the remedy. Connector profiles map a provider's own codes to these;
 * nothing else in the product words a failure.
 */
import { APPS_CAUSES } from './catalogue/apps';
import { CREDENTIALS_CAUSES } from './catalogue/credentials';
import { DELIVERY_CAUSES } from './catalogue/delivery';
import { PATHS_CAUSES } from './catalogue/paths';
import { RECEIVING_CAUSES } from './catalogue/receiving';
import { RECORDS_CAUSES } from './catalogue/records';
import { SENDING_CAUSES } from './catalogue/sending';
import { TEMPLATES_CAUSES } from './catalogue/templates';
import type { Cause } from './cause';

const CATALOGUE = {
  ...CREDENTIALS_CAUSES,
  ...SENDING_CAUSES,
  ...DELIVERY_CAUSES,
  ...RECEIVING_CAUSES,
  ...APPS_CAUSES,
  ...RECORDS_CAUSES,
  ...TEMPLATES_CAUSES,
  ...PATHS_CAUSES,
} satisfies Record<string, Cause>;

export type CauseCode = keyof typeof CATALOGUE;

export function cause(code: CauseCode): Cause {
  return CATALOGUE[code];
}

export function isCauseCode(code: string | null | undefined): code is CauseCode {
  return typeof code === 'string' && Object.hasOwn(CATALOGUE, code);
}

export function causeCodes(): CauseCode[] {
  return Object.keys(CATALOGUE) as CauseCode[];
}
