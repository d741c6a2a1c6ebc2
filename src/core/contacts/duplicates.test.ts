import { describe, expect, it } from 'vitest';
import { likenesses, type Trait, tellsWho } from './duplicates';

const identity = (contactId: string, value: string): Trait => ({
  contactId,
  name: 'phone',
  value,
  country: 'GB',
});
const attribute = (contactId: string, name: string, value: string, country: string | null = 'GB'): Trait => ({
  contactId,
  name,
  value,
  country,
});

describe('likenesses', () => {
  it('finds a number written as people write it', () => {
    expect(likenesses([identity('b', '+447700900123'), attribute('a', 'mobile', '07700 900 123')])).toEqual([
      { ids: ['a', 'b'], why: 'Both have +447700900123' },
    ]);
  });

  it('takes a national number for one of the contact’s own country', () => {
    expect(likenesses([identity('a', '+447700900123'), attribute('b', 'mobile', '07700 900 123', 'FR')])).toEqual([]);
  });

  it('finds an e-mail address whatever its case, and names all that is shared', () => {
    expect(
      likenesses([
        attribute('a', 'email', 'Ines@Tollgate.example'),
        attribute('b', 'e-mail', ' ines@tollgate.EXAMPLE '),
        identity('a', '+447700900123'),
        attribute('b', 'phone', '+44 7700 900123'),
      ]),
    ).toEqual([{ ids: ['a', 'b'], why: 'Both have ines@tollgate.example and +447700900123' }]);
  });

  it('makes two pairs of three, and none of an office’s address', () => {
    const three = ['c', 'a', 'b'].map((id) => attribute(id, 'email', 'lock@keepers.example'));
    expect(likenesses(three).map(({ ids }) => ids)).toEqual([
      ['a', 'b'],
      ['a', 'c'],
    ]);
    expect(likenesses([...three, attribute('d', 'email', 'lock@keepers.example')])).toEqual([]);
  });

  it('does not take an order’s number or one contact’s two attributes for a likeness', () => {
    expect(likenesses([attribute('a', 'berth', '07700 900 123'), identity('b', '+447700900123')])).toEqual([]);
    expect(likenesses([attribute('a', 'phone', '07700 900 123'), identity('a', '+447700900123')])).toEqual([]);
  });
});

describe('tellsWho', () => {
  it.each(['email', 'E-mail', 'work mail', 'mobile', 'Telephone', 'cell phone'])('reads %s', (name) =>
    expect(tellsWho(name)).toBe(true),
  );
  it.each(['boat', 'berth', 'mailing list', 'hotel'])('leaves %s', (name) => expect(tellsWho(name)).toBe(false));
});
