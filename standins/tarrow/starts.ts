/** How many conversations a line may start, and what people think of it: the level rises after a good day, complaints halt a pattern. */

const DAY = 24 * 3_600_000;
/** A good day used so much of what was allowed, and nearly everybody was reached. */
const GOOD = { used: 0.5, reached: 0.9 };
const HIGHEST = 100_000;
/** People who blocked the business after a pattern before it is halted: so many, and this share of those who got it. */
const COMPLAINTS = { least: 5, share: 0.05 };

interface Line {
  id: string;
  /** Conversations the business may start in a day. */
  startsADay: number;
}

interface Start {
  person: string;
  at: number;
  reached?: boolean;
}

export class Starts {
  private readonly starts = new Map<string, Start[]>();
  private readonly risen = new Map<string, number>();
  /** The pattern a person got last over a line. */
  private readonly last = new Map<string, string>();
  private readonly got = new Map<string, number>();
  private readonly blocked = new Map<string, Set<string>>();

  /** A person counts once a day, however much they are sent. False where the day's allowance is used up. */
  begin(line: Line, person: string, now: number): Start | false {
    this.rise(line, now);
    const today = this.today(line, now);
    const before = today.find((start) => start.person === person);
    if (before) return before;
    if (today.length >= line.startsADay) return false;
    const start = { person, at: now };
    today.push(start);
    this.starts.set(line.id, today);
    return start;
  }

  private today({ id }: Line, now: number): Start[] {
    return (this.starts.get(id) ?? []).filter(({ at }) => at > now - DAY);
  }

  /** A day after it rose last, or was used first. */
  private rise(line: Line, now: number) {
    const all = this.starts.get(line.id) ?? [];
    const since = this.risen.get(line.id) ?? all[0]?.at;
    if (since === undefined || now - since < DAY) return;
    const day = all.filter(({ at }) => at >= since && at < since + DAY);
    const reached = day.filter((start) => start.reached !== false).length;
    if (day.length >= line.startsADay * GOOD.used && reached >= day.length * GOOD.reached)
      line.startsADay = Math.min(HIGHEST, line.startsADay * 2);
    this.risen.set(line.id, now);
  }

  /** Notes that a person got a pattern. */
  gave(pattern: string, line: Line, person: string) {
    this.last.set(`${line.id} ${person}`, pattern);
    this.got.set(pattern, (this.got.get(pattern) ?? 0) + 1);
  }

  /** Somebody blocks the business. Returns the pattern that has had too many of these. */
  block(line: Line, person: string): string | undefined {
    const pattern = this.last.get(`${line.id} ${person}`);
    if (!pattern) return undefined;
    const people = this.blocked.get(pattern) ?? new Set();
    this.blocked.set(pattern, people.add(person));
    return people.size >= COMPLAINTS.least && people.size >= (this.got.get(pattern) ?? 0) * COMPLAINTS.share
      ? pattern
      : undefined;
  }
}
