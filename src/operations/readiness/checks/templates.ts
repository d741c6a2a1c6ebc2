/** Templates that something sends and that may not be sent now. */
import type { Examined } from '../../../core/readiness/readiness';
import { problemsOf } from '../../templates';
import type { ReadinessCheck } from './check';

export const templates: ReadinessCheck = {
  name: 'templates',
  topics: ['template', 'app'],
  async examine({ ctx }) {
    const [hooks, sheets] = await Promise.all([
      ctx.store.hooks.all({ disabled_at: null }),
      ctx.store.sheets.all({ disabled_at: null }),
    ]);
    const users = [
      ...hooks.map((row) => ({ ...row, what: 'send hook', href: `/apps/${row.app_id}/hooks/${row.id}` })),
      ...sheets.map((row) => ({ ...row, what: 'sheet', href: `/apps/${row.app_id}/sheets` })),
    ];
    const used = new Set(users.flatMap(({ template }) => (template ? [template.id] : [])));
    const problems = await problemsOf(ctx.store, [...used]);
    return users.flatMap(({ id, name, what, href, template }): Examined[] => {
      const problem = template && problems.get(template.id);
      if (!problem) return [];
      const subject = { kind: 'automation', id, name: `${name}, ${what}`, href } as const;
      return [{ ...problem, subject, about: 'template', affects: [] }];
    });
  },
};
