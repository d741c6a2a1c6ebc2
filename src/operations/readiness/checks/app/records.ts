/** Apps whose records cannot be reached with the credential they gave. */
import { appSubject, finding, type ReadinessCheck } from '../check';

export const appRecords: ReadinessCheck = {
  name: 'app-records',
  topics: ['app'],
  async examine(setUp) {
    const [apps, links] = await Promise.all([setUp.apps(), setUp.ctx.store.appAccounts.all()]);
    return apps.flatMap(({ app }) => {
      const link = links.find(({ app_id }) => app_id === app.id);
      if (!link?.cause || link.state === 'accepted') return [];
      const severity = link.state === 'refused' ? 'error' : 'attention';
      return [finding(link.cause, severity, appSubject(app), { who: app.name }, { about: 'records' })];
    });
  },
};
