/** Whether Windgap can open the secrets it keeps: without the key they were sealed with, nothing is sent or asked. */
import { ENGINE, finding, type ReadinessCheck } from './check';

export const sealing: ReadinessCheck = {
  name: 'sealing',
  topics: [],
  async examine({ ctx }) {
    const accounts = (await ctx.store.accounts.all()).filter(({ disabled_at }) => disabled_at === null);
    const shut = accounts.filter(({ sealed_credentials }) => !opens(() => ctx.sealer.open(sealed_credentials)));
    if (shut.length === 0) return [];
    const subject = shut.length === accounts.length ? 'all provider accounts' : shut.map(({ name }) => name).join(', ');
    return [finding('sealing-key-lost', 'error', ENGINE, { subject }, { affects: ['*'] })];
  },
};

function opens(open: () => unknown): boolean {
  try {
    open();
    return true;
  } catch {
    return false;
  }
}
