/** What the published routes do to each other, and what keeps their steps from being done. */
import { SYSTEM } from '../../context';
import { examineSet } from '../../routing';
import type { ReadinessCheck } from './check';

export const routes: ReadinessCheck = {
  name: 'routes',
  topics: ['routes', 'template', 'app'],
  async examine(setUp) {
    const { number, set } = await setUp.published();
    if (number === 0) return [];
    const href = '/route/routes';
    const name = (id: string) => set.routes.find((route) => route.id === id)?.name ?? 'a route';
    return (await examineSet(setUp.ctx, SYSTEM, set)).map((finding) => ({
      ...finding,
      subject: finding.route
        ? { kind: 'route', id: finding.route, name: name(finding.route), href }
        : { kind: 'routes', id: `revision ${number}`, name: 'The routes', href },
      about: finding.because?.join(' '),
      affects: finding.route ? [] : ['*'],
    }));
  },
};
