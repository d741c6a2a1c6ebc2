import fc from 'fast-check';
import { expect, test } from 'vitest';
import { measureText } from '../text/measure';
import { CONSENT_LANGUAGES, consentAnswer, consentWord, helpAnswer, saysHowToLeave } from './words';

test.each([
  ['STOP', 'stop', 'en'],
  ['stop.', 'stop', 'en'],
  [' Stop! ', 'stop', 'en'],
  ['“STOP”', 'stop', 'en'],
  ['STOPALL', 'stop', 'en'],
  ['Stop all', 'stop', 'en'],
  ['unsubscribe', 'stop', 'en'],
  ['Cancel', 'stop', 'en'],
  ['END', 'stop', 'en'],
  ['quit', 'stop', 'en'],
  ['opt-out', 'stop', 'en'],
  ['Start', 'start', 'en'],
  ['UNSTOP', 'start', 'en'],
  ['Avanmäl', 'stop', 'sv'],
  ['ARRÊT', 'stop', 'fr'],
  ['arre\u0302t', 'stop', 'fr'],
  ['Abmelden!', 'stop', 'de'],
  ['afmelden', 'stop', 'nl'],
  ['BAJA', 'stop', 'es'],
  ['rezygnuję', 'stop', 'pl'],
])('%s', (text, kind, language) => {
  expect(consentWord(text)).toMatchObject({ kind, language });
});

test.each([
  'Please stop by the lock at 3',
  'stop it',
  'when does it end',
  'The end',
  'start at 9?',
  'OK',
  '',
  '!!!',
  'I want to cancel my passage',
  'non',
  'STOP STOP',
  'nonstop',
  'x'.repeat(61),
])('%j is no opt-out', (text) => {
  expect(consentWord(text)).toBeUndefined();
});

test('a word of two languages is read in the person’s own; the trade’s words are answered in it', () => {
  expect(consentWord('stopp', 'de')?.language).toBe('de');
  expect(consentWord('stopp', 'sv-FI')?.language).toBe('sv');
  expect(consentWord('STOP', 'fr')?.language).toBe('fr');
  expect(consentWord('STOP', 'ja')?.language).toBe('en');
});

test('an answer fits one part in GSM-7 or two in UCS-2, and says the way back', () => {
  for (const language of CONSENT_LANGUAGES)
    for (const kind of ['stop', 'start'] as const) {
      const answer = consentAnswer({ kind, language, word: '' });
      expect(measureText(answer).parts.length).toBeLessThanOrEqual(2);
      expect(consentWord(/[A-ZÀ-Þ]{4,}/u.exec(answer)?.[0] ?? '')?.kind).toBe(kind === 'stop' ? 'start' : 'stop');
    }
});

test('case and punctuation never matter', () => {
  fc.assert(
    fc.property(
      fc.constantFrom('stop', 'unsubscribe', 'quit'),
      fc.stringMatching(/^[\s.!?"'-]{0,6}$/),
      fc.boolean(),
      (word, around, loud) => {
        expect(consentWord(`${around}${loud ? word.toUpperCase() : word}${around}`)?.kind).toBe('stop');
      },
    ),
  );
});

test('every answer says how to leave, and a text that merely ends does not', () => {
  for (const language of CONSENT_LANGUAGES) {
    expect(saysHowToLeave(helpAnswer({ language }, 'Mossgate Waterways')), language).toBe(true);
    expect(consentWord(helpAnswer({ language }, 'Mossgate Waterways')), language).toBeUndefined();
  }
  expect(saysHowToLeave('20 % off moorings. STOP to opt out')).toBe(true);
  expect(saysHowToLeave('The sale will end on Friday. Cancel any time.')).toBe(false);
});

test('HELP is answered with what the country demands', () => {
  expect(helpAnswer({ language: 'en' }, 'Mossgate Waterways', 'US')).toBe(
    'Mossgate Waterways. Message and data rates may apply. Reply STOP to get no more messages.',
  );
  expect(helpAnswer({ language: 'sv' }, 'Mossgate?', 'SE')).toBe(
    'Mossgate? Svara STOPP för att inte få fler meddelanden.',
  );
  expect(consentWord('Info!')).toMatchObject({ kind: 'help', language: 'en' });
  expect(consentWord('hjälp')).toMatchObject({ kind: 'help', language: 'sv' });
  expect(consentWord('I need help')).toBeUndefined();
});
