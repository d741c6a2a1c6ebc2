/** The state the conversation is in before the message. */
import { z } from 'zod';
import type { ConversationState } from '../arrival';
import { list } from '../names';
import type { ConditionKind } from './kind';

const STATES = ['new', 'open', 'waiting', 'closed'] as const satisfies readonly ConversationState[];

const schema = z.strictObject({ on: z.literal('conversation'), states: z.array(z.enum(STATES)).readonly() });

export const conversation: ConditionKind<z.infer<typeof schema>, { on: 'conversation'; state: ConversationState }> = {
  on: 'conversation',
  label: 'the conversation',
  fresh: () => ({ on: 'conversation', states: ['new'] }),
  fields: [
    {
      control: 'several',
      label: 'States',
      options: () => [
        ['new', 'is new'],
        ['open', 'is open'],
        ['waiting', 'waits for them'],
        ['closed', 'is closed'],
      ],
      value: ({ states }) => states,
      set: (condition, states) => ({ ...condition, states: states as readonly ConversationState[] }),
    },
  ],
  schema,
  words: ({ states }) => `the conversation is ${list(states)}`,
  saw: (_, arrival) => arrival.conversation,
  matcher:
    ({ states }) =>
    (arrival) =>
      states.includes(arrival.conversation),
  tellsPeopleFromMachines: true,
  atoms: ({ states }) => states.map((state) => ({ on: 'conversation', state })),
  excludes: (one, other) => one.state !== other.state,
  alternatives: () => STATES.map((state) => ({ on: 'conversation', state })),
};
