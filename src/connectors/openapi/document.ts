/**
 * What an OpenAPI 3.0 or 3.1 document says of an interface, taken out of it: the calls one may make, what is posted to
 * whoever asks, and how a caller proves itself. References lead within the document only; nothing is fetched.
 */
import { LineCounter, parseDocument } from 'yaml';
import type { Finding } from '../../core/finding';

/** Characters; what is longer is no document that a person reads either. */
export const LONGEST_DOCUMENT = 800_000;
const MOST_MISTAKES = 20;
const MOST_CALLS = 400;
const METHODS = ['get', 'post', 'put', 'patch', 'delete'] as const;

/** A part of the document as it was written. */
export type Node = Readonly<Record<string, unknown>>;

export interface Parameter {
  name: string;
  in: 'path' | 'query' | 'header';
  required: boolean;
  schema: unknown;
  description: string;
}

export interface Answer {
  /** As the document writes it: `200`, `4XX` or `default`. */
  status: string;
  schema: unknown;
}

export interface Described {
  /** Method and path, or the name of a post to us; unlike any other's. */
  id: string;
  method: string;
  path: string;
  summary: string;
  parameters: Parameter[];
  body?: { format: 'json' | 'form'; schema: unknown };
  answers: Answer[];
  /** Names of the security schemes, the first choice of several. */
  security: string[];
}

export interface Scheme {
  type: 'basic' | 'bearer' | 'header' | 'query' | 'other';
  /** Of the header or query field. */
  name: string;
  description: string;
}

export interface ApiDocument {
  title: string;
  /** Everything said about all of it, for what is said nowhere else. */
  prose: string;
  server: string;
  calls: Described[];
  /** What is posted to whoever asks: webhooks (3.1) and callbacks. */
  posts: Described[];
  schemes: Record<string, Scheme>;
  /** What a reference leads to, through any number of others. Undefined where it leads nowhere. */
  follow(value: unknown): unknown;
}

export type DocumentReading =
  | { document: ApiDocument; mistakes: Finding[] }
  | { document: undefined; mistakes: Finding[] };

/** Everything wrong with the document, each at its place, and what it says as far as it can be read. */
export async function readDocument(text: string): Promise<DocumentReading> {
  const refuse = (problem: string, place = { from: 0, to: 1 }): DocumentReading => ({
    document: undefined,
    mistakes: [mistake(problem, place)],
  });
  if (text.trim() === '') return { document: undefined, mistakes: [] };
  if (text.length > LONGEST_DOCUMENT) return refuse(`The document has more than ${LONGEST_DOCUMENT} characters.`);
  const written = parseDocument(text, { lineCounter: new LineCounter(), prettyErrors: false, uniqueKeys: true });
  const [wrong] = written.errors;
  if (wrong) return refuse(wrong.message, { from: wrong.pos[0], to: Math.max(wrong.pos[1], wrong.pos[0] + 1) });
  let root: Node | undefined;
  try {
    root = object(written.toJS({ maxAliasCount: 50 }));
  } catch (error) {
    return refuse((error as Error).message);
  }
  const version = String(root?.openapi ?? '');
  if (!root || !/^3\.[01]\./.test(version))
    return refuse(
      version || root?.swagger
        ? `This is version ${version || String(root?.swagger)}; documents of OpenAPI 3.0 and 3.1 are read.`
        : 'This is no OpenAPI document: it does not begin with “openapi: 3.0” or “3.1”.',
    );
  const place = (path: readonly string[]): { from: number; to: number } => {
    for (let length = path.length; length > 0; length--) {
      const node = written.getIn(path.slice(0, length), true) as { range?: [number, number, number] } | undefined;
      if (node?.range) return { from: node.range[0], to: Math.max(node.range[1], node.range[0] + 1) };
    }
    return { from: 0, to: 1 };
  };
  const mistakes = [...brokenReferences(root, place), ...(await againstStandard(root, place))];
  return { document: taken(root), mistakes: mistakes.slice(0, MOST_MISTAKES) };
}

type Places = (path: readonly string[]) => { from: number; to: number };

function brokenReferences(root: Node, place: Places): Finding[] {
  const found: Finding[] = [];
  const walk = (value: unknown, path: string[]): void => {
    if (found.length >= MOST_MISTAKES || path.length > 100) return;
    if (Array.isArray(value)) for (const [index, entry] of value.entries()) walk(entry, [...path, String(index)]);
    const node = object(value);
    if (!node) return;
    const ref = node.$ref;
    if (typeof ref === 'string' && !path.includes('example') && !path.includes('examples')) {
      if (!ref.startsWith('#'))
        found.push(mistake(`“${ref}” is in another file. Put everything into one document.`, place([...path, '$ref'])));
      else if (pointed(root, ref) === undefined) {
        const near = nearest(root, ref);
        found.push(mistake(`“${ref}” leads nowhere.${near ? ` Is “${near}” meant?` : ''}`, place([...path, '$ref'])));
      }
    }
    for (const [name, inner] of Object.entries(node)) walk(inner, [...path, name]);
  };
  walk(root, []);
  return found;
}

/** The member beside the missing one whose name is most like it: at most two letters away. */
function nearest(root: Node, ref: string): string | undefined {
  const at = ref.lastIndexOf('/');
  const beside = object(pointed(root, ref.slice(0, at)));
  const name = ref.slice(at + 1);
  const close = Object.keys(beside ?? {}).find((other) => distance(other.toLowerCase(), name.toLowerCase()) <= 2);
  return close && `${ref.slice(0, at)}/${close}`;
}

/** Letters to be put in, taken out or changed (Levenshtein). */
function distance(one: string, other: string): number {
  if (Math.abs(one.length - other.length) > 2) return 3;
  let row = Array.from({ length: other.length + 1 }, (_, index) => index);
  for (let i = 1; i <= one.length; i++) {
    const next = [i];
    for (let j = 1; j <= other.length; j++)
      next[j] = Math.min(
        (row[j] as number) + 1,
        (next[j - 1] as number) + 1,
        (row[j - 1] as number) + (one[i - 1] === other[j - 1] ? 0 : 1),
      );
    row = next;
  }
  return row[other.length] as number;
}

/** What the schema of the OpenAPI specification says of it; a fault deep inside is told at its place and nowhere above. */
async function againstStandard(root: Node, place: Places): Promise<Finding[]> {
  const { Validator } = await import('@seriousme/openapi-schema-validator');
  const result = await new Validator().validate(structuredClone(root) as Record<string, unknown>);
  if (result.valid || typeof result.errors === 'string' || !result.errors) return [];
  const named = (result.errors as { instancePath?: string; message?: string; keyword?: string }[])
    .filter(({ keyword }) => keyword !== 'oneOf' && keyword !== 'anyOf' && keyword !== 'if')
    .map(({ instancePath = '', message = '' }) => ({ path: steps(instancePath), message }))
    .sort((a, b) => b.path.length - a.path.length);
  const deepest = named[0]?.path.length ?? 0;
  const told = new Set<string>();
  return named.flatMap(({ path, message }) => {
    const where = path.join('.') || 'The document';
    // Of the branches a schema offers, those that were not meant complain further up.
    if (path.length < deepest - 1 || told.has(where) || told.size >= 3 || / \$ref'?$/.test(message)) return [];
    told.add(where);
    return [mistake(`${where}: ${message}.`, place(path), 'attention')];
  });
}

function mistake(problem: string, place: Finding['place'], severity: Finding['severity'] = 'error'): Finding {
  return {
    code: 'document-wrong',
    severity,
    problem,
    remedy: 'Correct it here; what can be read of the rest is used.',
    place,
  };
}

export const object = (value: unknown): Node | undefined =>
  typeof value === 'object' && value !== null && !Array.isArray(value) ? (value as Node) : undefined;
export const list = (value: unknown): unknown[] => (Array.isArray(value) ? value : []);
export const words = (value: unknown): string => (typeof value === 'string' ? value : '');

/** The steps of a JSON pointer (RFC 6901), escapes undone. */
function steps(pointer: string): string[] {
  return pointer
    .replace(/^#/, '')
    .split('/')
    .slice(1)
    .map((step) => safely(step).replaceAll('~1', '/').replaceAll('~0', '~'));
}

function safely(step: string): string {
  try {
    return decodeURIComponent(step);
  } catch {
    return step;
  }
}

function pointed(root: Node, ref: string): unknown {
  let at: unknown = root;
  for (const step of steps(ref)) {
    if (Array.isArray(at)) at = at[Number(step)];
    else at = object(at) && Object.hasOwn(at as Node, step) ? (at as Node)[step] : undefined;
  }
  return at;
}

function taken(root: Node): ApiDocument {
  const follow = (value: unknown): unknown => {
    let at = value;
    for (let hops = 0; hops < 20; hops++) {
      const ref = object(at)?.$ref;
      if (typeof ref !== 'string') return at;
      at = ref.startsWith('#') ? pointed(root, ref) : undefined;
    }
    return undefined;
  };
  const at = (value: unknown): Node => object(follow(value)) ?? {};
  const info = at(root.info);

  const parametersOf = (...lists: unknown[]): Parameter[] => {
    const byName = new Map<string, Parameter>();
    for (const entry of lists.flatMap(list)) {
      const node = at(entry);
      const where = words(node.in);
      if (where !== 'path' && where !== 'query' && where !== 'header') continue;
      const name = words(node.name);
      byName.set(`${where} ${name}`, {
        name,
        in: where,
        required: where === 'path' || node.required === true,
        schema: node.schema,
        description: words(node.description),
      });
    }
    return [...byName.values()];
  };

  const bodyOf = (value: unknown): Described['body'] => {
    const content = at(at(value).content);
    const type = Object.keys(content).find((name) => isJson(name)) ?? Object.keys(content).find(isForm);
    return type ? { format: isJson(type) ? 'json' : 'form', schema: at(content[type]).schema } : undefined;
  };

  const answersOf = (value: unknown): Answer[] =>
    Object.entries(at(value)).map(([status, entry]) => {
      const content = at(at(entry).content);
      const type = Object.keys(content).find((name) => isJson(name));
      return { status, schema: type ? at(content[type]).schema : undefined };
    });

  const described = (id: string, method: string, path: string, item: Node, operation: Node): Described => {
    const chosen = list(operation.security ?? root.security)[0];
    return {
      id,
      method: method.toUpperCase(),
      path,
      summary: words(operation.summary) || words(operation.description) || words(operation.operationId),
      parameters: parametersOf(item.parameters, operation.parameters),
      body: bodyOf(operation.requestBody),
      answers: answersOf(operation.responses),
      security: Object.keys(object(chosen) ?? {}),
    };
  };

  const calls: Described[] = [];
  const posts: Described[] = [];
  const post = (name: string, path: string, item: Node) => {
    for (const method of METHODS)
      if (object(item[method]) && posts.length < MOST_CALLS)
        posts.push(described(`post ${name}`, method, path, item, at(item[method])));
  };
  for (const [path, value] of Object.entries(at(root.paths))) {
    const item = at(value);
    for (const method of METHODS) {
      const operation = object(item[method]);
      if (!operation || calls.length >= MOST_CALLS) continue;
      calls.push(described(`${method.toUpperCase()} ${path}`, method, path, item, operation));
      for (const [name, callback] of Object.entries(at(operation.callbacks)))
        for (const [where, entry] of Object.entries(at(callback))) post(name, where, at(entry));
    }
  }
  for (const [name, value] of Object.entries(at(root.webhooks))) post(name, name, at(value));

  const schemes = Object.fromEntries(
    Object.entries(at(at(root.components).securitySchemes)).map(([name, value]) => [name, schemeOf(at(value))]),
  );
  return {
    title: words(info.title) || 'A provider',
    prose: `${words(info.summary)} ${words(info.description)}`,
    server: serverOf(at(list(root.servers)[0])),
    calls,
    posts: posts.filter((one, index) => posts.findIndex(({ id }) => id === one.id) === index),
    schemes,
    follow,
  };
}

const isJson = (type: string) => /^application\/([\w.+-]+\+)?json\b/i.test(type);
const isForm = (type: string) => /^application\/x-www-form-urlencoded\b/i.test(type);

/** The address with the first value of each of its variables. */
function serverOf(server: Node): string {
  const variables = object(server.variables) ?? {};
  return words(server.url)
    .replace(/\{(\w+)\}/g, (_, name: string) => words(object(variables[name])?.default))
    .replace(/\/+$/, '');
}

function schemeOf(node: Node): Scheme {
  const description = words(node.description);
  const scheme = words(node.scheme).toLowerCase();
  if (node.type === 'http' && (scheme === 'basic' || scheme === 'bearer'))
    return { type: scheme, name: 'authorization', description };
  if (node.type === 'apiKey' && (node.in === 'header' || node.in === 'query'))
    return { type: node.in, name: words(node.name), description };
  if (node.type === 'oauth2' || node.type === 'openIdConnect')
    return { type: 'bearer', name: 'authorization', description };
  return { type: 'other', name: words(node.name), description };
}
