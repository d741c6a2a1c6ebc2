import type { Finding } from '../finding';
import type { TextPart } from './template';

/** What a template finding is about. */
export type FindingPart = TextPart | 'name' | 'category' | 'language' | `sample-${string}`;

/** A fix that can be made at once: what to write in place of a range of the part. */
export interface Fix {
  label: string;
  edit: { from: number; to: number; write: string };
}

export interface TemplateFinding extends Finding {
  part: FindingPart;
  /** The variant it is about; absent when it is about the whole template. */
  language?: string;
  fix?: Fix;
  /** How much of it there is, where that is a matter of degree: grades are learned apart. */
  grade?: string;
}

/** A finding before it is known which variant it is of. */
export type PartFinding = Omit<TemplateFinding, 'language'>;
