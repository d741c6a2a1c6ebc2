/** What is proven and found of each app and of its automations. */
import type { Examined } from '../../../../core/readiness/readiness';
import { automationPage } from '../../../apps';
import { appSubject, ofProof, type ReadinessCheck } from '../check';

export const apps: ReadinessCheck = {
  name: 'apps',
  topics: ['app'],
  examine: async (setUp) =>
    (await setUp.apps()).flatMap(({ app, proofs, findings, automations }) => {
      const subject = appSubject(app);
      const affects = [app.id];
      return [
        ...proofs.flatMap((proof) => ofProof(proof, subject, affects)),
        // An automation that is broken speaks for itself below.
        ...findings
          .filter(({ of }) => of !== 'automation')
          .map((finding): Examined => ({ ...finding, subject, affects })),
        ...automations
          .filter(({ disabledAt }) => disabledAt === null)
          .flatMap((automation) => {
            const { id, name, what } = automation;
            const own = { kind: 'automation', id, name: `${name}, ${what} of ${app.name}` } as const;
            return automation.proofs.flatMap((proof) =>
              ofProof(proof, { ...own, href: automationPage(automation) }, []),
            );
          }),
      ];
    }),
};
