/** Routes that are switched off and took messages within seven days. */
import { finding, type ReadinessCheck } from './check';

const DAY = 86_400_000;
const DAYS = 7;

export const routesOff: ReadinessCheck = {
  name: 'routes-off',
  topics: ['routes'],
  async examine(setUp) {
    const { set } = await setUp.published();
    const off = set.routes.filter((route) => route.off);
    if (off.length === 0) return [];
    const hits = await setUp.ctx.store.select<{ route: string; n: number }>(
      'SELECT route_id AS route, sum(hits) AS n FROM route_hits WHERE day > :since GROUP BY 1',
      { since: Math.floor(setUp.now / DAY) - DAYS },
    );
    return off
      .filter(({ id }) => hits.some(({ route, n }) => route === id && n > 0))
      .map(({ id, name }) =>
        finding(
          'route-switched-off',
          'notice',
          { kind: 'route', id, name, href: '/route/routes' },
          {
            subject: `“${name}”`,
          },
        ),
      );
  },
};
