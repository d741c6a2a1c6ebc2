/** Whether somebody says that they are not who was meant: their number was another person's before, or was never. */
import { plainWords } from '../routing/keyword';

/** By language. What is looked for stands alone or at the beginning: nobody is doubted for a word inside a story. */
const PHRASES: readonly string[] = [
  ...[
    'wrong number',
    'wrong person',
    'you have the wrong number',
    'you have the wrong person',
    'not my number anymore',
  ],
  ...['i am not the person', 'i do not know this person', 'this is not her number', 'this is not his number'],
  ...['fel nummer', 'du har fel nummer', 'fel person'],
  ...['mauvais numéro', 'faux numéro', 'vous vous trompez de numéro', 'erreur de numéro'],
  ...['falsche nummer', 'sie haben die falsche nummer', 'falsch verbunden'],
  ...['verkeerd nummer', 'u heeft het verkeerde nummer', 'verkeerde persoon'],
  ...['número equivocado', 'numero equivocado', 'se equivoca de número'],
  ...['pomyłka', 'zły numer', 'to nie ten numer'],
].map(plainWords);

const LONGEST = 120;

export function saysWrongPerson(text: string): boolean {
  if (text.length > LONGEST) return false;
  const words = plainWords(text);
  return PHRASES.some((phrase) => words === phrase || words.startsWith(`${phrase} `));
}
