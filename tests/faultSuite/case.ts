/** One thing that goes wrong for real, and what a person at the scene would say. */
import type { ObservationId } from '../../src/core/diagnosis/observations';
import type { Symptom } from '../../src/core/diagnosis/symptoms';
import type { Scope } from '../../src/operations/diagnosis/complaintEvidence';

export interface Case {
  name: string;
  /** What is complained of. */
  symptom: Symptom;
  about: Scope;
  /** Makes it wrong, through settings or the outside. */
  breakIt(): Promise<unknown>;
  /** One message, call or post afterwards. */
  traffic?(): Promise<unknown>;
  /** The causes that are right; several where two names say the same. */
  causes: readonly string[];
  /** What the person knows, when asked. Everything else they do not know. */
  knows?: Partial<Record<ObservationId, 'yes' | 'no'>>;
  repair(): Promise<unknown>;
  /** The two places it is between, the first empty where none has it, where saying so is all that anybody could. */
  place?: readonly [string, string];
  /** It cannot be told from what can be seen or asked, and saying so is right. */
  honest?: true;
}

export interface Result {
  name: string;
  symptom: Symptom;
  expected: string;
  /** Found before any message. */
  before: boolean;
  outcome: 'right' | 'wrong' | 'undetermined';
  said: string;
  questions: number;
  tests: number;
}
