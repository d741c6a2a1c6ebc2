/** Whether an offer says how to get no more of them. */
import { countryName } from '../../addresses/display';
import { saysHowToLeave } from '../../consent/words';
import type { PartFinding } from '../finding';
import { type Variant, writtenParts } from '../template';
import { promotionalIn } from './category';

/** Where an offer must say how to opt out in the message itself, by law or by the networks' rules. */
const DEMANDED_IN = ['AU', 'CA', 'FR', 'GB', 'US'];

/** Of what is an offer by its words; `filed` as one, a platform may show its readers a way out of its own. */
export function leavingFindings(variant: Variant, { filed = false } = {}): PartFinding[] {
  const [offer] = promotionalIn(variant);
  if (!offer) return [];
  if (writtenParts(variant).some(({ text }) => saysHowToLeave(text))) return [];
  const where = DEMANDED_IN.map((code) => countryName(code)).join(', ');
  return [
    {
      part: 'body',
      code: 'opt-out-missing',
      severity: filed ? 'notice' : 'attention',
      problem: `“${offer.text}” makes it an offer, and it does not say how to get no more: that is demanded in ${where} and elsewhere.`,
      remedy: 'End it with how to opt out, such as “Reply STOP to get no more messages.”',
      ...(offer.part === 'body' ? { place: offer.place } : {}),
    },
  ];
}
