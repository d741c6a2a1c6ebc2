/** A draft is somebody at work; one that lies for a day was forgotten, or is thought to be live. */
import { finding, type ReadinessCheck } from './check';

const FORGOTTEN = 86_400_000;

export const routeDraft: ReadinessCheck = {
  name: 'route-draft',
  topics: ['routes'],
  async examine(setUp) {
    const [{ set }, draft] = await Promise.all([setUp.published(), setUp.ctx.store.routeDrafts.one({ id: 'draft' })]);
    if (!draft || JSON.stringify(draft.content) === JSON.stringify(set)) return [];
    return [
      finding(
        'draft-unpublished',
        setUp.now - draft.changed_at > FORGOTTEN ? 'attention' : 'notice',
        { kind: 'routes', id: 'draft', name: 'The routes', href: '/route/routes' },
        { who: draft.by },
        { since: draft.changed_at, affects: ['*'] },
      ),
    ];
  },
};
