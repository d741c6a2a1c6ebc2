/** People with handsets, made in bulk: contacts of an installation that simulated phones answer for. */
import { newContact } from '../../src/operations/contacts/newContact';
import { addIdentities, phone } from '../../src/operations/identities/identities';
import { newId } from '../../src/store/ids';
import type { Installation } from './processes';

export interface Inhabitant {
  id: string;
  phone: string;
  name: string;
}

/** Of a range reserved for fiction, from +44 7700 900200 on. */
export const numberOf = (index: number): string => `+447700900${String(200 + index).padStart(3, '0')}`;

/** `tag`: what they are found by. Handsets stand on the bench unless they are told not to. */
export async function populate(
  { ctx, bench }: Pick<Installation, 'ctx' | 'bench'>,
  count: number,
  { tag = 'crew', handsets = true, from = 0 }: { tag?: string; handsets?: boolean; from?: number } = {},
): Promise<Inhabitant[]> {
  const at = ctx.now();
  const people = Array.from({ length: count }, (_, index) => ({
    id: newId('con', at),
    phone: numberOf(from + index),
    name: `Person ${from + index}`,
  }));
  await ctx.store.write(async (unit) => {
    await unit.contacts.insert(people.map(({ id, phone: value, name }) => newContact(id, name, phone(value), at)));
    await addIdentities(
      unit,
      people.map(({ id, phone: value }) => ({ ...phone(value), contactId: id })),
      { at, source: 'import', why: 'Made for a test.', by: 'test' },
    );
    await unit.contactTags.insert(people.map(({ id }) => ({ contact_id: id, tag })));
  });
  if (handsets) for (const { phone: value, name } of people) await bench.addHandset(value, name);
  return people;
}
