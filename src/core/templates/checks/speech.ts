/** Whether it is in the language it is said to be in. */
import type { LanguageDetector } from '../../text/language';
import type { PartFinding } from '../finding';
import { replacePlaceholders, type Variant } from '../template';

/** Tags of languages that the detector knows under another. */
const KNOWN_AS: Record<string, string> = { nb: 'no', nn: 'no', fil: 'tl', iw: 'he', in: 'id' };
/** A smaller lead over the declared language is a guess: neighbours share most of their words. */
const SURE = 0.12;

export function languageFindings(variant: Variant, detect: LanguageDetector): PartFinding[] {
  const declared = variant.language.toLowerCase().split('-')[0] ?? '';
  const header = variant.header?.kind === 'text' ? variant.header.text : '';
  const found = detect(replacePlaceholders([header, variant.body].join('\n').replace(/https?:\/\/\S+/g, ''), () => ''));
  const score = found?.scores[KNOWN_AS[declared] ?? declared];
  if (!found || score === undefined || (found.scores[found.language] ?? 0) - score < SURE) return [];
  const name = new Intl.DisplayNames(['en'], { type: 'language' });
  return [
    {
      part: 'language',
      code: 'language-differs',
      severity: 'error',
      problem: `This is filed as ${name.of(declared) ?? declared} and reads like ${name.of(found.language) ?? found.language}.`,
      remedy: 'Correct the language, or the text.',
    },
  ];
}
