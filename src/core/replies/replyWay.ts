/** Over which channel somebody is answered: a decision that says its reason, and never the accident of what was sent last. */

export interface ReplyWay {
  channelId: string;
  name: string;
  /** Where the person is reached over it; absent where that is not known. */
  to?: string;
  /** When they last wrote over it, epoch milliseconds. */
  wroteAt?: number;
  /** Why nothing can be sent over it now, as a sentence. */
  refused?: string;
  /** They agreed to be written to over it. */
  agreed: boolean;
  /** The channel over which those who write here were told to be answered. */
  answeredOver?: string;
}

export interface ReplyDecision {
  /** Absent where somebody has to choose, or nothing is possible. */
  channelId?: string;
  reason: string;
}

/**
 * The channel the person wrote on last and can be reached on, or the one they were told to expect the answer over; else
 * the one they agreed to, or the only one there is; else nobody knows, and whoever answers is asked.
 */
export function decideReply(ways: readonly ReplyWay[]): ReplyDecision {
  const wrote = ways.filter(({ wroteAt }) => wroteAt !== undefined).sort((a, b) => (b.wroteAt ?? 0) - (a.wroteAt ?? 0));
  const passedOver: string[] = [];
  for (const way of wrote) {
    const promised = ways.find(({ channelId }) => channelId === way.answeredOver);
    if (promised && isOpen(promised))
      return decision(
        promised,
        `They wrote over ${way.name} and were told to expect the answer over ${promised.name}.`,
        passedOver,
      );
    if (isOpen(way))
      return decision(
        way,
        promised
          ? `They wrote over ${way.name}; over ${promised.name} they cannot be reached, so the answer waits there until they come back.`
          : `They wrote ${passedOver.length > 0 ? 'before' : 'last'} over ${way.name}.`,
        passedOver,
      );
    passedOver.push(closedWords(way));
  }
  const open = ways.filter(isOpen);
  const agreed = open.filter((way) => way.agreed);
  const [only] = agreed.length > 0 ? agreed : open;
  if (only && agreed.length === 1) return decision(only, `They agreed to be written to over ${only.name}.`, passedOver);
  if (only && open.length === 1)
    return decision(only, `${only.name} is the only channel over which they can be reached.`, passedOver);
  if (agreed.length > 1) return undecided(`They agreed to ${listed(agreed)}: choose one.`, passedOver);
  if (open.length > 0)
    return undecided('They never wrote over a channel that is open, and agreed to none: choose one.', passedOver);
  return { reason: passedOver[0] ?? ways.map(closedWords)[0] ?? 'There is no channel over which they can be reached.' };
}

const isOpen = ({ to, refused }: ReplyWay): boolean => to !== undefined && refused === undefined;

function closedWords({ name, to, refused }: ReplyWay): string {
  return refused ?? (to === undefined ? `It is not known where they are reached over ${name}.` : '');
}

function undecided(reason: string, passedOver: readonly string[]): ReplyDecision {
  return { reason: [...passedOver, reason].join(' ') };
}

const listed = (ways: readonly ReplyWay[]): string => ways.map(({ name }) => name).join(' and ');

function decision({ channelId }: ReplyWay, reason: string, passedOver: readonly string[]): ReplyDecision {
  return { channelId, reason: [...passedOver, reason].join(' ') };
}
