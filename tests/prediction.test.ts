/** What is foretold of submissions, held against the platform's own reviewer, whose rules are not ours. */
import { expect, test } from 'vitest';
import { examineTemplate } from '../src/core/templates/examine';
import { FORETOLD, type History, hitRate, learn, NO_HISTORY, predictRejection } from '../src/core/templates/prediction';
import { numbered, numberedValues } from '../src/core/templates/render';
import { type Button, type Category, type Template, type Variant, variablesOf } from '../src/core/templates/template';
import { detectLanguage } from '../src/core/text/language';
import { type Edition, judge, type Use } from '../standins/tarrow/reviewer';
import { tarrowRules } from './harness/tarrow';

/** Numbers that look random and are the same each time (mulberry32). */
function randomFrom(seed: number) {
  let state = seed;
  return () => {
    state = (state + 0x6d2b79f5) | 0;
    let mixed = Math.imul(state ^ (state >>> 15), 1 | state);
    mixed = (mixed + Math.imul(mixed ^ (mixed >>> 7), 61 | mixed)) ^ mixed;
    return ((mixed ^ (mixed >>> 14)) >>> 0) / 4294967296;
  };
}

const BODIES: Record<string, string[]> = {
  en: [
    'Hello {{ skipper }}, your passage through {{ lock }} is booked for {{ time }} today.',
    'Your mooring at the harbour ends on {{ date }}, please tell us whether you want to keep it.',
    'The towpath near {{ place }} is closed until Friday because of repairs to the bank.',
    'We have received your payment of {{ amount }} for the winter mooring, thank you.',
    'Your report about the north gate has the number {{ number_given }} and is with our team.',
    'The water level at the weir is high today, please moor above the bridge.',
  ],
  sv: [
    'Hej {{ skipper }}, din slussning genom {{ lock }} är bokad till klockan {{ time }} idag.',
    'Din båtplats i hamnen går ut den {{ date }}, hör av dig om du vill behålla den.',
    'Vi har tagit emot din betalning på {{ amount }} för vinterplatsen, tack för det.',
  ],
  fr: [
    'Bonjour {{ skipper }}, votre passage à {{ lock }} est prévu pour {{ time }} ce jour.',
    'Nous avons bien reçu votre paiement de {{ amount }} pour la place du port, merci.',
  ],
  de: [
    'Guten Tag {{ skipper }}, Ihre Schleusung in {{ lock }} ist für {{ time }} Uhr vorgesehen.',
    'Wir haben Ihre Zahlung von {{ amount }} für den Liegeplatz erhalten, vielen Dank.',
  ],
};
const SAMPLES: Record<string, string> = {
  time: '14:30',
  date: '3 May',
  amount: '£12.50',
  number_given: 'R-1207',
  passage: 'A7',
};

type Slip = (template: Template, variant: Variant, random: () => number) => void;

/** What people do to a good text. Some of it no reviewer minds. */
const SLIPS: Slip[] = [
  (_, variant) => {
    variant.body = `${variant.body.replace(/[.]$/, '')} {{ place }}`;
  },
  (_, variant) => {
    variant.body = `{{ skipper }}, ${variant.body}`;
  },
  (_, variant) => {
    variant.body = variant.body.replace('.', ' {{ lock }} {{ day_name }} now.');
  },
  (_, variant) => {
    variant.body = '{{ skipper }} {{ lock }} {{ place }}';
  },
  (_, variant) => {
    variant.body = 'Dear {{ skipper }} at {{ lock }} now.';
  },
  (_, variant) => {
    variant.body += ' This exclusive offer ends soon.';
  },
  (_, variant) => {
    variant.body += ' Win a prize, hurry to our shop.';
  },
  (_, variant) => {
    variant.body += ' Save 20% off your next stay with our voucher.';
  },
  (_, variant) => {
    variant.body = variant.body.toUpperCase().replace(/\{\{[^{}]*\}\}/g, (token) => token.toLowerCase());
  },
  (_, variant) => {
    variant.body += ' Reply at once!!!';
  },
  (_, variant) => {
    variant.body += ' See http://m.example/p for more of it.';
  },
  (_, variant) => {
    variant.body += ' See https://sho.example/x for more of it.';
  },
  (_, variant) => {
    variant.body = variant.body.replace('. ', '.\n\n\n\n').concat('\n\n\n\nMossgate');
  },
  (_, variant) => {
    variant.body += ' Ask for {{Boat Name}} at the desk.';
  },
  (_, variant) => {
    variant.buttons = [quick('Yes'), quick('yes')];
  },
  (_, variant) => {
    variant.buttons = [link('See it', 'https://m.example/{{ passage }}/map')];
  },
  (_, variant) => {
    variant.buttons = [link('See it', 'http://m.example/map')];
  },
  (_, variant) => {
    forgetful.add(variant);
  },
  (_, variant, random) => {
    variant.language = random() < 0.5 && variant.language !== 'en' ? 'en' : variant.language === 'fr' ? 'de' : 'fr';
  },
  (_, variant) => {
    variant.body += ' Tell us your card number by reply.';
  },
  // Harmless.
  (_, variant) => {
    variant.footer = 'Mossgate Waterways';
  },
  (_, variant) => {
    variant.header = { kind: 'text', text: 'Mossgate' };
  },
  (_, variant) => {
    variant.buttons = [quick('Yes'), quick('No')];
  },
  (_, variant) => {
    variant.buttons = [link('See it', 'https://m.example/p/{{ passage }}')];
  },
  (_, variant) => {
    variant.body += ' See you soon!';
  },
  (template, variant) => {
    template.category = 'promotional';
    variant.body = 'An offer for boaters: winter moorings at half price until Friday.';
  },
];
/** Those that slipped and gave no samples. */
const forgetful = new WeakSet<Variant>();
const quick = (label: string): Button => ({ kind: 'quick-reply', label });
const link = (label: string, target: string): Button => ({ kind: 'link', label, target });

function submission(random: () => number, index: number): Template {
  const pick = <T>(list: readonly T[]): T => list[Math.floor(random() * list.length)] as T;
  const language = pick(['en', 'en', 'en', 'sv', 'fr', 'de']);
  const variant: Variant = { language, body: pick(BODIES[language] as string[]), buttons: [], samples: {} };
  const template: Template = { name: `n${index}-passage`, category: 'transactional' as Category, variants: [variant] };
  const slips = random() < 0.35 ? 0 : random() < 0.75 ? 1 : 2;
  for (let slip = 0; slip < slips; slip++) pick(SLIPS)(template, variant, random);
  if (!forgetful.has(variant))
    variant.samples = Object.fromEntries(variablesOf(variant).map((name) => [name, SAMPLES[name] ?? 'North lock']));
  return template;
}

const USES: Record<Category, Use> = { transactional: 'service', promotional: 'offer', 'one-time-code': 'passcode' };
const PRESS = { link: 'open', call: 'ring', 'quick-reply': 'say' } as const;

function asTarrow(variant: Variant): Edition {
  const write = numbered(variant, (number) => `%${number}`);
  return {
    tongue: variant.language,
    ...(variant.header?.kind === 'text' ? { top: { words: write(variant.header.text) } } : {}),
    words: write(variant.body),
    foot: variant.footer,
    keys: variant.buttons.map((button) => ({
      press: PRESS[button.kind],
      label: button.label,
      ...(button.kind === 'quick-reply' ? {} : { to: write(button.target) }),
    })),
    examples: numberedValues(variant, variant.samples),
  };
}

test.each([1, 2, 3])(
  'of 300 submissions nine in ten rejections are foretold, and one in ten alarms at most is false (set %i)',
  (seed) => {
    const random = randomFrom(seed);
    const rules = tarrowRules();
    let history: History = NO_HISTORY;
    const outcomes: { likelihood: number; rejected: boolean }[] = [];
    const missed = new Map<string, number>();
    for (let index = 0; index < 300; index++) {
      const template = submission(random, index);
      const findings = examineTemplate(template, rules, { detect: detectLanguage });
      const { likelihood } = predictRejection(findings, history);
      const { granted, objections } = judge(USES[template.category], template.variants.map(asTarrow), new Set());
      const rejected = !granted;
      outcomes.push({ likelihood, rejected });
      if (rejected !== likelihood >= FORETOLD) {
        const why = rejected
          ? `missed ${objections.map(({ why }) => why)}`
          : `false alarm ${findings.map(({ code }) => code)}`;
        missed.set(why, (missed.get(why) ?? 0) + 1);
      }
      history = learn(history, { findings, rejected });
    }
    const rate = hitRate(outcomes);
    const recall = rate.foretold / rate.rejections;
    const alarms = rate.falseAlarms / rate.approvals;
    console.log(
      `set ${seed}: ${rate.foretold} of ${rate.rejections} rejections foretold (${(recall * 100).toFixed(1)} %), ${rate.falseAlarms} false alarms among ${rate.approvals} approvals (${(alarms * 100).toFixed(1)} %)`,
      Object.fromEntries(missed),
    );
    expect(rate.rejections).toBeGreaterThan(60);
    expect(rate.approvals).toBeGreaterThan(60);
    expect(recall).toBeGreaterThanOrEqual(0.9);
    expect(alarms).toBeLessThanOrEqual(0.1);
  },
);

test('without a history a rule counts by how grave it is, and learning changes it', () => {
  const grave = [{ code: 'shouting', severity: 'attention' as const }];
  expect(predictRejection([], NO_HISTORY).likelihood).toBeLessThan(0.1);
  expect(predictRejection(grave, NO_HISTORY).likelihood).toBeLessThan(FORETOLD);
  let history = NO_HISTORY;
  for (let time = 0; time < 5; time++) history = learn(history, { findings: grave, rejected: true });
  const { likelihood, because } = predictRejection(grave, history);
  expect(likelihood).toBeGreaterThan(FORETOLD);
  expect(because).toMatchObject([{ code: 'shouting', seen: 5, rejected: 5 }]);
});
