import { expect, test } from 'vitest';
import { type Answered, type Heard, judgeDoor } from './door';

const SENT = { method: 'POST', mark: 'm1', digest: 'aa' };
const HEARD: Heard = { seal: 'ours', digest: 'aa', method: 'POST', mark: 'm1' };
const heard = (change: Partial<Heard>): Answered => ({
  by: 'somebody',
  status: 200,
  words: '',
  door: true,
  heard: { ...HEARD, ...change },
});

test.each<[Answered, string]>([
  [heard({}), 'open'],
  [{ by: 'nobody', said: 'ECONNREFUSED' }, 'unreachable'],
  [{ by: 'somebody', status: 200, words: 'Back soon', door: false }, 'answered-by-other'],
  [{ by: 'somebody', status: 302, words: '', location: 'https://portal.example/', door: false }, 'answered-by-other'],
  [{ by: 'somebody', status: 200, words: '', door: true }, 'another-installation'],
  [heard({ seal: 'missing' }), 'header-lost'],
  [heard({ seal: 'not ours' }), 'header-lost'],
  [heard({ digest: 'bb' }), 'body-altered'],
  [heard({ method: 'GET', digest: 'e3' }), 'body-altered'],
  [heard({ mark: '' }), 'body-altered'],
])('%j: %s', (answered, state) => {
  const verdict = judgeDoor(SENT, answered);
  expect(verdict.state).toBe(state);
  expect(verdict.said === '').toBe(state === 'open');
});

test('a redirect says where to', () => {
  const said = judgeDoor(SENT, { by: 'somebody', status: 302, words: 'x', location: '/login', door: false }).said;
  expect(said).toBe('302, on to /login');
});
