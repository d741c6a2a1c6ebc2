/** Reads the form that says what a record becomes. */
import type { HookSender } from '../../../core/hooks/order';
import type { Source } from '../../../core/templates/mapping';
import type { HookInput } from '../../../operations/apps/hooks';
import { field } from '../../_server/forms';
import { TO_AUDIENCE } from './_parts/toAudience';

export function messageIn(form: FormData): HookInput {
  return {
    name: field(form, 'name'),
    text: field(form, 'text'),
    ...recipientIn(form),
    country: field(form, 'country'),
    sender: senderIn(form),
    mediaField: field(form, 'mediaField'),
    tags: field(form, 'tags').split(','),
    template: templateIn(form),
  };
}

/** A field of the record, or an audience as `audience:` and its id. */
function recipientIn(form: FormData): Pick<HookInput, 'phoneField' | 'audience'> {
  const chosen = field(form, 'phoneField');
  return chosen.startsWith(TO_AUDIENCE)
    ? { phoneField: '', audience: chosen.slice(TO_AUDIENCE.length) }
    : { phoneField: chosen };
}

function senderIn(form: FormData): HookSender {
  const by = field(form, 'sender');
  if (by === 'field') return { by, field: field(form, 'senderField') };
  if (by === 'thread') return { by, otherwise: field(form, 'otherwise') };
  return { by: 'channel', channel: by };
}

/** Each variable has `map.name`: a field, `@name` for an attribute of the contact, `=` for a constant in `constant.name`, or nothing; and `fallback.name`. */
function templateIn(form: FormData): HookInput['template'] {
  const id = field(form, 'template');
  if (!id) return undefined;
  const mapping: Record<string, Source> = {};
  for (const key of form.keys()) {
    if (!key.startsWith('map.')) continue;
    const variable = key.slice('map.'.length);
    const from = field(form, key);
    if (from === '=') mapping[variable] = { from: 'constant', value: field(form, `constant.${variable}`) };
    else if (from !== '') {
      const fallback = field(form, `fallback.${variable}`);
      mapping[variable] = from.startsWith('@')
        ? { from: 'attribute', attribute: from.slice(1), fallback }
        : { from: 'field', field: from, fallback };
    }
  }
  return { id, mapping };
}
