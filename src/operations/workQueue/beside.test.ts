import { expect, test } from 'vitest';
import { createBeside } from './beside';

const turns = async () => {
  for (let n = 0; n < 5; n++) await Promise.resolve();
};

test('so many at once, the others in the order in which they came, none twice, and none is left out', async () => {
  const begun: string[] = [];
  const end = new Map<string, () => void>();
  const beside = createBeside(2);
  const begin = (subject: string) =>
    beside.begin(subject, () => {
      begun.push(subject);
      return new Promise((resolve) => end.set(subject, resolve));
    });
  for (const subject of ['a', 'b', 'c', 'd', 'a', 'c']) begin(subject);
  expect(begun).toEqual(['a', 'b']);
  end.get('b')?.();
  await turns();
  begin('b');
  expect(begun).toEqual(['a', 'b', 'c']);
  end.get('a')?.();
  end.get('c')?.();
  await turns();
  // Whoever has ended waits behind those that have not had their turn.
  expect(begun).toEqual(['a', 'b', 'c', 'd', 'b']);
});

test('what waits is not begun once it is to end', async () => {
  const begun: string[] = [];
  let end: () => void = () => undefined;
  const beside = createBeside(1);
  beside.begin(
    'a',
    () =>
      new Promise((resolve) => {
        end = resolve;
      }),
  );
  beside.begin('b', async () => void begun.push('b'));
  const drained = beside.drained();
  end();
  await drained;
  expect(begun).toEqual([]);
});
