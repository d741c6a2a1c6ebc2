/** What a platform demands of templates. The values are data of its connector profile. */
import type { ButtonKind, Category, MediaKind } from './template';

export interface TemplateRules {
  /** A pattern every name must match as a whole, and that pattern in words. */
  name: { pattern: string; words: string; longest: number };
  categories: readonly Category[];
  header: {
    kinds: readonly ('text' | MediaKind)[];
    longest: number;
    mostVariables: number;
    media: Partial<Record<MediaKind, { types: readonly string[]; mostBytes: number }>>;
  };
  body: {
    longest: number;
    mostVariables: number;
    /** Whether a variable may be the first or the last thing said. */
    variableAtEdge: boolean;
    /** Whether two variables may stand with nothing but spaces and punctuation between them. */
    variablesAdjacent: boolean;
    /** How many words there must be for each variable. */
    wordsPerVariable: number;
    /** Line breaks in a row. */
    mostLineBreaks: number;
  };
  footer: { longest: number };
  buttons: { most: number; mostOf: Partial<Record<ButtonKind, number>>; longestLabel: number };
  links: { secureOnly: boolean; shorteners: readonly string[] };
}
