/** Automations that were in use and are off: one may be why something no longer happens. */
import { automationPage } from '../../apps';
import { finding, type ReadinessCheck } from './check';

const RECENT = 14 * 86_400_000;

export const automationsOff: ReadinessCheck = {
  name: 'automations-off',
  topics: ['app'],
  async examine({ ctx, now, apps }) {
    const off = (await apps()).flatMap(({ automations }) =>
      automations.filter(({ disabledAt }) => disabledAt !== null && now - disabledAt <= RECENT),
    );
    if (off.length === 0) return [];
    const used = await ctx.store.select<{ id: string; at: number }>(
      `SELECT source_id AS id, max(created_at) AS at FROM runs
        WHERE source_id IN (SELECT value FROM json_each(:ids)) GROUP BY 1`,
      { ids: JSON.stringify(off.map(({ id }) => id)) },
    );
    return off.flatMap((automation) => {
      const { id, name, what, disabledAt } = automation;
      const offAt = disabledAt ?? 0;
      const usedAt = used.find((each) => each.id === id)?.at;
      if (usedAt === undefined || usedAt < offAt - RECENT) return [];
      const subject = { kind: 'automation', id, name: `${name}, ${what}`, href: automationPage(automation) } as const;
      return [finding('automation-off', 'notice', subject, { subject: `“${name}”` }, { since: offAt })];
    });
  },
};
