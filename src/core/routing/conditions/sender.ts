/** Whether whoever writes is a contact already. */
import { z } from 'zod';
import type { ConditionKind } from './kind';

const schema = z.strictObject({ on: z.literal('sender'), known: z.boolean() });

export const sender: ConditionKind<z.infer<typeof schema>, { on: 'sender' }> = {
  on: 'sender',
  label: 'who sends it',
  fresh: () => ({ on: 'sender', known: false }),
  fields: [
    {
      control: 'choice',
      label: 'Known or not',
      options: () => [
        ['yes', 'is a contact'],
        ['no', 'is not a contact'],
      ],
      value: ({ known }) => (known ? 'yes' : 'no'),
      set: (condition, known) => ({ ...condition, known: known === 'yes' }),
    },
  ],
  schema,
  words: ({ known }) => (known ? 'the sender is a contact' : 'the sender is not a contact'),
  saw: (_, { known }) => (known ? 'a contact' : 'nobody known'),
  matcher:
    ({ known }) =>
    (arrival) =>
      arrival.known === known,
  tellsPeopleFromMachines: true,
  atoms: () => [{ on: 'sender' }],
  positive: ({ known }) => known,
};
