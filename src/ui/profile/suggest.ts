/**
 * What may stand at a place in a YAML text, by a JSON Schema: names of properties where a
 * name begins, words of an enumeration where a value does. Pure; block style, as profiles
 * are written.
 */
export interface JsonSchema {
  type?: string | string[];
  properties?: Record<string, JsonSchema>;
  additionalProperties?: boolean | JsonSchema;
  items?: JsonSchema;
  anyOf?: JsonSchema[];
  oneOf?: JsonSchema[];
  enum?: unknown[];
  const?: unknown;
  description?: string;
  $ref?: string;
  $defs?: Record<string, JsonSchema>;
}

export interface Suggestion {
  text: string;
  detail?: string;
}

export interface Suggestions {
  /** Where the word that is being typed begins, as an offset. */
  from: number;
  options: Suggestion[];
}

export function suggestAt(schema: JsonSchema, text: string, offset: number): Suggestions {
  const lineStart = text.lastIndexOf('\n', offset - 1) + 1;
  const line = text.slice(lineStart, offset);
  const value = /^(\s*)(- )?([\w-]+):\s+(\S*)$/.exec(line);
  const kind = /^kind:\s*(\S+)/m.exec(text)?.[1];
  if (value) {
    const [, space = '', dash, name = '', typed = ''] = value;
    const places = placesAt(schema, [...above(space, dash), name], kind);
    return { from: offset - typed.length, options: unique(places.flatMap(wordsOf)) };
  }
  const name = /^(\s*)(- )?([\w-]*)$/.exec(line);
  if (!name) return { from: offset, options: [] };
  const [, space = '', dash, typed = ''] = name;
  const places = placesAt(schema, above(space, dash), kind);
  return { from: offset - typed.length, options: unique(places.flatMap(namesOf)) };

  function above(space: string, dash: string | undefined): string[] {
    const path = pathTo(text.slice(0, lineStart), space.length);
    return dash ? [...path, '[]'] : path;
  }
}

/** Keys above a line with that indentation, from the outside in; an element of a list is `[]`. */
function pathTo(before: string, indentation: number): string[] {
  const path: string[] = [];
  let level = indentation;
  for (const line of before.split('\n').reverse()) {
    const match = /^(\s*)(- )?([\w-]+):/.exec(line);
    if (!match) continue;
    const [, space = '', dash, key = ''] = match;
    if (dash && space.length + 2 === level) {
      path.unshift('[]');
      level = space.length;
      continue;
    }
    const depth = space.length + (dash ? 2 : 0);
    if (depth < level) {
      path.unshift(key);
      level = depth;
      if (dash) {
        path.unshift('[]');
        level = space.length;
      }
    }
  }
  return path;
}

/** Every schema that may apply at a path; with a `kind` given, only alternatives of that kind. */
function placesAt(root: JsonSchema, path: readonly string[], kind: string | undefined): JsonSchema[] {
  let places = alternatives(root, root).filter(
    (place) => kind === undefined || !place.properties?.kind?.const || place.properties.kind.const === kind,
  );
  for (const key of path) {
    places = places
      .flatMap((place) => (key === '[]' ? [place.items] : [propertyOf(place, key)]))
      .filter((place): place is JsonSchema => place !== undefined)
      .flatMap((place) => alternatives(place, root));
  }
  return places;
}

function propertyOf(place: JsonSchema, key: string): JsonSchema | undefined {
  const own = place.properties && Object.hasOwn(place.properties, key) ? place.properties[key] : undefined;
  return own ?? (typeof place.additionalProperties === 'object' ? place.additionalProperties : undefined);
}

function alternatives(place: JsonSchema, root: JsonSchema, depth = 0): JsonSchema[] {
  if (depth > 6) return [];
  if (place.$ref) {
    const target = root.$defs?.[place.$ref.split('/').at(-1) ?? ''];
    return target ? alternatives(target, root, depth + 1) : [];
  }
  const several = place.oneOf ?? place.anyOf;
  return several ? several.flatMap((entry) => alternatives(entry, root, depth + 1)) : [place];
}

function namesOf(place: JsonSchema): Suggestion[] {
  return Object.entries(place.properties ?? {}).map(([text, entry]) => ({
    text: `${text}: `,
    detail: entry.description,
  }));
}

function wordsOf(place: JsonSchema): Suggestion[] {
  if (place.type === 'boolean') return [{ text: 'true' }, { text: 'false' }];
  const words = place.const === undefined ? (place.enum ?? []) : [place.const];
  return words.map((word) => ({ text: String(word), detail: place.description }));
}

function unique(options: readonly Suggestion[]): Suggestion[] {
  return [...new Map(options.map((option) => [option.text, option])).values()];
}
