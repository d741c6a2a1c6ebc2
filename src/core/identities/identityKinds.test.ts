import fc from 'fast-check';
import { expect, test } from 'vitest';
import {
  IDENTITY_KINDS,
  type IdentityKind,
  identityKey,
  identityKind,
  nameOf,
  readTyped,
  wordsFor,
} from './identityKinds';

test.each<[string, string | undefined, IdentityKind, string | undefined]>([
  ['+44 7700 900123', undefined, 'phone', '+447700900123'],
  ['07700 900123', 'GB', 'phone', '+447700900123'],
  ['07700 900123', undefined, 'phone', undefined],
  [' Ines.Calder@Mossgate.Example ', undefined, 'mail', 'ines.calder@mossgate.example'],
  ['ines@', undefined, 'mail', undefined],
  ['a@b@c.example', undefined, 'mail', undefined],
])('“%s” in %s is a %s: %s', (text, country, kind, value) => {
  const typed = readTyped(text, country);
  expect(typed.kind).toBe(kind);
  expect(typed.read.ok ? typed.read.value : undefined).toBe(value);
});

test('what was read once reads as itself, whatever its kind', () => {
  fc.assert(
    fc.property(
      fc.constantFrom(...IDENTITY_KINDS),
      fc.oneof(fc.string(), fc.emailAddress(), fc.constant('vis_1'), fc.uuid()),
      (kind, text) => {
        const { read } = identityKind(kind);
        const once = read(text, 'GB');
        if (once.ok) expect(read(once.value)).toMatchObject({ ok: true, value: once.value });
      },
    ),
  );
});

test('ids of programs are shown to nobody as if they were names, and two that differ are two', () => {
  expect(nameOf({ kind: 'visitor', value: 'vis_1' })).toBe('A visitor');
  expect(wordsFor({ kind: 'handle', value: 'a93' })).toBe('somebody on a chat platform');
  expect(nameOf({ kind: 'phone', value: '+447700900123' })).toBe('+44 7700 900123');
  expect(identityKey({ kind: 'handle', scope: 'a', value: 'b c' })).not.toBe(
    identityKey({ kind: 'handle', scope: 'a b', value: 'c' }),
  );
});
