/** Whether a text says yes or no to a reminder, in several languages, with words around it. */

const YES = [
  // en fr de sv nl es it pt pl da nb fi
  'yes',
  'yep',
  'yeah',
  'yup',
  'y',
  'ok',
  'okay',
  'sure',
  'confirm',
  'confirmed',
  'confirming',
  'fine',
  'oui',
  'ouais',
  'd accord',
  'confirme',
  'ja',
  'jawohl',
  'jo',
  'gerne',
  'passt',
  'absolut',
  'visst',
  'graag',
  'akkoord',
  'si',
  'claro',
  'vale',
  'confermo',
  'certo',
  'sim',
  'confirmo',
  'tak',
  'potwierdzam',
  'joo',
  'kylla',
];
const NO = [
  'no',
  'nope',
  'nah',
  'n',
  'cancel',
  'cancelled',
  'cancelling',
  'cannot',
  'can t',
  'cant',
  'won t',
  'wont',
  'unable',
  'non',
  'annuler',
  'annule',
  'impossible',
  'nein',
  'ne',
  'absagen',
  'leider',
  'nej',
  'avboka',
  'nee',
  'annuleren',
  'cancelar',
  'annullo',
  'nao',
  'nie',
  'odwoluje',
  'nei',
  'avbestill',
  'ei',
];
/** Phrases in which such a word means nothing, or the other thing. */
const PHRASES: [phrase: string, means: 'yes' | 'no' | 'nothing'][] = [
  ['no problem', 'yes'],
  ['no worries', 'yes'],
  ['pas de probleme', 'yes'],
  ['kein problem', 'yes'],
  ['geen probleem', 'yes'],
  ['sin problema', 'yes'],
  ['inga problem', 'yes'],
  ['not ok', 'no'],
  ['not sure', 'nothing'],
  ['ne pas', 'no'],
  ['yes or no', 'nothing'],
  ['ja tack nej', 'nothing'],
  ['can t confirm', 'no'],
  ['cannot confirm', 'no'],
];

/** A longer text is a letter and not an answer, unless it begins with one. */
const SHORT = 8;

/** Case, accents and punctuation count for nothing. Undefined when it says neither, or both. */
export function answerIn(text: string): 'yes' | 'no' | undefined {
  let words = ` ${text
    .normalize('NFKD')
    .replace(/\p{M}+/gu, '')
    .replace(/ł/gi, 'l')
    .replace(/ø/gi, 'o')
    .toLowerCase()
    .replace(/[^\p{L}\p{N}]+/gu, ' ')
    .trim()} `;
  if (/👍|✅|👌/u.test(text) && words.trim() === '') return 'yes';
  if (/👎|❌/u.test(text) && words.trim() === '') return 'no';
  const said = new Set<'yes' | 'no'>();
  for (const [phrase, means] of PHRASES) {
    if (!words.includes(` ${phrase} `)) continue;
    if (means !== 'nothing') said.add(means);
    words = words.replaceAll(` ${phrase} `, ' ');
  }
  const list = words.trim().split(' ').filter(Boolean);
  const looked = list.length > SHORT ? list.slice(0, 1) : list;
  const near = ` ${looked.join(' ')} `;
  if (YES.some((word) => near.includes(` ${word} `))) said.add('yes');
  if (NO.some((word) => near.includes(` ${word} `))) said.add('no');
  return said.size === 1 ? [...said][0] : undefined;
}
