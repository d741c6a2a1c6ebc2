/** What is proven of each hop of a channel, and what is not. */
import { groupProofs } from '../../../proofs';
import { type AccountCheck, channelSubject, ofProof } from '../check';

export const hops: AccountCheck = {
  name: 'hops',
  async prepare({ ctx, channels, now }) {
    const ids = channels.map(({ id }) => id);
    const proofs = groupProofs(await ctx.store.proofs.allBy('subject_id', ids), now);
    return (_, own) =>
      own.flatMap((channel) =>
        (proofs.get(channel.id) ?? []).flatMap((proof) => ofProof(proof, channelSubject(channel), [channel.id])),
      );
  },
};
