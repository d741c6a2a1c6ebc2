/** Whether the sender has a tag. */
import { z } from 'zod';
import { list } from '../names';
import type { ConditionKind } from './kind';

const schema = z.strictObject({ on: z.literal('tag'), tag: z.string().max(200), has: z.boolean() });

export const tag: ConditionKind<z.infer<typeof schema>, { on: 'tag'; tag: string }> = {
  on: 'tag',
  label: 'a tag',
  fresh: () => ({ on: 'tag', tag: '', has: true }),
  fields: [
    {
      control: 'choice',
      label: 'Has or lacks',
      options: () => [
        ['has', 'the sender has'],
        ['lacks', 'the sender lacks'],
      ],
      value: ({ has }) => (has ? 'has' : 'lacks'),
      set: (condition, has) => ({ ...condition, has: has === 'has' }),
    },
    {
      control: 'word',
      label: 'tag',
      suggestions: ({ choices }) => choices.tags,
      value: (condition) => condition.tag,
      set: (condition, text) => ({ ...condition, tag: text.toLowerCase() }),
    },
  ],
  schema,
  words: (condition) => `the sender ${condition.has ? 'has' : 'lacks'} the tag ${condition.tag || '…'}`,
  saw: (_, { tags }) => (tags.length > 0 ? list(tags, 'and') : 'no tags'),
  matcher: (condition) => (arrival) => arrival.tags.includes(condition.tag) === condition.has,
  tellsPeopleFromMachines: false,
  atoms: (condition) => [{ on: 'tag', tag: condition.tag }],
  positive: ({ has }) => has,
};
