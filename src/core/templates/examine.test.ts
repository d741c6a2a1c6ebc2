import { describe, expect, test } from 'vitest';
import { detectLanguage } from '../text/language';
import { examinePlain, examineTemplate, type Surroundings } from './examine';
import type { TemplateFinding } from './finding';
import type { TemplateRules } from './rules';
import {
  type Button,
  type Category,
  type Header,
  placeholdersIn,
  type Template,
  type Variant,
  writtenParts,
} from './template';

const RULES: TemplateRules = {
  name: {
    pattern: '[a-z][a-z0-9-]*',
    words: 'small letters, digits and hyphens, beginning with a letter',
    longest: 40,
  },
  categories: ['transactional', 'promotional', 'one-time-code'],
  header: {
    kinds: ['text', 'image', 'document'],
    longest: 60,
    mostVariables: 1,
    media: {
      image: { types: ['image/jpeg', 'image/png'], mostBytes: 2_000_000 },
      document: { types: ['application/pdf'], mostBytes: 10_000_000 },
    },
  },
  body: {
    longest: 400,
    mostVariables: 4,
    variableAtEdge: false,
    variablesAdjacent: false,
    wordsPerVariable: 3,
    mostLineBreaks: 2,
  },
  footer: { longest: 60 },
  buttons: { most: 3, mostOf: { link: 2, call: 1, 'quick-reply': 3 }, longestLabel: 20 },
  links: { secureOnly: true, shorteners: ['sho.example'] },
};

interface Case {
  name?: string;
  category?: Category;
  language?: string;
  header?: Header;
  body?: string;
  footer?: string;
  buttons?: Button[];
  samples?: Record<string, string>;
  around?: Surroundings;
}

const GOOD = 'Your passage through the lock is booked for {{ time }} today.';
const link = (label: string, target: string): Button => ({ kind: 'link', label, target });
const quick = (label: string): Button => ({ kind: 'quick-reply', label });
const call = (label: string, target: string): Button => ({ kind: 'call', label, target });
const text = (words: string): Header => ({ kind: 'text', text: words });
const picture = (type: string, bytes = 1000): Header => ({
  kind: 'image',
  media: { id: 'fil_1', name: 'gate.png', type, bytes },
});
const times = (count: number, word: string) => Array.from({ length: count }, () => word).join(' ');

/** Samples of the right kind, unless the case gives its own. */
const SAMPLES: Record<string, string> = {
  time: '14:30',
  date: '3 May',
  amount: '£12.50',
  phone: '+447700900123',
  url: 'https://w.example/1',
};

/**
 * Each case: what differs from a good template, with « and » around every place that is to
 * be found, in the order read; and the rules that find them. A rule with ! finds no place in a text.
 */
const CASES: [what: string, differs: Case, rules: string[]][] = [
  // Nothing to say.
  ['a good one', {}, []],
  ['words only', { body: 'The towpath at Heron Bridge is closed until Friday.' }, []],
  [
    'three variables',
    {
      body: 'Dear {{ name }}, your passage through {{ lock }} is booked for {{ time }} today, see you soon. This was agreed with the keeper of the lock and with the harbour office on your behalf.',
    },
    [],
  ],
  ['a header with one variable', { header: text('Passage at {{ lock }}') }, []],
  ['a picture', { header: picture('image/png') }, []],
  ['a picture just as large as allowed', { header: picture('image/jpeg', 2_000_000) }, []],
  [
    'a document',
    { header: { kind: 'document', media: { id: 'fil_1', name: 'plan.pdf', type: 'application/pdf', bytes: 9 } } },
    [],
  ],
  ['a footer', { footer: 'Mossgate Waterways' }, []],
  ['a footer just as long as allowed', { footer: 'x'.repeat(60) }, []],
  ['a link with the variable at its end', { buttons: [link('See it', 'https://m.example/p/{{ passage }}')] }, []],
  [
    'a link whose query ends in the variable',
    { buttons: [link('See it', 'https://m.example/p?id={{ passage }}')] },
    [],
  ],
  ['a call button', { buttons: [call('Ring us', '+442079460114')] }, []],
  ['a call button spaced for reading', { buttons: [call('Ring us', '+44 20 7946 0114')] }, []],
  ['three quick replies', { buttons: [quick('Yes'), quick('No'), quick('Later')] }, []],
  ['quick replies before a link', { buttons: [quick('Yes'), quick('No'), link('Map', 'https://m.example')] }, []],
  ['quick replies after a link', { buttons: [link('Map', 'https://m.example'), quick('Yes'), quick('No')] }, []],
  ['a link in the body', { body: 'Your passage is booked, see https://m.example/passages for the rest.' }, []],
  ['two line breaks', { body: 'Your passage is booked.\n\nSee you soon.' }, []],
  ['one exclamation mark', { body: 'Your passage is booked. See you soon!' }, []],
  ['an abbreviation in capitals', { body: 'Your BST passage at the lock is booked for today.' }, []],
  ['three pictures', { body: 'Your passage is booked ⛵ and paid 💷 for today 🌞 as agreed.' }, []],
  [
    'an offer filed as one',
    { category: 'promotional', body: 'An offer for boaters: moorings at half price. Reply STOP to get no more.' },
    [],
  ],
  [
    'a code',
    { category: 'one-time-code', body: 'Your code for Mossgate Waterways is {{ code }} and is good for ten minutes.' },
    [],
  ],
  ['“offered” is no offer', { body: 'Your passage through the lock is now offered at noon.' }, []],
  [
    'a sale in another language is no sale',
    { language: 'sv', body: 'Din slussning i Sale är bokad till klockan {{ time }} idag.' },
    [],
  ],
  ['“win” within a word', { body: 'Your passage is booked, mind the wind and the winch.' }, []],
  [
    'Swedish as Swedish',
    {
      language: 'sv',
      body: 'Din slussning är bokad till klockan {{ time }} idag.',
      around: { detect: detectLanguage },
    },
    [],
  ],
  [
    'Norwegian as Bokmål',
    {
      language: 'nb',
      body: 'Slusepassasjen din er booket til klokka {{ time }} i dag.',
      around: { detect: detectLanguage },
    },
    [],
  ],
  [
    'Brazilian Portuguese',
    {
      language: 'pt-BR',
      body: 'A sua passagem pela eclusa está reservada para {{ time }} hoje.',
      around: { detect: detectLanguage },
    },
    [],
  ],
  ['too short to tell its language', { language: 'sv', body: 'OK, tack!', around: { detect: detectLanguage } }, []],
  [
    'unlike what was rejected',
    { around: { rejected: [{ name: 'old', body: 'Win a free week at the harbour now.', reason: 'x' }] } },
    [],
  ],
  [
    'a date in words',
    { body: 'Your passage is booked for {{ date }} at the lock.', samples: { date: 'tomorrow' } },
    [],
  ],
  [
    'an amount as a number',
    { body: 'Your mooring of {{ amount }} is due by Friday.', samples: { amount: '12.50' } },
    [],
  ],
  ['a brace in words', { body: 'Your passage is booked {see the board} for today.' }, []],
  // The name.
  ['no name', { name: '' }, ['name-empty!']],
  ['capitals in the name', { name: '«Passage»' }, ['name-not-allowed']],
  ['a space in the name', { name: '«passage booked»' }, ['name-not-allowed']],
  ['an underscore in the name', { name: '«passage_booked»' }, ['name-not-allowed']],
  ['a digit first in the name', { name: '«2nd-passage»' }, ['name-not-allowed']],
  ['a letter with an accent in the name', { name: '«écluse»' }, ['name-not-allowed']],
  ['a name too long by two', { name: `${'a'.repeat(40)}«aa»` }, ['name-too-long']],
  ['a name that is taken', { name: '«passage-booked»', around: { taken: ['passage-booked'] } }, ['name-taken']],
  // Languages.
  ['no such language', { language: 'xx-notone' }, ['language-unknown!']],
  ['a language by its name', { language: 'english' }, ['language-unknown!']],
  ['English as Swedish', { language: 'sv', around: { detect: detectLanguage } }, ['language-differs!']],
  [
    'Swedish as English',
    { body: 'Din slussning är bokad till klockan {{ time }} idag.', around: { detect: detectLanguage } },
    ['language-differs!'],
  ],
  [
    'French as German',
    {
      language: 'de',
      body: 'Votre passage à l’écluse est prévu pour {{ time }} ce jour.',
      around: { detect: detectLanguage },
    },
    ['language-differs!'],
  ],
  [
    'Dutch as English',
    { body: 'Uw doorvaart door de sluis staat genoteerd om {{ time }} uur.', around: { detect: detectLanguage } },
    ['language-differs!'],
  ],
  [
    'Arabic as English',
    { body: 'تم حجز مرورك عبر القفل الشمالي في الساعة {{ time }} اليوم', around: { detect: detectLanguage } },
    ['language-differs!'],
  ],
  // The header.
  ['an empty header', { header: text(' ') }, ['header-empty!']],
  ['a header too long by one', { header: text(`${'x'.repeat(60)}«x»`) }, ['header-too-long']],
  ['two variables in the header', { header: text('{{ lock }} at «{{ time }}»') }, ['header-variables']],
  ['a header of two lines', { header: text('Passage«\n»booked') }, ['header-line-break']],
  ['no picture chosen', { header: { kind: 'image' } }, ['header-media-missing!']],
  ['a picture of a type not taken', { header: picture('image/webp') }, ['header-media-type!']],
  ['a document where a picture belongs', { header: picture('application/pdf') }, ['header-media-type!']],
  ['a file of no known type', { header: picture('') }, ['header-media-type!']],
  ['a picture too large by one', { header: picture('image/png', 2_000_001) }, ['header-media-too-large!']],
  ['a film where none is taken', { header: { kind: 'video' } }, ['header-kind-not-offered!']],
  // The body.
  ['an empty body', { body: '' }, ['body-empty!']],
  ['a body of spaces', { body: ' \n ' }, ['body-empty!']],
  ['a body too long by three', { body: `${'x'.repeat(400)}«xxx»` }, ['body-too-long']],
  ['a variable first', { body: '«{{ name }}», your passage through the lock is booked.' }, ['variable-at-start']],
  [
    'a variable after a quotation mark first',
    { body: '“«{{ name }}»” is the boat you booked for.' },
    ['variable-at-start'],
  ],
  ['a variable last', { body: 'Your passage through the lock is at «{{ time }}»' }, ['variable-at-end']],
  [
    'a variable before the last full stop',
    { body: 'Your passage through the lock is at «{{ time }}».' },
    ['variable-at-end'],
  ],
  ['a variable alone', { body: '«{{ what }}»' }, ['variable-at-start', 'variable-at-end@0', 'words-too-few@0']],
  [
    'two variables side by side',
    {
      body: 'Your passage is booked for «{{ date }} {{ time }}» at the lock. This was agreed with the keeper of the lock and with the harbour office on your behalf.',
    },
    ['variables-adjacent'],
  ],
  [
    'two variables with a comma between',
    {
      body: 'Dear «{{ name }}, {{ title }}» of the boat, your passage is booked. This was agreed with the keeper of the lock and with the harbour office on your behalf.',
    },
    ['variables-adjacent'],
  ],
  [
    'three side by side',
    {
      body: 'We booked all of this «{{ a }} {{ b }}» {{ c }} for you at the lock today. This was agreed with the keeper of the lock and with the harbour office on your behalf.',
    },
    ['variables-adjacent', 'variables-adjacent@30-45'],
  ],
  [
    'a fifth variable',
    {
      body: `We note {{ a }} and then {{ b }} and then {{ c }} and then {{ d }} and then «{{ e }}» ${times(12, 'evidently')}.`,
    },
    ['variables-too-many'],
  ],
  [
    'one variable five times',
    {
      body: `We note {{ a }} and then {{ a }} and then {{ a }} and then {{ a }} and then {{ a }} ${times(12, 'evidently')}.`,
    },
    [],
  ],
  ['two words for a variable', { body: '«Dear {{ name }} hello»' }, ['words-too-few']],
  ['five words for two variables', { body: '«Dear {{ name }} your {{ boat }} is booked»' }, ['words-too-few']],
  [
    'six words for two variables',
    {
      body: 'Dear {{ name }} your {{ boat }} is booked for today This was agreed with the keeper of the lock and with the harbour office on your behalf.',
    },
    [],
  ],
  ['three line breaks', { body: 'Your passage is booked.«\n\n\n»See you soon.' }, ['line-breaks']],
  ['line breaks with spaces between', { body: 'Your passage is booked.«\n \n \n»See you soon.' }, ['line-breaks']],
  ['four spaces', { body: 'Your passage«    »is booked for today.' }, ['spaces-in-a-row']],
  ['a tab and three spaces', { body: 'Your passage«\t   »is booked for today.' }, ['spaces-in-a-row']],
  // What looks like a variable.
  [
    'a variable with a space in its name',
    { body: 'Your passage with «{{ boat name }}» is booked for today.' },
    ['token-broken'],
  ],
  ['a variable in capitals', { body: 'Your passage with «{{ BOAT }}» is booked for today.' }, ['token-broken']],
  ['a variable with one brace', { body: 'Your passage with «{boat}» is booked for today.' }, ['token-broken']],
  ['a variable not closed', { body: 'Your passage with «{{ boat» is booked' }, ['token-broken']],
  ['a variable closed once', { body: 'Your passage with «{{ boat }» is booked for today.' }, ['token-broken']],
  ['a number for a variable', { body: 'Your passage with «{{1}}» is booked for today.' }, ['token-broken']],
  ['percent signs', { body: 'Your passage with «%boat%» is booked for today.' }, ['token-broken']],
  ['pointed brackets', { body: 'Your passage with «<<boat>>» is booked for today.' }, ['token-broken']],
  ['square brackets', { body: 'Your passage with «[[boat]]» is booked for today.' }, ['token-broken']],
  ['a placeholder in the footer', { footer: 'With regards, «%sender%»' }, ['token-broken']],
  ['a statement', { body: 'Your passage «{% if late %}» is booked for today.' }, ['token-broken']],
  // The footer.
  ['an empty footer', { footer: '' }, ['footer-empty!']],
  ['a footer too long by one', { footer: `${'x'.repeat(60)}«x»` }, ['footer-too-long']],
  ['a variable in the footer', { footer: 'Regards, «{{ sender }}»' }, ['footer-variable']],
  // Buttons.
  [
    'a fourth button',
    { buttons: [quick('A'), quick('B'), quick('C'), link('D', 'https://m.example')] },
    ['buttons-too-many!'],
  ],
  [
    'a third link',
    { buttons: ['a', 'b', 'c'].map((letter) => link(letter, `https://m.example/${letter}`)) },
    ['buttons-of-a-kind!'],
  ],
  [
    'a second call',
    { buttons: [call('Day', '+442079460114'), call('Night', '+442079460115')] },
    ['buttons-of-a-kind!'],
  ],
  [
    'a link between quick replies',
    { buttons: [quick('A'), link('Map', 'https://m.example'), quick('B')] },
    ['buttons-mixed!'],
  ],
  ['a button without a label', { buttons: [quick('')] }, ['label-empty!']],
  ['a label too long by one', { buttons: [quick(`${'x'.repeat(20)}«x»`)] }, ['label-too-long']],
  ['a variable in a label', { buttons: [quick('Yes, «{{ boat }}»')] }, ['label-variable']],
  ['a label twice', { buttons: [quick('Yes'), quick('«yes»')] }, ['label-twice']],
  ['a link without a scheme', { buttons: [link('Map', '«m.example/map»')] }, ['link-malformed']],
  ['a link that is none', { buttons: [link('Map', '«our website»')] }, ['link-malformed']],
  ['a mail address as a link', { buttons: [link('Write', '«mailto:a@m.example»')] }, ['link-malformed']],
  ['a link that is not https', { buttons: [link('Map', '«http://m.example»')] }, ['link-not-secure']],
  ['a shortened link', { buttons: [link('Map', '«https://sho.example/x1»')] }, ['link-shortened']],
  [
    'a variable inside a link',
    { buttons: [link('Map', 'https://m.example/«{{ lock }}»/map')] },
    ['link-variable-inside'],
  ],
  [
    'two variables in a link',
    { buttons: [link('Map', 'https://m.example/{{ lock }}/«{{ day_code }}»')] },
    ['link-variables'],
  ],
  ['a variable site', { buttons: [link('Map', 'https://«{{ site }}»/map')] }, ['link-variable-host']],
  ['a national number to call', { buttons: [call('Ring', '«020 7946 0114»')] }, ['call-number-wrong']],
  ['letters to call', { buttons: [call('Ring', '«LOCK»')] }, ['call-number-wrong']],
  // Links in the text.
  [
    'a link in the body that is not https',
    { body: 'Your passage is booked, see «http://m.example/p» for more.' },
    ['link-not-secure'],
  ],
  [
    'a shortened link in the body',
    { body: 'Your passage is booked, see «https://sho.example/x1», please.' },
    ['link-shortened'],
  ],
  [
    'a variable site in the body',
    { body: 'Your passage is booked, see https://«{{ site }}»/p for all of it.' },
    ['link-variable-host'],
  ],
  // The manner.
  ['shouting', { body: '«YOUR PASSAGE THROUGH THE LOCK» is booked for today.' }, ['shouting']],
  ['two exclamation marks', { body: 'Your passage is booked«!!» See you soon.' }, ['exclaiming']],
  ['a question and an exclamation', { body: 'Was your passage booked«?!» See you soon.' }, ['exclaiming']],
  ['five pictures', { body: 'Your passage ⛵ is 💷 booked 🌞 for «🌊 today 🐟» as agreed.' }, ['pictures-many']],
  [
    'a card number asked for',
    { body: 'Your passage is booked, reply with your «card number» to pay.' },
    ['secret-asked'],
  ],
  [
    'a password asked for in Swedish',
    { language: 'sv', body: 'Din slussning är bokad, svara med ditt «lösenord» nu.' },
    ['secret-asked'],
  ],
  [
    'a code may be called a passcode',
    { category: 'one-time-code', body: 'Your passcode for Mossgate is {{ code }} and is good for ten minutes.' },
    [],
  ],
  ['little around two variables', { body: '«At {{ time }} we go to {{ lock }}, so be on time.»' }, ['variables-dense']],
  // The category.
  [
    'an English catchword in Swedish',
    { language: 'sv', body: 'Din slussning är bokad, se vårt «newsletter» för mer.' },
    ['category-promotional-words'],
  ],
  [
    'a discount in a transactional one',
    { body: 'Your passage is booked, with a «discount» for the next.' },
    ['category-promotional-words'],
  ],
  [
    'a discount by its sign',
    { body: 'Your passage is booked, now with 20«% off» the next.' },
    ['category-promotional-words'],
  ],
  [
    'two offers in one',
    { body: '«Last chance» for the «sale» of moorings at the harbour.' },
    ['category-promotional-words', 'category-promotional-words'],
  ],
  ['an offer on a button', { buttons: [link('«Shop now»', 'https://m.example')] }, ['category-promotional-words']],
  [
    'an offer in Swedish',
    { language: 'sv', body: 'Din slussning är bokad, med «rabatt» på nästa.' },
    ['category-promotional-words'],
  ],
  [
    'an offer in German',
    { language: 'de', body: 'Ihre Schleusung ist gebucht. Ein «Gutschein» liegt bereit.' },
    ['category-promotional-words'],
  ],
  ['a booking filed as an offer', { category: 'promotional' }, ['category-transactional-words!']],
  [
    'a code without a variable',
    { category: 'one-time-code', body: 'Your code for Mossgate Waterways is on its way.' },
    ['code-absent!'],
  ],
  [
    'a code and a name',
    {
      category: 'one-time-code',
      body: 'Your code is {{ code }} dear «{{ name }}» and good for ten minutes. This was agreed with the keeper of the lock and with the harbour office on your behalf.',
    },
    ['code-variables'],
  ],
  [
    'a code with a link',
    { category: 'one-time-code', body: 'Your code is {{ code }} and can be used at «https://m.example» today.' },
    ['code-link'],
  ],
  [
    'a code with a picture',
    {
      category: 'one-time-code',
      header: picture('image/png'),
      body: 'Your code is {{ code }} and good for ten minutes.',
    },
    ['code-media!'],
  ],
  [
    'a code with a quick reply',
    {
      category: 'one-time-code',
      body: 'Your code is {{ code }} and good for ten minutes.',
      buttons: [quick('Thanks')],
    },
    ['code-button!'],
  ],
  // Samples.
  ['a sample missing', { body: 'Your passage through «{{ lock }}» is booked today.', samples: {} }, ['sample-missing']],
  [
    'a sample of spaces',
    { body: 'Your passage through «{{ lock }}» is booked today.', samples: { lock: ' ' } },
    ['sample-missing'],
  ],
  [
    'a sample missing for a link',
    { buttons: [link('See it', 'https://m.example/«{{ passage }}»')], samples: { time: '14:30' } },
    ['sample-missing'],
  ],
  [
    'a phone in a name’s place',
    { body: 'Dear {{ name }}, your passage is booked for today.', samples: { name: '+44 7700 900123' } },
    ['sample-of-another-kind!0-15'],
  ],
  [
    'a date in an amount’s place',
    { body: 'Your mooring of {{ amount }} is due on Friday.', samples: { amount: '2026-05-03' } },
    ['sample-of-another-kind!0-10'],
  ],
  [
    'words in a phone’s place',
    { body: 'You can ring us at {{ phone }} for the passage.', samples: { phone: 'Heron' } },
    ['sample-of-another-kind!0-5'],
  ],
  [
    'a mail address in a link’s place',
    { body: 'Your passage is booked, see {{ url }} for more.', samples: { url: 'a@m.example' } },
    ['sample-of-another-kind!0-11'],
  ],
  // Likeness.
  [
    'almost what was rejected',
    {
      body: '«Your passage through the lock is booked for {{ hour }} today.»',
      around: { rejected: [{ name: 'old', body: GOOD, reason: 'Too vague' }] },
      samples: { hour: '14:30' },
    },
    ['like-rejected'],
  ],
];

const MARKED = /[«»]/g;

interface Place {
  part: string;
  from: number;
  to: number;
}

/** Takes the marks out of a text; answers where they stood. */
function unmark(part: string, marked: string, places: Place[]): string {
  let plain = '';
  let from = 0;
  for (const char of marked) {
    if (char === '«') from = plain.length;
    else if (char === '»') places.push({ part, from, to: plain.length });
    else plain += char;
  }
  return plain;
}

function build({ name = 'passage-booked', category = 'transactional', ...differs }: Case): {
  template: Template;
  places: Place[];
} {
  const places: Place[] = [];
  const plainName = unmark('name', name, places);
  const { header } = differs;
  const marked: Variant = {
    language: differs.language ?? 'en',
    header,
    body: differs.body ?? GOOD,
    footer: differs.footer,
    buttons: differs.buttons ?? [],
    samples: {},
  };
  for (const { part, text: words } of writtenParts(marked)) unmark(part, words, places);
  const clean = (words: string) => words.replace(MARKED, '');
  const variant: Variant = {
    ...marked,
    header: header?.kind === 'text' ? { kind: 'text', text: clean(header.text) } : header,
    body: clean(marked.body),
    footer: marked.footer === undefined ? undefined : clean(marked.footer),
    buttons: marked.buttons.map((button) =>
      button.kind === 'quick-reply'
        ? { ...button, label: clean(button.label) }
        : { ...button, label: clean(button.label), target: clean(button.target) },
    ),
  };
  const variables = writtenParts(variant).flatMap((part) =>
    placeholdersIn(part.text).map((placeholder) => placeholder.name),
  );
  const samples =
    differs.samples ?? Object.fromEntries(variables.map((variable) => [variable, SAMPLES[variable] ?? 'Heron']));
  return { template: { name: plainName, category, variants: [{ ...variant, samples }] }, places };
}

/** `code` stands at the next mark, `code!` at none, `code!from-to` there and `code@from-to` there; `code@0` at the first mark. */
function expected(rules: readonly string[], places: readonly Place[]): string[] {
  const marks = [...places];
  return rules.map((rule) => {
    const [, code, sign, range] = /^([\w-]+?)(?:([!@])([\d-]*))?$/.exec(rule) as RegExpExecArray;
    if (sign === '!') return `${code} ${range || '-'}`;
    if (sign === '@' && range !== '0') return `${code} ${range}`;
    const place = sign === '@' ? places[0] : marks.shift();
    return `${code} ${place?.from}-${place?.to}`;
  });
}

const said = ({ code, place }: TemplateFinding) => `${code} ${place ? `${place.from}-${place.to}` : '-'}`;

test.each(CASES)('%s', (_, differs, rules) => {
  const { template, places } = build(differs);
  const findings = examineTemplate(template, RULES, differs.around);
  expect(findings.map(said).sort()).toEqual(expected(rules, places).sort());
  for (const finding of findings) {
    expect(finding.problem).toMatch(/[.:]|[.!?]$/);
    expect(finding.remedy).not.toBe('');
  }
});

test('there are enough of them, and enough that must say nothing', () => {
  expect(CASES.length).toBeGreaterThanOrEqual(120);
  expect(CASES.filter(([, , rules]) => rules.length === 0).length).toBeGreaterThanOrEqual(25);
});

describe('a fix made at once', () => {
  test('leaves nothing of what it mends', () => {
    for (const [what, differs] of CASES) {
      const { template } = build(differs);
      for (const { fix, part, code } of examineTemplate(template, RULES, differs.around)) {
        if (!fix) continue;
        const corrected = remedy(template, part, fix.edit);
        const left = examineTemplate(corrected, RULES, differs.around).filter(
          (finding) => finding.code === code && finding.part === part,
        );
        const before = examineTemplate(template, RULES, differs.around).filter(
          (finding) => finding.code === code && finding.part === part,
        );
        expect(left.length, `${what}: ${fix.label}`).toBeLessThan(before.length);
      }
    }
  });
});

function remedy(
  template: Template,
  part: string,
  { from, to, write }: { from: number; to: number; write: string },
): Template {
  const edit = (words: string) => words.slice(0, from) + write + words.slice(to);
  if (part === 'name') return { ...template, name: edit(template.name) };
  const [variant] = template.variants as [Variant];
  const changed: Variant = { ...variant };
  if (part === 'body') changed.body = edit(variant.body);
  if (part === 'footer') changed.footer = edit(variant.footer ?? '');
  if (part === 'header' && variant.header?.kind === 'text')
    changed.header = { kind: 'text', text: edit(variant.header.text) };
  const button = /^button-(\d+)-(label|target)$/.exec(part);
  if (button)
    changed.buttons = variant.buttons.map((each, index) =>
      index === Number(button[1])
        ? ({ ...each, [button[2] as string]: edit((each as never)[button[2] as never]) } as Button)
        : each,
    );
  return { ...template, variants: [changed] };
}

describe('several languages', () => {
  const variant = (language: string, body: string): Variant => ({
    language,
    body,
    buttons: [],
    samples: { time: '14:30', lock: 'North' },
  });
  const codes = (...variants: Variant[]) =>
    examineTemplate({ name: 'p', category: 'transactional', variants }, RULES).map(
      ({ code, language }) => `${language} ${code}`,
    );

  test('a variable that is missing in one of them', () => {
    expect(codes(variant('en', GOOD), variant('sv', 'Din slussning är bokad till idag.'))).toEqual([
      'sv variables-uneven',
    ]);
  });
  test('a variable that one has besides', () => {
    expect(
      codes(variant('en', 'Your passage is booked.'), variant('sv', 'Din slussning i {{ lock }} är bokad.')),
    ).toEqual(['sv variables-uneven']);
  });
  test('one language twice', () => {
    expect(codes(variant('en', GOOD), variant('en', GOOD))).toEqual(['en language-twice']);
  });
  test('each finding names its own', () => {
    expect(codes(variant('en', GOOD), variant('sv', 'Din rabatt gäller till klockan {{ time }} idag.'))).toEqual([
      'sv category-promotional-words',
    ]);
  });
});

describe('a plain text', () => {
  const examine = (body: string, samples: Record<string, string> = {}) =>
    examinePlain({ variants: [{ language: 'en', body, buttons: [], samples }] }).map(said);

  test.each([
    ['Your passage is booked.', []],
    [`It’s booked. ${'x'.repeat(60)}`.slice(0, 60), []],
    [`It’s booked. ${'x'.repeat(140)}`, ['costlier-encoding 2-3']],
    [`Booked 🚤 ${'x'.repeat(140)}`, ['costlier-encoding 7-9']],
    [`${'x'.repeat(150)} {{ time }}’`, ['sample-missing 151-161', 'costlier-encoding 161-162']],
    ['', ['body-empty -']],
    ['Dear {name}, hello', ['token-broken 5-11']],
    ['Moorings at half price until Friday', ['opt-out-missing 12-22']],
    ['Moorings at half price until Friday. Reply STOP to get no more', []],
  ])('%s', (body, expectedFindings) => {
    expect(examine(body)).toEqual(expectedFindings);
  });

  test('an emoji that turns one part into three says so', () => {
    const [finding] = examinePlain({
      variants: [{ language: 'en', body: `${'x'.repeat(150)} 🚤`, buttons: [], samples: {} }],
    });
    expect(finding?.problem).toMatch(/turns one part into 3/);
  });
});
