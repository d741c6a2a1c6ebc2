/** What a draft is made from, and what its parts share. */
import type { ApiDocument } from './document';
import type { PostEvent } from './events';
import type { Field } from './fields';
import { type CallFields, type CallPart, wordsOf } from './parts';
import type { Questions } from './questions';
import type { ReadSample } from './samples';

export interface Parts {
  document: ApiDocument;
  chosen: Partial<Record<CallPart, CallFields>>;
  events: PostEvent[];
  samples: readonly ReadSample[];
  questions: Questions;
  secret: string;
}

interface Credential {
  name: string;
  label: string;
  help: string;
  secret?: boolean;
  initial?: string;
  pattern?: string;
}

/** What whoever connects the provider is asked for. */
export class Credentials {
  private readonly byName = new Map<string, Credential>();

  /** The template of a credential, which is asked for from now on. */
  ask(credential: Credential): string {
    const name = nameOf(credential.name);
    if (!this.byName.has(name))
      this.byName.set(name, {
        ...credential,
        name,
        help: credential.help || `As its documentation calls “${credential.name}”.`,
      });
    return `{{ credentials.${name} }}`;
  }

  get list(): Credential[] {
    return [...this.byName.values()];
  }
}

/** A name as credentials have it: `account_id` becomes `accountId`. */
const nameOf = (written: string) =>
  wordsOf(written)
    .map((word, index) => (index === 0 ? word : word.charAt(0).toUpperCase() + word.slice(1)))
    .join('')
    .replace(/^[^a-z]+/, '') || 'value';

export const choice = ({ path, values, description }: Field): [string, string] => {
  const hint = values[0] ?? description;
  return [path, hint ? `${path} · ${hint}`.slice(0, 80) : path];
};

export function present<Shape extends object>(shape: Shape): Partial<Shape> {
  return Object.fromEntries(Object.entries(shape).filter(([, value]) => value !== undefined)) as Partial<Shape>;
}
