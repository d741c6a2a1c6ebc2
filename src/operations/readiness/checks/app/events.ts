/** Apps that routes tell and that do not listen, and apps that listen and are told nothing. */
import { appsTold } from '../../../routes';
import { appSubject, finding, type ReadinessCheck } from '../check';

const MESSAGE_IN = 'windgap.message.received';

export const appEvents: ReadinessCheck = {
  name: 'app-events',
  topics: ['app', 'routes'],
  async examine(setUp) {
    const [apps, { set }, subscriptions] = await Promise.all([
      setUp.apps(),
      setUp.published(),
      setUp.ctx.store.subscriptions.all({ disabled_at: null }),
    ]);
    const told = appsTold(set);
    return apps.flatMap(({ app }) => {
      const listens = subscriptions.some(({ app_id, events }) => app_id === app.id && events.includes(MESSAGE_IN));
      const context = { who: app.name };
      if (told.has(app.id) && !listens) return [finding('event-not-subscribed', 'error', appSubject(app), context)];
      if (!told.has(app.id) && listens) return [finding('app-not-routed', 'attention', appSubject(app), context)];
      return [];
    });
  },
};
