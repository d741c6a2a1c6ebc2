/** Whether a file comes with the message. */
import { z } from 'zod';
import type { ConditionKind } from './kind';

const schema = z.strictObject({ on: z.literal('media'), has: z.boolean() });

export const media: ConditionKind<z.infer<typeof schema>, { on: 'media' }> = {
  on: 'media',
  label: 'a file',
  fresh: () => ({ on: 'media', has: true }),
  fields: [
    {
      control: 'choice',
      label: 'With or without',
      options: () => [
        ['with', 'comes with it'],
        ['without', 'does not come with it'],
      ],
      value: ({ has }) => (has ? 'with' : 'without'),
      set: (condition, has) => ({ ...condition, has: has === 'with' }),
    },
  ],
  schema,
  words: ({ has }) => (has ? 'it comes with a file' : 'it comes without a file'),
  saw: (_, arrival) => (arrival.media ? 'a file' : 'no file'),
  matcher:
    ({ has }) =>
    (arrival) =>
      arrival.media === has,
  tellsPeopleFromMachines: false,
  atoms: () => [{ on: 'media' }],
  positive: ({ has }) => has,
};
