/** The single places in what is sent, answered or posted, found in schemas (JSON Schema as OpenAPI uses it) and in samples. */
import { type ApiDocument, list, type Node, object, words } from './document';

/** One value somewhere inside. */
export interface Field {
  /** JSONPath from the top: `$.data[*].number`. */
  path: string;
  name: string;
  type: 'text' | 'number' | 'truth' | 'list' | 'any';
  /** What may stand there, or an example of it, or what stood there in a sample. */
  values: string[];
  /** Whether `values` is all there may be. */
  closed: boolean;
  description: string;
  required: boolean;
  pattern: string;
  format: string;
}

const DEEPEST = 8;
const MOST_FIELDS = 600;
/** Steps taken through one schema; what leads into itself would otherwise be walked for ever. */
const MOST_STEPS = 5000;

/** A step of a JSONPath; names that are no plain words are quoted (RFC 9535, section 2.3.1). */
export const step = (name: string) =>
  /^[A-Za-z_]\w*$/.test(name) ? `.${name}` : `['${name.replace(/[\\']/g, (sign) => `\\${sign}`)}']`;

export interface ReadSchema {
  properties: [name: string, schema: unknown, required: boolean][];
  /** Each of what may stand here instead of another, with the word that marks it where the schema says one. */
  choices: { schema: unknown; mark?: { name: string; value: string } }[];
  items?: unknown;
  node: Node;
}

/** A schema with everything it is made of put together: references followed, `allOf` merged. */
export function readSchema(document: ApiDocument, schema: unknown, depth = 0): ReadSchema {
  const node = object(document.follow(schema)) ?? {};
  const all = depth < DEEPEST ? list(node.allOf).map((part) => readSchema(document, part, depth + 1)) : [];
  const required = new Set([...list(node.required), ...all.flatMap((part) => list(part.node.required))].map(String));
  const own = Object.entries(object(node.properties) ?? {}).map(([name, inner]): [string, unknown, boolean] => [
    name,
    inner,
    required.has(name),
  ]);
  // What is said last of a name counts: a part that narrows another stands behind it.
  const properties = new Map(
    [...all.flatMap((part) => part.properties), ...own].map((entry) => [entry[0], entry] as const),
  );
  const discriminator = object(node.discriminator);
  const mapping = Object.entries(object(discriminator?.mapping) ?? {});
  const choices = [...list(node.oneOf), ...list(node.anyOf)]
    .filter((choice) => object(document.follow(choice))?.type !== 'null')
    .map((choice) => {
      const ref = words(object(choice)?.$ref);
      const listed = mapping.find(([, target]) => target === ref || `#/components/schemas/${target}` === ref);
      const name = words(discriminator?.propertyName);
      return { schema: choice, ...(listed && name ? { mark: { name, value: listed[0] } } : {}) };
    });
  const inherited = all.find((part) => part.items !== undefined)?.items;
  return {
    properties: [...properties.values()],
    choices: [...all.flatMap((part) => part.choices), ...choices],
    items: node.items ?? inherited,
    node: Object.assign({}, ...all.map((part) => part.node).reverse(), node) as Node,
  };
}

const known = new WeakMap<object, Field[]>();

/** All places of a schema, from the top. Walked once: the same is asked of by many. */
export function fieldsOfSchema(document: ApiDocument, schema: unknown): Field[] {
  if (typeof schema !== 'object' || schema === null) return [];
  const fields = known.get(schema) ?? walkSchema(document, schema);
  known.set(schema, fields);
  return fields;
}

function walkSchema(document: ApiDocument, schema: unknown): Field[] {
  const found = new Map<string, Field>();
  let taken = 0;
  walk(schema, '$', '', true, 0);
  return [...found.values()];

  function walk(at: unknown, path: string, name: string, required: boolean, depth: number): void {
    if (depth > DEEPEST || found.size >= MOST_FIELDS || ++taken > MOST_STEPS) return;
    const { properties, choices, items, node } = readSchema(document, at);
    for (const choice of choices) walk(choice.schema, path, name, required, depth + 1);
    if (items !== undefined) walk(items, `${path}[*]`, name, required, depth + 1);
    for (const [inner, inside, must] of properties)
      walk(inside, path + step(inner), inner, must && required, depth + 1);
    if (properties.length > 0 || choices.length > 0 || items !== undefined || name === '') return;
    const known = found.get(path);
    const values = valuesOf(node);
    if (known) {
      known.values.push(...values.filter((value) => !known.values.includes(value)));
      return;
    }
    found.set(path, {
      path,
      name,
      type: typeOf(node),
      values,
      closed: node.enum !== undefined || node.const !== undefined,
      description: words(node.description),
      required,
      pattern: words(node.pattern),
      format: words(node.format),
    });
  }
}

function valuesOf(node: Node): string[] {
  const all = [...list(node.enum), node.const, node.example, ...list(node.examples)];
  return all
    .filter((value) => value !== undefined && value !== null && typeof value !== 'object')
    .map(String)
    .slice(0, 40);
}

function typeOf(node: Node): Field['type'] {
  const [type] = [node.type].flat().filter((name) => name !== 'null');
  if (type === 'string') return 'text';
  if (type === 'integer' || type === 'number') return 'number';
  if (type === 'boolean') return 'truth';
  return type === 'array' ? 'list' : typeof node.const === 'string' || node.enum ? 'text' : 'any';
}

/** All places of something that was sent, answered or posted. */
export function fieldsOfSample(sample: unknown): Field[] {
  const found = new Map<string, Field>();
  walk(sample, '$', '', 0);
  return [...found.values()];

  function walk(value: unknown, path: string, name: string, depth: number): void {
    if (depth > DEEPEST || found.size >= MOST_FIELDS) return;
    if (Array.isArray(value)) {
      for (const entry of value.slice(0, 200)) walk(entry, `${path}[*]`, name, depth + 1);
      return;
    }
    const node = object(value);
    if (node) {
      for (const [inner, inside] of Object.entries(node)) walk(inside, path + step(inner), inner, depth + 1);
      return;
    }
    const known = found.get(path);
    const values = value === null ? [] : [String(value)];
    if (known) {
      if (known.values.length < 40) known.values.push(...values.filter((each) => !known.values.includes(each)));
      return;
    }
    found.set(path, {
      path,
      name,
      type:
        typeof value === 'string'
          ? 'text'
          : typeof value === 'number'
            ? 'number'
            : typeof value === 'boolean'
              ? 'truth'
              : 'any',
      values,
      closed: false,
      description: '',
      required: false,
      pattern: '',
      format: '',
    });
  }
}

/** Two findings of the same places as one: what the document says of each, with what was seen there. */
export function together(described: readonly Field[], seen: readonly Field[]): Field[] {
  const byPath = new Map(described.map((field) => [field.path, { ...field, values: [...field.values] }]));
  for (const field of seen) {
    const known = byPath.get(field.path);
    if (!known) byPath.set(field.path, field);
    else {
      known.values = [...new Set([...known.values, ...field.values])];
      if (known.type === 'any') known.type = field.type;
    }
  }
  return [...byPath.values()];
}
