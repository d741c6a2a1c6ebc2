/** The filter of recipients as it stands in an address. */
import type { RecipientFilter } from '../../../../../operations/broadcasts';

type Given = Readonly<Record<string, string | string[] | undefined>>;

const one = (value: string | string[] | undefined): string | undefined =>
  (Array.isArray(value) ? value[0] : value)?.replaceAll('\u0000', '').slice(0, 200) || undefined;

export function readRecipientFilter(given: Given): RecipientFilter {
  return {
    show: one(given.show),
    reason: one(given.reason),
    country: one(given.country),
    channel: one(given.channel),
    pressed: one(given.pressed),
    find: one(given.find),
  };
}
