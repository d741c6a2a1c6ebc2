import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { expect, test } from 'vitest';
import { NamedError } from './namedError';

class Damaged extends NamedError {
  static override readonly called = 'Damaged';
}

test('what another bundle threw is known by its name', () => {
  const elsewhere = Object.assign(new Error('a copy of the class threw this'), { name: 'Damaged' });
  expect(elsewhere instanceof Damaged).toBe(true);
  expect(new Damaged('x') instanceof Damaged).toBe(true);
  expect(new Error('x') instanceof Damaged).toBe(false);
  expect({ name: 'Damaged' } instanceof Damaged).toBe(false);
});

test('every error that is told apart by its class is told by its name, which is the class’s', () => {
  const folder = join(import.meta.dirname, '..');
  const texts = readdirSync(folder, { recursive: true, encoding: 'utf8' })
    .filter((file) => file.endsWith('.ts') && !file.endsWith('.test.ts'))
    .map((file) => readFileSync(join(folder, file), 'utf8'));
  const asked = new Set(texts.flatMap((text) => [...text.matchAll(/instanceof (\w+)/g)].map(([, name]) => name)));
  const own = texts.flatMap((text) => [...text.matchAll(/class (\w+) extends (\w*Error) \{([^}]*)/g)]);
  const wrong = own.filter(
    ([, name = '', base, body = '']) =>
      asked.has(name) && !(base === 'NamedError' && body.includes(`called = '${name}'`)),
  );
  expect(own.length).toBeGreaterThan(5);
  expect(wrong.map(([, name]) => name)).toEqual([]);
});
