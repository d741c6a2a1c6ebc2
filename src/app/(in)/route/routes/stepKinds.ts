/** The kinds of steps there are, and what each begins as. */
import type { OfficeHours } from '../../../../core/routing/hours';
import type { RouteChoices } from '../../../../core/routing/names';
import type { RouteStep } from '../../../../core/routing/route';
import { guessMapping, type Source } from '../../../../core/templates/mapping';
import { allVariables, type Variant } from '../../../../core/templates/template';
import { listFields } from '../../../../core/text/fields';

export interface StepContext {
  choices: RouteChoices;
  hours: readonly OfficeHours[];
}

/** What a message looks like to the fields of a template. */
export const SAMPLE = {
  message: { text: 'BOOK Tuesday 14:20', from: '+447700900123', to: '+442079460114' },
  contact: { name: 'Alex Reed', 'first name': 'Alex', phone: '+447700900123', country: 'GB', language: 'en' },
  channel: { name: 'Front desk', number: '+442079460114' },
};

export function guessesFor(variants: readonly Variant[]): Record<string, Source> {
  return guessMapping(
    allVariables(variants),
    listFields(SAMPLE).map(({ name }) => name),
  );
}

export const first = (pairs: readonly [string, string][]) => pairs[0]?.[0] ?? '';

export const KINDS: readonly (readonly [string, string, (context: StepContext) => RouteStep])[] = [
  ['reply', 'reply with a text', () => ({ do: 'reply', text: '' })],
  [
    'template',
    'reply with a template',
    ({ choices }) => ({
      do: 'reply',
      template: first(choices.templates),
      mapping: guessesFor(choices.offers.find(({ id }) => id === first(choices.templates))?.variants ?? []),
    }),
  ],
  [
    'ask',
    'ask and wait for the answer',
    () => ({ do: 'ask', text: '', keep: '', answers: [], otherwise: [], minutes: 60, late: [] }),
  ],
  ['wait', 'wait', () => ({ do: 'wait', minutes: 10 })],
  [
    'branch',
    'branch on a condition',
    () => ({ do: 'branch', cases: [{ when: { match: 'all', of: [] }, steps: [] }], otherwise: [] }),
  ],
  [
    'assign',
    'assign the conversation',
    ({ choices }) => ({ do: 'assign', whom: { to: 'person', id: first(choices.people) } }),
  ],
  ['record', 'create a record', ({ choices }) => ({ do: 'record', action: first(choices.actions) })],
  ['tag', 'tag the sender', () => ({ do: 'tag', tag: '', remove: false })],
  ['attribute', 'set an attribute', () => ({ do: 'attribute', name: '', value: '' })],
  ['tell', 'notify an app', ({ choices }) => ({ do: 'tell', app: first(choices.apps) })],
  ['append', 'add a row to a sheet', ({ choices }) => ({ do: 'append', sheet: first(choices.sheets) })],
  [
    'notify',
    'send an e-mail',
    () => ({ do: 'notify', to: [], subject: '', text: '{{ contact.name }} wrote: {{ message.text }}' }),
  ],
  ['close', 'close the conversation', () => ({ do: 'close' })],
  ['opt-out', 'record an opt-out', () => ({ do: 'opt-out' })],
  ['stop', 'stop here', () => ({ do: 'stop' })],
];
