/**
 * When a broadcast will be through, by playing it: each message leaves when it is due, its channel has a turn, and the
 * allowance of the day is not used up. No average says when the last one leaves of people in nine zones.
 */

/** Messages a second that leave without being pushed together: what the rate limiter really gives of a pace. */
const USED = 1 / 1.01;
const DAY = 86_400_000;

/** What the channels of one line share: a channel of its own, or all channels of one trunk. */
export interface ForecastLine {
  id: string;
  /** Messages a second for everything. */
  pace: number;
  /** Share of the pace that bulk never takes, 0 to 1. */
  reserve: number;
  /** Conversations a platform lets one begin in 24 hours, and when those of the last 24 hours began. */
  allowance?: { most: number; begun: readonly number[] };
}

export interface ForecastMessage {
  line: string;
  /** Epoch milliseconds. */
  dueAt: number;
  /** Submits it takes on the way: the parts of a text on a trunk. */
  turns: number;
  /** It begins a conversation, of which the line has an allowance. */
  starts?: boolean;
  /** After this moment it is pointless. */
  validUntil?: number;
}

/** What another broadcast still sends over a line: so many messages that are due at the same time. */
export interface OtherMessages extends Omit<ForecastMessage, 'validUntil'> {
  broadcast: string;
  count: number;
}

export interface Forecast {
  /** Epoch milliseconds at which the first and the last leave; absent where none does. */
  first?: number;
  last?: number;
  leaving: number;
  /** Would only have their turn when it is too late: their places among the messages. */
  tooLate: number[];
  /** What the last one waits for: its own time, turns of its channel, or the allowance. */
  bound: 'time' | 'pace' | 'allowance';
  /** Messages by the hour they leave in, epoch milliseconds of its beginning. */
  hours: { at: number; messages: number }[];
}

/**
 * Those due first leave before the others. Broadcasts that run at the same time over one line take turns, as the engine takes
 * the same time ahead of each.
 */
export function forecastOf(
  lines: readonly ForecastLine[],
  messages: readonly ForecastMessage[],
  now: number,
  others: readonly OtherMessages[] = [],
): Forecast {
  const states = new Map(lines.map((line) => [line.id, newState(line, now)]));
  const order = messages
    .map((message, index) => ({ message, index }))
    .sort((a, b) => a.message.dueAt - b.message.dueAt || a.index - b.index);
  for (const other of [...others].sort((a, b) => a.dueAt - b.dueAt)) {
    const rivals = states.get(other.line)?.rivals;
    if (!rivals) continue;
    const own = rivals.get(other.broadcast);
    if (own) own.push({ ...other });
    else rivals.set(other.broadcast, [{ ...other }]);
  }
  const hours = new Map<number, number>();
  const forecast: Forecast = { leaving: 0, tooLate: [], bound: 'time', hours: [] };
  for (const { message, index } of order) {
    const state = states.get(message.line);
    if (!state) continue;
    if (state.rivals.size > 0) letRivalsGo(state, Math.max(message.dueAt, now), now);
    const turn = Math.max(state.free, message.dueAt, now);
    const allowed = message.starts ? earliestAllowed(state, turn) : turn;
    if (message.validUntil !== undefined && allowed >= message.validUntil) {
      forecast.tooLate.push(index);
      continue;
    }
    state.waited ||= allowed > turn;
    leave(state, message, allowed);
    forecast.leaving += 1;
    if (forecast.first === undefined || allowed < forecast.first) forecast.first = allowed;
    if (forecast.last === undefined || allowed >= forecast.last) {
      forecast.last = allowed;
      forecast.bound = state.waited ? 'allowance' : turn > Math.max(message.dueAt, now) ? 'pace' : 'time';
    }
    const hour = Math.floor(allowed / 3_600_000) * 3_600_000;
    hours.set(hour, (hours.get(hour) ?? 0) + 1);
  }
  forecast.hours = [...hours].sort(([a], [b]) => a - b).map(([at, count]) => ({ at, messages: count }));
  return forecast;
}

function leave(state: State, { turns, starts }: Pick<ForecastMessage, 'turns' | 'starts'>, at: number): void {
  state.free = at + turns * state.turnMs;
  if (starts && state.line.allowance) state.begun.push(at);
}

/** What others send until it is the turn of a message due at `dueAt`: all they have before, and one each beside it. */
function letRivalsGo(state: State, dueAt: number, now: number): void {
  for (const [broadcast, rows] of state.rivals) {
    for (let beside = 0; beside === 0; ) {
      const next = rows[0];
      if (!next) {
        state.rivals.delete(broadcast);
        break;
      }
      const at = Math.max(state.free, next.dueAt, now);
      if (at > Math.max(state.free, dueAt)) break;
      // From the moment both wait they take turns.
      if (at >= dueAt) beside = 1;
      leave(state, next, next.starts ? earliestAllowed(state, at) : at);
      next.count -= 1;
      if (next.count === 0) rows.shift();
    }
  }
}

interface State {
  line: ForecastLine;
  turnMs: number;
  /** When the line has its next turn. */
  free: number;
  /** Of an allowance: when the latest conversations began, oldest first. */
  begun: number[];
  /** The allowance made it wait. */
  waited: boolean;
  /** What other broadcasts still have for this line, earliest first. */
  rivals: Map<string, OtherMessages[]>;
}

function newState(line: ForecastLine, now: number): State {
  return {
    line,
    turnMs: 1000 / (line.pace * (1 - line.reserve) * USED),
    free: now,
    begun: [...(line.allowance?.begun ?? [])].sort((a, b) => a - b),
    waited: false,
    rivals: new Map(),
  };
}

/** The first moment from `turn` on at which fewer than the allowance began in the 24 hours before. */
function earliestAllowed({ line: { allowance }, begun }: State, turn: number): number {
  if (!allowance || begun.length < allowance.most) return turn;
  const blocking = begun[begun.length - allowance.most] as number;
  return Math.max(turn, blocking + DAY);
}
