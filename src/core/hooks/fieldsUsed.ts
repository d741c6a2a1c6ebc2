/** Which fields of a record a message is made of. Pure. */
import type { Template } from 'liquidjs';
import { liquid } from '../text/liquid';
import type { HookDefinition } from './order';

/**
 * The names of the fields, joined by dots; `everything` where the text goes through the whole
 * record or picks a field by the value of another.
 */
export type FieldsUsed = ReadonlySet<string> | 'everything';

export function fieldsUsed({ text, template, phoneField, sender, mediaField }: HookDefinition): FieldsUsed {
  const fixed = [phoneField, sender.by === 'field' ? sender.field : undefined, mediaField].filter(
    (name): name is string => Boolean(name),
  );
  const merged = template
    ? Object.values(template.mapping).flatMap((source) => (source.from === 'field' ? [source.field] : []))
    : fieldsOfText(text);
  return merged === 'everything' ? merged : new Set([...fixed, ...merged]);
}

function fieldsOfText(text: string): string[] | 'everything' {
  let parts: Template[];
  try {
    parts = liquid.parse(text);
  } catch {
    // No message is made of a text that cannot be read.
    return [];
  }
  const names: string[] = [];
  for (const segments of liquid.globalVariableSegmentsSync(parts)) {
    const path = segments[0] === 'post' ? segments.slice(1) : segments;
    const [first] = path;
    if (typeof first !== 'string' && typeof first !== 'number') return 'everything';
    const whole = path.map((segment) => (Array.isArray(segment) ? '' : String(segment)));
    // A column’s name may hold dots, and a group is used by whoever uses a field in it.
    for (let taken = 1; taken <= whole.length; taken++) names.push(whole.slice(0, taken).join('.'));
  }
  return names;
}
