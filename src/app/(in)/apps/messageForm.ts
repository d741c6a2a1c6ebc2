/** Reads the form that says what a record becomes. */
import type { HookSender } from '../../../core/hooks/order';
import type { HookInput } from '../../../operations/hooks';
import { field } from '../../_server/forms';

export function messageIn(form: FormData): HookInput {
  return {
    name: field(form, 'name'),
    text: field(form, 'text'),
    phoneField: field(form, 'phoneField'),
    country: field(form, 'country'),
    sender: senderIn(form),
    mediaField: field(form, 'mediaField'),
    tags: field(form, 'tags').split(','),
  };
}

function senderIn(form: FormData): HookSender {
  const by = field(form, 'sender');
  if (by === 'field') return { by, field: field(form, 'senderField') };
  if (by === 'thread') return { by, otherwise: field(form, 'otherwise') };
  return { by: 'channel', channel: by };
}
