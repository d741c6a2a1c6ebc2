/** The quick reply that was pressed. */
import { z } from 'zod';
import { plainWords } from '../keyword';
import { quoted } from '../names';
import type { ConditionKind } from './kind';

const schema = z.strictObject({
  on: z.literal('button'),
  labels: z.array(z.string().max(200)).max(50).readonly(),
});

export const button: ConditionKind<z.infer<typeof schema>, { on: 'button'; label: string }> = {
  on: 'button',
  label: 'a button',
  fresh: () => ({ on: 'button', labels: [] }),
  fields: [
    {
      control: 'words',
      label: 'labels',
      value: ({ labels }) => labels,
      set: (condition, labels) => ({ ...condition, labels }),
    },
  ],
  schema,
  words: ({ labels }) => `the button ${quoted(labels)} was pressed`,
  saw: (_, arrival) => arrival.button ?? 'no button',
  matcher({ labels }) {
    const wanted = new Set(labels.map(plainWords));
    return (arrival) => arrival.button !== undefined && wanted.has(plainWords(arrival.button));
  },
  tellsPeopleFromMachines: true,
  atoms: ({ labels }) => labels.map((label) => ({ on: 'button', label: plainWords(label) })),
  excludes: (one, other) => one.label !== other.label,
};
