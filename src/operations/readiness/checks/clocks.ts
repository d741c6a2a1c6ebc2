/** Whether this computer's clock agrees with what providers say the time is, one witness for each connector. */
import { type ClockWitness, judgeClocks } from '../../../core/readiness/clocks';
import { wordsOfLength } from '../../../core/text/length';
import { accountSubject, ENGINE, finding, type ReadinessCheck } from './check';

export const clocks: ReadinessCheck = {
  name: 'clocks',
  // A clock that is wrong stays so: with the next look at everything is soon enough.
  topics: [],
  async examine({ ctx }) {
    const accounts = (await ctx.store.accounts.all()).filter(
      ({ disabled_at, state, facts }) => disabled_at === null && state === 'accepted' && facts.clockAhead !== undefined,
    );
    // Two accounts of one provider are read off one clock.
    const witnesses = new Map(
      accounts.map((account): [string, ClockWitness] => [
        account.connector,
        { id: account.id, name: account.name, ahead: account.facts.clockAhead ?? 0 },
      ]),
    );
    const verdict = judgeClocks([...witnesses.values()]);
    if (verdict.whose === 'nobody') return [];
    if (verdict.whose === 'ours' && verdict.sure) {
      const who = verdict.by.map(({ name }) => name).join(' and ');
      const said = `${wordsOfLength(Math.abs(verdict.ahead))} ${verdict.ahead > 0 ? 'slow' : 'fast'}`;
      return [finding('clock-off', 'error', ENGINE, { who, said }, { affects: ['*'] })];
    }
    const [off, subject] =
      verdict.whose === 'ours'
        ? [verdict.by, 'one of the two clocks is wrong']
        : [
            verdict.off,
            verdict.off.length < witnesses.size
              ? 'the other providers agree with this computer'
              : 'no two clocks agree',
          ];
    return off.flatMap(({ id, ahead }) => {
      const account = accounts.find((each) => each.id === id);
      const said = `${wordsOfLength(Math.abs(ahead))} ${ahead > 0 ? 'later' : 'earlier'}`;
      const words = { who: account?.name, said, subject };
      return account ? [finding('clock-differs', 'attention', accountSubject(account), words)] : [];
    });
  },
};
