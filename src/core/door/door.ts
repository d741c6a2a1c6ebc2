/**
 * What came of a request that Windgap sent to its own inbound door through its public address: whether it got there,
 * whole, and to this installation and no other.
 */

/** What the door says that it heard. */
export interface Heard {
  /** The seal in the header: this installation's, one that is not, or none. */
  seal: 'ours' | 'not ours' | 'missing';
  /** SHA-256 of the body as it came, hexadecimal. */
  digest: string;
  method: string;
  /** The mark in the query. */
  mark: string;
}

export interface Knocked {
  method: string;
  mark: string;
  digest: string;
}

export type Answered =
  | { by: 'nobody'; said: string }
  /** `door`: it is the answer of a door of Windgap; `heard` is absent where another installation sealed it. */
  | { by: 'somebody'; status: number; words: string; location?: string; door: boolean; heard?: Heard };

export const DOOR_STATES = [
  'open',
  'unreachable',
  'answered-by-other',
  'another-installation',
  'header-lost',
  'body-altered',
] as const;
export type DoorState = (typeof DOOR_STATES)[number];

export interface DoorVerdict {
  state: DoorState;
  /** What shows it, as a sentence without a full stop; empty where it is open. */
  said: string;
}

export function judgeDoor(sent: Knocked, answered: Answered): DoorVerdict {
  if (answered.by === 'nobody') return { state: 'unreachable', said: answered.said };
  const { status, words, location, door, heard } = answered;
  if (!door) {
    const on = location ? `${status}, on to ${location}` : `${status}: ${words}`;
    return { state: 'answered-by-other', said: on };
  }
  if (!heard) return { state: 'another-installation', said: 'Another installation of Windgap answers there' };
  if (heard.method !== sent.method)
    return {
      state: 'body-altered',
      said: `It was sent as ${sent.method} and came as ${heard.method}, without its body`,
    };
  if (heard.mark !== sent.mark) return { state: 'body-altered', said: 'The query did not come with it' };
  if (heard.digest !== sent.digest) return { state: 'body-altered', said: 'The body came with other octets' };
  if (heard.seal !== 'ours')
    return {
      state: 'header-lost',
      said:
        heard.seal === 'missing'
          ? 'A header that is not a usual one did not come with it, and signatures stand in such headers'
          : 'A header came with other content',
    };
  return { state: 'open', said: '' };
}
