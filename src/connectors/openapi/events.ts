/** The kinds of events a provider posts to us, told apart by a word in them, from what its document says and from sample posts. */
import { type ApiDocument, type Described, list, object } from './document';
import { type Field, fieldsOfSample, fieldsOfSchema, type ReadSchema, readSchema, step, together } from './fields';
import { wordsOf } from './parts';
import type { ReadSample } from './samples';

export interface PostEvent {
  key: string;
  label: string;
  /** Where events of this kind stand in a post: `$` for the post itself, `$.events[*]` for each of a list. */
  base: string;
  format: 'json' | 'form';
  /** The word that tells it from others: its path within the event. */
  mark?: { path: string; value: string };
  /** By their paths within the event. */
  fields: Field[];
}

const NAMES_A_KIND = ['type', 'event', 'kind', 'action', 'topic'];
const isMarkName = (name: string) => wordsOf(name).some((word) => NAMES_A_KIND.includes(word));

/** Every kind of event there is, each once. */
export function eventsOf(document: ApiDocument | undefined, samples: readonly ReadSample[]): PostEvent[] {
  const described = document ? document.posts.flatMap((post) => describedEvents(document, post)) : [];
  const seen = samples.filter(({ of }) => of === 'post').flatMap(seenEvents);
  const byKey = new Map<string, PostEvent>();
  for (const event of [...described, ...seen]) {
    const known = byKey.get(event.key);
    byKey.set(
      event.key,
      known ? { ...known, format: event.format, fields: together(known.fields, event.fields) } : event,
    );
  }
  return [...byKey.values()];
}

function describedEvents(document: ApiDocument, { id, body }: Described): PostEvent[] {
  if (!body) return [];
  const { format } = body;
  const name = id.replace(/^post /, '');
  const events = (schema: unknown, base: string, mark?: { name: string; value: string }, depth = 0): PostEvent[] => {
    const read = readSchema(document, schema);
    if (read.items !== undefined) return depth < 3 ? events(read.items, `${base}[*]`, mark, depth + 1) : [];
    if (read.choices.length > 0 && depth < 3)
      return read.choices.flatMap((choice) => events(choice.schema, base, choice.mark, depth + 1));
    const inside =
      base === '$'
        ? read.properties.flatMap(([property, inner]) => {
            const { items } = readSchema(document, inner);
            return items !== undefined && isThing(readSchema(document, items))
              ? events(items, `$${step(property)}[*]`, undefined, depth + 1)
              : [];
          })
        : [];
    const word = mark ?? onlyWord(document, read);
    return [
      ...inside,
      event(
        name,
        base,
        format,
        word && { path: `$${step(word.name)}`, value: word.value },
        fieldsOfSchema(document, schema),
      ),
    ];
  };
  return events(body.schema, '$');
}

const isThing = ({ properties, choices }: ReadSchema) => properties.length > 1 || choices.length > 0;

/** The one word that may stand in a field that names a kind. */
function onlyWord(document: ApiDocument, { properties }: ReadSchema): { name: string; value: string } | undefined {
  for (const [name, inner] of properties) {
    const { node } = readSchema(document, inner);
    const only = node.const ?? (list(node.enum).length === 1 ? list(node.enum)[0] : undefined);
    if (typeof only === 'string' && isMarkName(name)) return { name, value: only };
  }
  return undefined;
}

function seenEvents({ value, format }: ReadSample): PostEvent[] {
  const of = (entry: unknown, base: string): PostEvent[] => {
    const node = object(entry);
    if (!node) return [];
    const marked = Object.entries(node).find(([name, word]) => isMarkName(name) && typeof word === 'string');
    const mark = marked && { path: `$${step(marked[0])}`, value: String(marked[1]) };
    return [event('a sample', base, format, mark, fieldsOfSample(entry))];
  };
  if (Array.isArray(value)) return value.slice(0, 200).flatMap((entry) => of(entry, '$[*]'));
  const inside = Object.entries(object(value) ?? {}).flatMap(([name, inner]) =>
    list(inner)
      .slice(0, 200)
      .flatMap((entry) => of(entry, `$${step(name)}[*]`)),
  );
  return [...inside, ...of(value, '$')];
}

function event(
  name: string,
  base: string,
  format: 'json' | 'form',
  mark: PostEvent['mark'],
  fields: Field[],
): PostEvent {
  const where = base === '$' ? 'the post' : `each of ${base.replace(/^\$\.?/, '').replace('[*]', '') || 'the list'}`;
  return {
    key: `${base} ${mark ? `${mark.path}=${mark.value}` : name}`,
    label: mark ? `${where} with ${mark.path.replace(/^\$\.?/, '')} “${mark.value}”` : `${where} (${name})`,
    base,
    format,
    mark,
    fields,
  };
}

/** Whether the posts of these events are read as lists with one element, so that a path can choose among them. */
export function isRead(events: readonly (PostEvent | undefined)[]): 'json' | 'json-event' | 'form' {
  const there = events.filter((event) => event !== undefined);
  if (there.some(({ format }) => format === 'form')) return 'form';
  return there.some(({ base }) => base === '$') && there.length > 1 ? 'json-event' : 'json';
}

/** The path at which a profile finds every event of a kind; `tells` is a field only such events have. */
export function eachOf(
  { base, mark }: PostEvent,
  read: 'json' | 'json-event' | 'form',
  tells: string | undefined,
): string {
  const within = (path: string) => path.replace(/^\$/, '@');
  const test = mark
    ? `?${within(mark.path)}=='${mark.value.replace(/[\\']/g, (sign) => `\\${sign}`)}'`
    : tells
      ? `?${within(tells)}`
      : '*';
  if (base === '$') return read === 'json' ? '$' : `$[${test}]`;
  return `${read === 'json-event' ? '$[*]' : '$'}${base.slice(1, -'[*]'.length)}[${test}]`;
}
