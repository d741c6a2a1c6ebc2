/** A request as a profile writes it, made from what the document says a call takes. */
import type { BodyTree } from '../profile/pieces';
import { type ApiDocument, type Described, list } from './document';
import { fieldsOfSchema, readSchema, step } from './fields';

export interface MadeRequest {
  method: string;
  path: string;
  query?: Record<string, string>;
  headers?: Record<string, string>;
  json?: BodyTree;
  form?: Record<string, string>;
}

export interface Filled {
  /** Templates by the path of what they fill in the body. */
  body: ReadonlyMap<string, string>;
  /** The template of a parameter, by its name; undefined where it is left out. */
  parameter(name: string, fallback: unknown, required: boolean): string | undefined;
  /** The template of something that must be there and that nothing else fills. */
  asked(name: string): string;
}

/** Parts of a body looked at; what contains itself, as something that must be there, has no end. */
const MOST_STEPS = 2000;

export function requestOf(document: ApiDocument, call: Described, filled: Filled): MadeRequest {
  let taken = 0;
  const of = (where: 'query' | 'header') => {
    const entries = call.parameters
      .filter((parameter) => parameter.in === where && !/^(authorization|accept|content-type)$/i.test(parameter.name))
      .flatMap(({ name, schema, required }) => {
        const template = filled.parameter(name, constantOf(readSchema(document, schema).node), required);
        return template === undefined ? [] : [[name, template] as const];
      });
    return entries.length > 0 ? Object.fromEntries(entries) : undefined;
  };
  const path = call.path.replace(/\{([^}]+)\}/g, (_, name: string) => filled.parameter(name, undefined, true) ?? '');
  const body = call.body && tree(call.body.schema, '$', '', true, 0);
  const query = of('query');
  const headers = of('header');
  return {
    method: call.method,
    path,
    ...(query ? { query } : {}),
    ...(headers ? { headers } : {}),
    ...(body === undefined ? {} : call.body?.format === 'form' ? { form: flat(body) } : { json: body }),
  };

  function tree(schema: unknown, at: string, name: string, required: boolean, depth: number): BodyTree | undefined {
    const template = filled.body.get(at);
    if (template !== undefined) return template;
    const leads = [...filled.body.keys()].some((path) => path.startsWith(at));
    if (depth > 8 || ++taken > MOST_STEPS || !(required || leads)) return undefined;
    const { properties, choices, items, node } = readSchema(document, schema);
    const made: Record<string, BodyTree> = {};
    const [best] = choices
      .map((choice) => ({ choice, hits: hitsOf(choice.schema, at) }))
      .sort((a, b) => b.hits - a.hits);
    if (best && (best.hits > 0 || required)) {
      const inner = tree(best.choice.schema, at, name, required, depth + 1);
      if (typeof inner !== 'object' || inner === null || Array.isArray(inner)) return inner;
      Object.assign(made, inner);
      if (best.choice.mark) made[best.choice.mark.name] = best.choice.mark.value;
    }
    if (items !== undefined) {
      const inner = tree(items, `${at}[*]`, name, required, depth + 1);
      return inner === undefined ? undefined : [inner];
    }
    for (const [inner, inside, must] of properties) {
      const value = tree(inside, at + step(inner), inner, must && required, depth + 1);
      if (value !== undefined) made[inner] = value;
    }
    if (Object.keys(made).length > 0) return made;
    if (!required || properties.length > 0 || choices.length > 0) return undefined;
    return constantOf(node) ?? (name === '' ? undefined : filled.asked(name));
  }

  /** How many of what is filled stands in a branch. */
  function hitsOf(schema: unknown, at: string): number {
    const paths = new Set(fieldsOfSchema(document, schema).map(({ path }) => at + path.slice(1)));
    return [...filled.body.keys()].filter((path) => paths.has(path)).length;
  }
}

/** What stands there whatever is sent: the only word there may be, or what the document says is meant without one. */
function constantOf(node: Readonly<Record<string, unknown>>): string | number | boolean | undefined {
  const only = list(node.enum).length === 1 ? list(node.enum)[0] : undefined;
  const value = node.const ?? node.default ?? only;
  return typeof value === 'string' || typeof value === 'number' || typeof value === 'boolean' ? value : undefined;
}

function flat(body: BodyTree): Record<string, string> {
  const entries = Object.entries(body as Record<string, BodyTree>);
  return Object.fromEntries(
    entries.filter(([, value]) => typeof value !== 'object').map(([name, value]) => [name, String(value)]),
  );
}
