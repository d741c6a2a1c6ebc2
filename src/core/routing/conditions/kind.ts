/** What a kind of condition is: everything Windgap does with it, said in one place. */
import type { z } from 'zod';
import type { Prepared } from '../arrival';
import type { OfficeHours } from '../hours';
import type { RouteChoices, RouteNames } from '../names';

/** Undefined: it cannot be told before an app was asked. */
export type Answer = boolean | undefined;
export type Matcher = (arrival: Prepared) => Answer;

/** What the editor can offer while a condition is written. */
export interface Offered {
  choices: RouteChoices;
  hours: readonly OfficeHours[];
}

type Options = readonly (readonly [value: string, words: string])[];

/** A field of the editor, as data: what it shows of a condition, and the condition after a change of it. */
export type ConditionField<Own> =
  | {
      control: 'choice';
      label: string;
      options: (offered: Offered) => Options;
      value: (condition: Own) => string;
      set: (condition: Own, value: string) => Own;
      when?: (condition: Own) => boolean;
    }
  | {
      control: 'several' | 'words';
      label: string;
      /** Of `several`. */
      options?: (offered: Offered) => Options;
      value: (condition: Own) => readonly string[];
      set: (condition: Own, value: readonly string[]) => Own;
      when?: (condition: Own) => boolean;
    }
  | {
      control: 'word';
      label: string;
      size?: number;
      suggestions?: (offered: Offered) => readonly string[];
      value: (condition: Own) => string;
      set: (condition: Own, value: string) => Own;
      when?: (condition: Own) => boolean;
    };

/**
 * A kind of condition: `Own` is a condition as it is stored, `Atom` a condition about one thing alone, of which
 * the analysis knows what excludes and what implies what. Only what is certain is claimed there: where it cannot
 * be told, the answer is no.
 */
export interface ConditionKind<Own extends { on: string }, Atom extends { on: string }> {
  on: Own['on'];
  /** What it looks at, in the editor's list. */
  label: string;
  /** A new condition as the editor begins it. */
  fresh(offered: Offered): Own;
  fields: readonly ConditionField<Own>[];
  /** How it is read from a page or a file. */
  schema: z.ZodType<Own>;
  /** The condition as a clause: “it comes with a file”. */
  words(condition: Own, names: RouteNames): string;
  /** What the condition found in a message, in words. */
  saw(condition: Own, arrival: Prepared, hours: readonly OfficeHours[], names: RouteNames): string;
  /** Compiled once, asked of every message. */
  matcher(condition: Own, hours: readonly OfficeHours[]): Matcher;
  /** Words of which a message must say one, plain; absent where any message may fit. */
  wordsNeeded?(condition: Own): readonly string[] | undefined;
  /** The open records it must know of, as `app record`; an app is asked for them. */
  recordsNeeded?(condition: Own): string;
  /** Why no message can ever fit it, with what to do; absent where one may. */
  problems?(condition: Own): readonly { code: string; problem: (route: string) => string; remedy: string }[];
  /** Whether it tells a person who writes from a machine that answers by itself. */
  tellsPeopleFromMachines: boolean;

  /** The things it names: one of them is enough. */
  atoms(condition: Own): readonly Atom[];
  /** False where it asks that none of its atoms holds. */
  positive?(condition: Own): boolean;
  /** Whether the second is certain wherever the first holds; never asked of an atom and itself. */
  implies?(one: Atom, other: Atom): boolean;
  /** Whether the two cannot both hold. */
  excludes?(one: Atom, other: Atom): boolean;
  /** Whether the second is certain wherever the first is denied. */
  completes?(denied: Atom, other: Atom): boolean;
  /** All atoms, this one among them, of which exactly one holds of any message. */
  alternatives?(atom: Atom): readonly Atom[];
}
