/** What a route may ask of a message: every kind of condition, and the only place that lists them. */
import { z } from 'zod';
import { answers } from './answers';
import { attribute } from './attribute';
import { button } from './button';
import { channel } from './channel';
import { conversation } from './conversation';
import { keyword } from './keyword';
import type { ConditionKind } from './kind';
import { language } from './language';
import { media } from './media';
import { officeHours } from './officeHours';
import { open } from './open';
import { sender } from './sender';
import { tag } from './tag';

/** In the order the editor offers them. */
const KINDS = [
  channel,
  keyword,
  sender,
  open,
  tag,
  attribute,
  language,
  media,
  officeHours,
  conversation,
  answers,
  button,
] as const;

type Kind = (typeof KINDS)[number];
export type Condition = z.infer<Kind['schema']>;
export type Atom = ReturnType<Kind['atoms']>[number];
type AnyKind = ConditionKind<Condition, Atom>;

// Each kind is given conditions of its own only: those whose `on` is its own.
export const conditionKinds = KINDS as unknown as readonly AnyKind[];
const byName = new Map<string, AnyKind>(conditionKinds.map((kind) => [kind.on, kind]));

/** The kind of a condition or of an atom. */
export function kindOf({ on }: { on: Condition['on'] }): AnyKind {
  return byName.get(on) as AnyKind;
}

export const conditionSchema = z.discriminatedUnion(
  'on',
  // The schema of each kind is a strict object with its own `on`.
  KINDS.map(({ schema }) => schema) as unknown as [z.ZodObject<{ on: z.ZodLiteral<string> }>],
) as unknown as z.ZodType<Condition>;
