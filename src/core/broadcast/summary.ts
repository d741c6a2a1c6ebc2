/** What a plan comes to, as it is kept and shown. */
import type { Cost } from './cost';
import type { LeftOutCode } from './leftOut';
import type { ZoneFrom } from './timetable';

export interface BroadcastPlan {
  /** Epoch milliseconds, and the version of what was planned. */
  at: number;
  version: number;
  /** People of the audience, those who get it, and the others by reason. */
  people: number;
  going: number;
  leftOut: Partial<Record<LeftOutCode, number>>;
  channels: Record<string, number>;
  countries: Record<string, number>;
  languages: Record<string, number>;
  /** Messages in a language their reader is not known to read. */
  otherLanguage: number;
  maybeLandline: number;
  parts: number;
  longest: number;
  zones: Record<ZoneFrom, number>;
  /** Whose time was over; whom quiet hours or a change of the clock move. */
  moved: { nextDay: number; atOnce: number; quiet: number; clock: number };
  cost: Cost;
  /** By account: what it costs there against what is left. */
  credit: {
    accountId: string;
    account: string;
    currency: string;
    /** What was left when it was planned; micro-units, as all money. */
    balance: number;
    cost: number;
    enough: boolean;
    short?: number;
    fits?: number;
  }[];
  first?: number;
  last?: number;
  bound: 'time' | 'pace' | 'allowance';
  /** How many would only have their turn when it is of no use any more. */
  tooLate: number;
  hours: { at: number; messages: number }[];
  /** What nearly the same was said in lately, to how many of the same people; absent in plans made before this was looked at. */
  alike?: { id: string; name: string; at: number; people: number }[];
  /** Recipients worth a look, by their place. */
  samples: { seq: number; why: string }[];
}
