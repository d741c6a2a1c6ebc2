/** How it is said: what reviewers take for shouting or for a hook. */
import type { PartFinding } from '../finding';
import type { WrittenPart } from '../template';

/** Secrets that thieves ask for, in the languages of the lists of offers. */
const ASKED_FOR =
  /(?<!\p{L})(password|passcode|pin code|card number|security code|cvv|lösenord|kortnummer|pinkod|mot de passe|numéro de carte|passwort|kartennummer|wachtwoord|kaartnummer|pincode|contraseña|número de tarjeta)(?!\p{L})/iu;

export function mannerFindings({ part, text }: WrittenPart): PartFinding[] {
  const findings: PartFinding[] = [];
  const words = text.replace(/\{\{[^{}]*\}\}/g, ' ').match(/\p{L}{2,}/gu) ?? [];
  const loud = words.filter((word) => word === word.toUpperCase() && word !== word.toLowerCase());
  if (words.length >= 5 && loud.length / words.length > 0.4) {
    const at = text.indexOf(loud[0] as string);
    const end = text.lastIndexOf(loud.at(-1) as string) + (loud.at(-1) as string).length;
    findings.push({
      part,
      code: 'shouting',
      severity: 'attention',
      problem: `${loud.length} of ${words.length} words are in capitals.`,
      remedy: 'Write them as in a letter.',
      place: { from: at, to: end },
    });
  }
  for (const match of text.matchAll(/[!?]{2,}/g)) {
    const place = { from: match.index, to: match.index + match[0].length };
    findings.push({
      part,
      code: 'exclaiming',
      severity: 'attention',
      problem: `“${match[0]}”: too many exclamation marks or capitals.`,
      remedy: 'One is enough.',
      place,
      fix: { label: 'Leave one', edit: { ...place, write: match[0].includes('?') ? '?' : '!' } },
    });
  }
  const secret = ASKED_FOR.exec(text);
  if (secret)
    findings.push({
      part,
      code: 'secret-asked',
      severity: 'error',
      problem: `“${secret[0]}” reads like asking for a secret.`,
      remedy: 'Have people give secrets nowhere but on your own site, after they signed in.',
      place: { from: secret.index, to: secret.index + secret[0].length },
    });
  const pictures = [...text.matchAll(/\p{Extended_Pictographic}/gu)];
  if (pictures.length > 3)
    findings.push({
      part,
      code: 'pictures-many',
      severity: 'attention',
      problem: `${pictures.length} pictures in the text.`,
      remedy: 'Leave out those that say nothing.',
      place: { from: pictures[3]?.index ?? 0, to: (pictures.at(-1)?.index ?? 0) + (pictures.at(-1)?.[0].length ?? 0) },
    });
  return findings;
}
