/** The template a message answers. */
import { z } from 'zod';
import { list } from '../names';
import type { ConditionKind } from './kind';

const schema = z.strictObject({
  on: z.literal('answers'),
  templates: z.array(z.string().max(80)).max(50).readonly(),
});

export const answers: ConditionKind<z.infer<typeof schema>, { on: 'answers'; template: string }> = {
  on: 'answers',
  label: 'what it answers',
  fresh: () => ({ on: 'answers', templates: [] }),
  fields: [
    {
      control: 'several',
      label: 'Templates',
      options: ({ choices }) => choices.answerable,
      value: ({ templates }) => templates,
      set: (condition, templates) => ({ ...condition, templates }),
    },
  ],
  schema,
  words: ({ templates }, names) => `it answers the template ${list(templates.map(names.template))}`,
  saw: (_, arrival, __, names) => (arrival.answers === undefined ? 'no template' : names.template(arrival.answers)),
  matcher:
    ({ templates }) =>
    (arrival) =>
      arrival.answers !== undefined && templates.includes(arrival.answers),
  tellsPeopleFromMachines: true,
  atoms: ({ templates }) => templates.map((template) => ({ on: 'answers', template })),
  excludes: (one, other) => one.template !== other.template,
};
