import { expect, test, vi } from 'vitest';
import type { Condition } from './conditions';
import type { Route } from './route';

const route = (id: string, ...of: Condition[]): Route => ({
  id,
  name: id,
  when: { match: 'all', of },
  steps: [],
  goesOn: false,
  stopsOnReply: false,
  off: false,
});
const word = (text: string): Condition => ({ on: 'keyword', way: 'exact', words: [text] });

test.each([0, 1, 2, 3, 4])(
  'what is kept between examinations, full after %i more, changes no finding',
  async (more) => {
    vi.resetModules();
    const { examineRoutes } = await import('./overlap');
    const routes = [
      route('first', word('berth')),
      route('second', word('lock')),
      route('third', word('lock'), { on: 'media', has: true }),
      route('last'),
    ];
    const ids = Array.from({ length: 10_000 - more }, (_, index) => `chn_${index}`);
    // The first word of the examination was met long before; the others are met when the memory is full.
    examineRoutes({ routes: routes.slice(0, 1), hours: [] });
    examineRoutes({ routes: [route('many', { on: 'channel', ids })], hours: [] });
    for (let time = 0; time < 3; time += 1)
      expect(examineRoutes({ routes, hours: [] }).map((finding) => [finding.code, finding.route])).toEqual([
        ['route-shadowed', 'third'],
      ]);
  },
);
