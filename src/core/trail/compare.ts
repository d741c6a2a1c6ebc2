/** Two ways hop by hop: one that did not work beside the last that did. */
import type { ProofState } from '../proof/proofs';
import type { TrailHop } from './hop';

export interface Side {
  what: string;
  state: ProofState;
  /** Milliseconds since the hop before. */
  elapsed?: number;
}

export interface ComparedHop {
  place: string;
  here?: Side;
  there?: Side;
  /** Whether this is where they part: another state, or far slower. */
  differs: boolean;
  why?: string;
}

/** So many times as long, and by so much, milliseconds, is slower; less is chance. */
const SLOWER = 5;
const BY = 1000;

/** Hops of the same place stand beside each other, in the order of the way here, then what only the other has. */
export function compareTrails(here: readonly TrailHop[], there: readonly TrailHop[]): ComparedHop[] {
  const left = [...there];
  const take = (place: string) => {
    const at = left.findIndex((hop) => hop.place === place);
    return at < 0 ? undefined : left.splice(at, 1)[0];
  };
  const paired = here.map((hop) => compared(hop.place, hop, take(hop.place)));
  return [...paired, ...left.map((hop) => compared(hop.place, undefined, hop))];
}

function compared(place: string, here: TrailHop | undefined, there: TrailHop | undefined): ComparedHop {
  const why = difference(here, there);
  return {
    place,
    ...(here ? { here: sideOf(here) } : {}),
    ...(there ? { there: sideOf(there) } : {}),
    differs: why !== undefined,
    ...(why ? { why } : {}),
  };
}

function sideOf({ what, state, elapsed }: TrailHop): Side {
  return { what, state, ...(elapsed === undefined ? {} : { elapsed }) };
}

function difference(here: TrailHop | undefined, there: TrailHop | undefined): string | undefined {
  if (!here) return 'It did not come this far';
  if (!there) return 'The other did not come by here';
  if (here.state !== there.state) return here.failure?.title ?? 'It is not proven here, and was there';
  const [now, then] = [here.elapsed ?? 0, there.elapsed ?? 0];
  return now > then * SLOWER && now - then > BY ? 'Far slower here' : undefined;
}
