/** What characters cost in a text that goes out as SMS. */
import { measureText } from '../../text/measure';
import { substituteSafely } from '../../text/substitutes';
import type { PartFinding } from '../finding';
import { asOneText } from '../render';
import type { Variant } from '../template';

/** Points at each character of the body that forces the costlier encoding, if it costs a part. */
export function costFindings(variant: Variant): PartFinding[] {
  const { forcing } = measureText(variant.body);
  if (forcing.length === 0) return [];
  const sample = { ...variant, samples: {} };
  const filled = (body: string) => asOneText({ ...sample, body }, variant.samples);
  const now = measureText(filled(variant.body)).parts.length;
  // What remains counts as plain letters, to see what they alone cost.
  const plain = substituteSafely(variant.body).replace(/[^\n\r -~£¥èéùìòÇØøÅåÆæßÉÄÖÑÜ§¿äöñüà€¡]/gu, 'x');
  const could = measureText(filled(plain)).parts.length;
  if (could >= now) return [];
  return forcing.map(({ char, at, substitute }) => {
    const place = { from: at, to: at + char.length };
    return {
      part: 'body',
      code: 'costlier-encoding',
      severity: 'attention',
      problem: `“${char}” turns ${could === 1 ? 'one part' : `${could} parts`} into ${now}: every character then takes 16 bits.`,
      remedy: substitute === undefined ? 'Say it without this character.' : `Use “${substitute}”.`,
      place,
      ...(substitute === undefined
        ? {}
        : { fix: { label: `Use “${substitute}”`, edit: { ...place, write: substitute } } }),
    };
  });
}
