import fc from 'fast-check';
import { expect, test } from 'vitest';
import { passwordFault } from './passwordRules';

const OWNER = { name: 'Maren Tidwell', email: 'maren.tidwell@mossgate.example' };

test.each([
  ['fourteen chars', 'short'],
  ['🛶🛶🛶🛶🛶🛶🛶🛶', 'short'],
  ['passwordpassword', 'common'],
  ['Password!!!!!!!!!!', 'common'],
  ['letmein-letmein-1', 'common'],
  ['q1w2e3r4t5y6 2026!!', 'common'],
  ['aaaaaaaaaaaaaaaaaa', 'repeated'],
  ['abcabcabcabcabcabc', 'repeated'],
  ['123456789012345678', 'repeated'],
  ['Maren.Tidwell.2026', 'personal'],
  ['maren.tidwell@mossgate.example', 'personal'],
  ['windgap-windgap-windgap', 'personal'],
  ['towpath at low water', undefined],
  ['пять журавлей летят', undefined],
  ['kqzvhw jmxplo trb', undefined],
])('%s is %s', (password, fault) => {
  expect(passwordFault(password, OWNER)).toBe(fault);
});

test('random passwords of fifteen characters are taken, whatever they are made of', () => {
  fc.assert(
    fc.property(fc.uint8Array({ minLength: 12, maxLength: 12 }), (bytes) => {
      const text = `k${Buffer.from(bytes).toString('base64')}`;
      fc.pre(new Set(text).size > 8);
      expect(passwordFault(text, OWNER)).toBeUndefined();
    }),
  );
});
