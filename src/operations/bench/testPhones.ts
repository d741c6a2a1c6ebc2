/** Phones that tests may write to: handsets of the bench, and those that were verified at a provider. */
import { type AppContext, SYSTEM } from '../context';
import { hasBench, readBench } from './bench';

export interface TestPhone {
  number: string;
  owner: string;
  /** Whether what arrives on it can be seen from here. */
  visible: boolean;
}

/** Those that nobody lives with come first: a test on them meets no conversation of a person. */
export async function testPhones(ctx: AppContext): Promise<TestPhone[]> {
  const bench = hasBench(ctx) ? await readBench(ctx, SYSTEM).catch(() => undefined) : undefined;
  const handsets = (bench?.handsets ?? [])
    .filter(({ mailbox }) => !mailbox)
    .toSorted((a, b) => Number(b.forTests ?? false) - Number(a.forTests ?? false))
    .map(({ number, owner }) => ({ number, owner, visible: true }));
  const verified = (await ctx.store.accounts.all()).flatMap(({ facts }) => facts.verifiedPhones ?? []);
  return [
    ...handsets,
    ...[...new Set(verified)]
      .filter((number) => !handsets.some((handset) => handset.number === number))
      .map((number) => ({ number, owner: 'Verified phone', visible: false })),
  ];
}
