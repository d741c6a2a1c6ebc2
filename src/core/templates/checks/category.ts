/** Whether what is said is of the category it is said to be. */
import type { PartFinding } from '../finding';
import { type Button, CATEGORY_WORDS, type Category, placeholdersIn, type Variant, writtenParts } from '../template';

/** What offers and invites, by language. A phrase matches as whole words, whatever its case. */
const PROMOTIONAL: Record<string, string[]> = {
  en: [
    'offer',
    'offers',
    'discount',
    'discounts',
    'sale',
    'save up to',
    '% off',
    'per cent off',
    'deal',
    'deals',
    'free gift',
    'voucher',
    'coupon',
    'promo code',
    'buy now',
    'shop now',
    'order now',
    'limited time',
    'last chance',
    'exclusive',
    'special price',
    'half price',
    'bargain',
    'win',
    'prize',
    'don’t miss',
    "don't miss",
    'hurry',
    'newsletter',
    'upgrade now',
    'new collection',
    'join us',
    'introducing',
  ],
  sv: [
    'erbjudande',
    'rabatt',
    'rea',
    'spara upp till',
    'gratis',
    'rabattkod',
    'köp nu',
    'sista chansen',
    'exklusiv',
    'halva priset',
    'vinn',
    'missa inte',
    'nyhetsbrev',
  ],
  fr: [
    'offre',
    'offres',
    'remise',
    'réduction',
    'soldes',
    'promotion',
    'code promo',
    'gratuit',
    'achetez',
    'dernière chance',
    'exclusif',
    'moitié prix',
    'gagnez',
    'ne manquez pas',
    'profitez',
  ],
  de: [
    'angebot',
    'angebote',
    'rabatt',
    'rabatte',
    'sonderpreis',
    'gutschein',
    'gratis',
    'jetzt kaufen',
    'letzte chance',
    'exklusiv',
    'zum halben preis',
    'gewinnen sie',
    'nicht verpassen',
    'schnäppchen',
  ],
  nl: [
    'aanbieding',
    'korting',
    'uitverkoop',
    'kortingscode',
    'gratis',
    'koop nu',
    'laatste kans',
    'exclusief',
    'halve prijs',
    'win',
    'mis het niet',
  ],
  es: [
    'oferta',
    'ofertas',
    'descuento',
    'rebajas',
    'código promocional',
    'gratis',
    'compra ahora',
    'última oportunidad',
    'exclusivo',
    'mitad de precio',
    'gana',
    'no te pierdas',
  ],
};

/** English words that are names or words of other languages. */
const ELSEWHERE = new Set(['sale', 'win', 'deal', 'deals', 'prize', 'exclusive', 'coupon', 'reference']);

/** What tells of something that was agreed or is under way. */
const TRANSACTIONAL: Record<string, string[]> = {
  en: [
    'your booking',
    'your passage',
    'your order',
    'your appointment',
    'your mooring',
    'is booked',
    'is confirmed',
    'confirmed for',
    'has been received',
    'your payment',
    'your invoice',
    'reminder of your',
    'your ticket',
    'reference',
    'is due',
  ],
  sv: ['din bokning', 'är bokad', 'bekräftad', 'din beställning', 'din betalning', 'din faktura', 'ditt ärende'],
  fr: ['votre réservation', 'est réservé', 'est confirmé', 'votre commande', 'votre paiement', 'votre facture'],
  de: ['ihre buchung', 'ist gebucht', 'bestätigt', 'ihre bestellung', 'ihre zahlung', 'ihre rechnung'],
  nl: ['uw boeking', 'is geboekt', 'bevestigd', 'uw bestelling', 'uw betaling', 'uw factuur'],
  es: ['su reserva', 'está reservado', 'confirmado', 'su pedido', 'su pago', 'su factura'],
};

export function categoryFindings(category: Category, variant: Variant): PartFinding[] {
  if (category === 'one-time-code') return codeFindings(variant);
  const offers = promotionalIn(variant);
  if (category === 'transactional') {
    return offers.map(({ part, text, place }) => ({
      part,
      code: 'category-promotional-words',
      severity: 'error' as const,
      problem: `“${text}” makes it an offer, and it is filed as transactional: ${CATEGORY_WORDS.transactional}.`,
      remedy: 'Leave the offer out, or file it as promotional.',
      place,
    }));
  }
  const [told] = offers.length === 0 ? phrasesIn(variant, TRANSACTIONAL) : [];
  if (!told) return [];
  return [
    {
      part: 'category',
      code: 'category-transactional-words',
      severity: 'attention',
      problem: `It is filed as promotional and offers nothing; “${told.text}” tells of something the person has with you.`,
      remedy: 'File it as transactional: that costs less and reaches people who take no offers.',
    },
  ];
}

/** A one-time code says the code, what it is for, and nothing that could lead away. */
function codeFindings(variant: Variant): PartFinding[] {
  const findings: PartFinding[] = [];
  const variables = placeholdersIn(variant.body);
  const add = (
    part: PartFinding['part'],
    code: string,
    problem: string,
    remedy: string,
    place?: PartFinding['place'],
  ) => findings.push({ part, code, severity: 'error', problem, remedy, place });
  const [, second] = variables;
  if (variables.length === 0)
    add('body', 'code-absent', 'There is no variable for the code.', 'Insert one, such as {{ code }}.');
  if (second)
    add('body', 'code-variables', 'A one-time code has one variable: the code.', 'Take out the others.', {
      from: second.from,
      to: second.to,
    });
  if (variant.header && variant.header.kind !== 'text')
    add('header', 'code-media', 'A one-time code comes without a file.', 'Leave the header out.');
  for (const { part, text } of writtenParts(variant)) {
    const link = /\b(?:https?:\/\/|www\.)\S+/i.exec(text);
    if (link)
      add(part, 'code-link', 'A one-time code leads nowhere.', 'Take out the link.', {
        from: link.index,
        to: link.index + link[0].length,
      });
  }
  const odd = variant.buttons.findIndex((button: Button) => button.kind !== 'link');
  if (odd >= 0) add(`button-${odd}-label`, 'code-button', 'A one-time code has no such button.', 'Take it out.');
  return findings;
}

/** What in it offers or invites, in the order of its parts. */
export const promotionalIn = (variant: Variant): Phrase[] => phrasesIn(variant, PROMOTIONAL);

export interface Phrase {
  part: PartFinding['part'];
  text: string;
  place: { from: number; to: number };
}

function phrasesIn(variant: Variant, lists: Record<string, string[]>): Phrase[] {
  const language = variant.language.toLowerCase().split('-')[0] ?? '';
  // English catchwords are understood as offers in any language, but for those that mean something else there.
  const english = language === 'en' ? [] : (lists.en ?? []).filter((phrase) => !ELSEWHERE.has(phrase));
  const list = [...(lists[language] ?? []), ...english];
  const found: Phrase[] = [];
  for (const { part, text } of writtenParts(variant)) {
    if (part.endsWith('-target')) continue;
    for (const phrase of list) {
      const start = /^[\p{L}\p{N}]/u.test(phrase) ? '(?<![\\p{L}\\p{N}])' : '';
      for (const match of text.matchAll(new RegExp(`${start}${escaped(phrase)}(?![\\p{L}\\p{N}])`, 'giu'))) {
        const place = { from: match.index, to: match.index + match[0].length };
        // The longest phrase at a place says it all.
        if (found.some((other) => other.part === part && other.place.from <= place.from && other.place.to >= place.to))
          continue;
        found.push({ part, text: match[0], place });
      }
    }
  }
  return found.sort((a, b) => (a.part === b.part ? a.place.from - b.place.from : 0));
}

function escaped(text: string): string {
  return text.replace(/[.*+?^${}()|[\]\\]/g, '\\$&');
}
