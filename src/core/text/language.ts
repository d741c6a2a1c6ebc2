/** Which language a text is in, as far as its letters show. */
import { eld } from 'eld/extrasmall';

export interface DetectedLanguage {
  /** ISO 639-1. */
  language: string;
  /** How likely each language is that the detector knows, 0 to 1. */
  scores: Readonly<Record<string, number>>;
}

/** Shorter than this, a text could be of many languages. */
const SHORTEST = 24;

const NOBODY = Object.fromEntries(Object.values(eld.info().Languages).map((language) => [language, 0]));

export type LanguageDetector = (text: string) => DetectedLanguage | undefined;

export const detectLanguage: LanguageDetector = (text) => {
  if (text.replace(/[^\p{L}]/gu, '').length < SHORTEST) return undefined;
  const found = eld.detect(text);
  if (!found.language || !found.isReliable()) return undefined;
  return { language: found.language, scores: { ...NOBODY, ...found.getScores() } };
};
