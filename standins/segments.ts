/**
 * How a carrier counts a text (3GPP TS 23.038). Written apart from the product on
 * purpose: the two readings of the standard have to agree.
 */
const ONE_SEPTET = /^[@£$¥èéùìòÇ\nØø\rÅåΔ_ΦΓΛΩΠΨΣΘΞÆæßÉ !"#¤%&'()*+,\-./0-9:;<=>?¡A-ZÄÖÑÜ§¿a-zäöñüà]$/;
const TWO_SEPTETS = /^[\f^{}\\[~\]|€]$/;

export function describeText(text: string): { encoding: 'GSM-7' | 'UCS-2'; parts: number } {
  const costs = [...text].map((char) => (ONE_SEPTET.test(char) ? 1 : TWO_SEPTETS.test(char) ? 2 : 0));
  if (costs.includes(0)) {
    const clusters = [...new Intl.Segmenter().segment(text)].map(({ segment }) => segment.length);
    return { encoding: 'UCS-2', parts: count(clusters, 70, 67) };
  }
  return { encoding: 'GSM-7', parts: count(costs, 160, 153) };
}

function count(costs: number[], single: number, multiple: number): number {
  if (costs.reduce((sum, cost) => sum + cost, 0) <= single) return 1;
  let parts = 1;
  let room = multiple;
  for (const cost of costs) {
    if (cost > room) {
      parts += 1;
      room = multiple;
    }
    room -= Math.min(cost, multiple);
  }
  return parts;
}
