/** The channel a message comes in over. */
import { z } from 'zod';
import { list } from '../names';
import type { ConditionKind } from './kind';

const schema = z.strictObject({ on: z.literal('channel'), ids: z.array(z.string().max(80)).max(200).readonly() });

export const channel: ConditionKind<z.infer<typeof schema>, { on: 'channel'; id: string }> = {
  on: 'channel',
  label: 'the channel',
  fresh: ({ choices }) => ({ on: 'channel', ids: choices.channels.slice(0, 1).map(([id]) => id) }),
  fields: [
    {
      control: 'several',
      label: 'Channels',
      options: ({ choices }) => choices.channels,
      value: ({ ids }) => ids,
      set: (condition, ids) => ({ ...condition, ids }),
    },
  ],
  schema,
  words: ({ ids }, names) => `it comes in over ${list(ids.map(names.channel))}`,
  saw: (_, arrival, __, names) => names.channel(arrival.channel),
  matcher({ ids }) {
    const wanted = new Set(ids);
    return (arrival) => wanted.has(arrival.channel);
  },
  tellsPeopleFromMachines: false,
  atoms: ({ ids }) => ids.map((id) => ({ on: 'channel', id })),
  excludes: (one, other) => one.id !== other.id,
};
