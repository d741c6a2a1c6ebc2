/** Keys that ended while they were in use. One that another key took over from has ended in peace. */
import { stateOfKey } from '../../../apps';
import { appSubject, finding, type ReadinessCheck } from '../check';

const BEFORE_THE_END = 2 * 86_400_000;

export const appKeys: ReadinessCheck = {
  name: 'app-keys',
  topics: ['app'],
  async examine(setUp) {
    const [apps, keys] = await Promise.all([setUp.apps(), setUp.ctx.store.apiKeys.all({ revoked_at: null })]);
    return apps.flatMap(({ app }) => {
      const own = keys.filter(({ app_id }) => app_id === app.id);
      return own
        .filter((key) => {
          const usedAt = key.last_used_at ?? 0;
          const inUse = usedAt > (key.expires_at ?? 0) - BEFORE_THE_END;
          const takenOver = own.some(({ last_used_at }) => (last_used_at ?? 0) > usedAt);
          return stateOfKey(key, setUp.now) === 'expired' && inUse && !takenOver;
        })
        .map(({ name, expires_at }) =>
          finding(
            'key-expired',
            'error',
            appSubject(app),
            { who: app.name },
            {
              about: name,
              since: expires_at ?? setUp.now,
            },
          ),
        );
    });
  },
};
