/** Whether a set of office hours is open when the message arrives. */
import { z } from 'zod';
import { hoursAt, type OfficeHours } from '../hours';
import type { ConditionKind } from './kind';

const schema = z.strictObject({ on: z.literal('hours'), id: z.string().max(80), open: z.boolean() });

export const officeHours: ConditionKind<z.infer<typeof schema>, { on: 'hours'; id: string }> = {
  on: 'hours',
  label: 'office hours',
  fresh: ({ hours }) => ({ on: 'hours', id: hours[0]?.id ?? '', open: true }),
  fields: [
    {
      control: 'choice',
      label: 'Which hours',
      options: ({ hours }) => hours.map(({ id, name }) => [id, name] as const),
      value: ({ id }) => id,
      set: (condition, id) => ({ ...condition, id }),
    },
    {
      control: 'choice',
      label: 'Open or closed',
      options: () => [
        ['open', 'is open'],
        ['closed', 'is closed'],
      ],
      value: ({ open }) => (open ? 'open' : 'closed'),
      set: (condition, open) => ({ ...condition, open: open === 'open' }),
    },
  ],
  schema,
  words: ({ id, open }, names) => `${names.hours(id)} is ${open ? 'open' : 'closed'}`,
  saw({ id }, { at }, all) {
    const own = all.find((each) => each.id === id);
    if (!own) return 'these hours are no longer kept';
    const { local, open, exception } = hoursAt(own, at);
    return `${local}: ${open ? 'open' : 'closed'}${exception ? `, for ${exception}` : ''}`;
  },
  matcher({ id, open }, all) {
    const own = all.find((each) => each.id === id);
    return ({ at }) => own !== undefined && openAt(own, at) === open;
  },
  tellsPeopleFromMachines: false,
  atoms: ({ id }) => [{ on: 'hours', id }],
  positive: ({ open }) => open,
};

const asked = new WeakMap<OfficeHours, Map<number, boolean>>();

/** The same hours are asked by many routes of the same minute. */
function openAt(hours: OfficeHours, at: number): boolean {
  const minute = Math.floor(at / 60_000);
  let known = asked.get(hours);
  if (!known || known.size > 50_000) {
    known = new Map();
    asked.set(hours, known);
  }
  const before = known.get(minute);
  if (before !== undefined) return before;
  const { open } = hoursAt(hours, at);
  known.set(minute, open);
  return open;
}
