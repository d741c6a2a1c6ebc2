/** What a hook, a sheet or a calendar makes of records: how the message is read from a form, checked and kept. */
import type { HookDefinition, HookSender } from '../../../core/hooks/order';
import { allVariables } from '../../../core/templates/template';
import { mergeText } from '../../../core/text/merge';
import type { SendHookRow, TemplateUse } from '../../../store/schema/rows';
import type { Tables } from '../../../store/schema/tables';
import type { Unit } from '../../../store/store';
import { invalid, invalidText } from '../../context';
import { servedContent } from '../../templates';

/** How a message of records leaves. */
export interface SenderInput {
  sender: HookSender;
}

export interface HookInput extends SenderInput {
  name: string;
  text: string;
  phoneField: string;
  /** Of a send hook: a post begins a broadcast to these, whatever phone it names. */
  audience?: string;
  country?: string;
  mediaField?: string;
  tags?: string[];
  /** Sent instead of the text. */
  template?: TemplateUse;
}

/** What records become, as its columns hold it. Throws what is wrong at its field. */
export async function readMessage(unit: Unit, input: HookInput) {
  if (input.template) await requireTemplate(unit, input.template);
  else requireText(input.text);
  if (!input.audience && !input.phoneField.trim())
    throw invalidText('phoneField', 'The field with the phone number is not chosen.', 'Choose it from a real post.');
  await requireSender(unit, input.sender);
  return {
    text: input.template ? '' : input.text.trim(),
    phone_field: input.phoneField.trim(),
    country: input.country || null,
    sender: input.sender,
    media_field: input.mediaField || null,
    template: input.template ?? null,
    tags: [...new Set((input.tags ?? []).map((tag) => tag.trim()).filter(Boolean))],
  };
}

function requireText(text: string): void {
  if (!text.trim()) throw invalidText('text', 'There is no message.', 'Write what is to be sent.');
  // Findings about a field need a post; what no post could fix is refused here.
  const broken = mergeText(text, {}).findings.find((finding) => finding.code === 'merge-broken');
  if (broken) throw invalid('text', broken);
}

async function requireTemplate(unit: Unit, { id, mapping }: TemplateUse): Promise<void> {
  const served = await servedContent(unit, id);
  if (!served) throw invalidText('template', 'There is no such template.', 'Choose one.');
  const missing = allVariables(served.content.variants).find((name) => mapping[name] === undefined);
  if (missing !== undefined)
    throw invalidText(
      `template.${missing}`,
      `Nothing is mapped to {{ ${missing} }}.`,
      'Choose a field, an attribute or a constant.',
    );
}

async function requireSender(unit: Unit, sender: HookSender): Promise<void> {
  const id = sender.by === 'channel' ? sender.channel : sender.by === 'thread' ? sender.otherwise : undefined;
  if (id !== undefined && !(await unit.channels.one({ id })))
    throw invalidText('channel', 'The number to send from is not chosen.', 'Choose a channel.');
  if (sender.by === 'field' && !sender.field)
    throw invalidText('senderField', 'The field that names the sender is not chosen.', 'Choose a field.');
}

type MessageColumns = Pick<SendHookRow, 'text' | 'phone_field' | 'country' | 'sender' | 'media_field' | 'template'> &
  Partial<Pick<SendHookRow, 'audience_id'>>;

/** What a hook makes of posts; undefined while nobody has written its message, and where it goes to an audience. */
export async function definitionOf(tables: Tables, hook: MessageColumns): Promise<HookDefinition | undefined> {
  if (!hook.sender || !isWritten(hook) || hook.audience_id) return undefined;
  const served = hook.template ? await servedContent(tables, hook.template.id) : undefined;
  if (hook.template && !served) return undefined;
  return {
    ...(hook.template && served ? { template: { ...hook.template, variants: served.content.variants } } : {}),
    text: hook.text,
    phoneField: hook.phone_field,
    country: hook.country ?? undefined,
    sender: hook.sender,
    mediaField: hook.media_field ?? undefined,
  };
}

export function isWritten({ text, template, sender }: Pick<MessageColumns, 'text' | 'template' | 'sender'>): boolean {
  return (text !== '' || template !== null) && sender !== null;
}
