/** Past messages against two revisions: which would go elsewhere, grouped by how. */
import { type Arrival, prepare } from './arrival';
import { type CompiledSet, compileSet, decidePrepared } from './decide';
import type { RouteSet } from './route';

export interface ReplayGroup {
  /** Names of the routes that take it before and after, in order; empty for none. */
  before: string[];
  after: string[];
  count: number;
  /** The first of them, by the ids they were given with. */
  examples: string[];
}

export interface ReplaySummary {
  messages: number;
  same: number;
  /** Would depend on an app that was not asked then. */
  unknown: number;
  /** Most first. */
  groups: ReplayGroup[];
}

const EXAMPLES = 5;

/** Compiled once; `take` may be called with slices, so that whoever runs it can pause in between. */
export class Replay {
  readonly #before: CompiledSet;
  readonly #after: CompiledSet;
  readonly #groups = new Map<string, ReplayGroup>();
  #messages = 0;
  #same = 0;
  #unknown = 0;

  constructor(before: RouteSet, after: RouteSet) {
    this.#before = compileSet(before);
    this.#after = compileSet(after);
  }

  take(messages: readonly { id: string; arrival: Arrival }[]): void {
    for (const { id, arrival } of messages) {
      this.#messages += 1;
      const prepared = prepare(arrival);
      const before = decidePrepared(this.#before, prepared);
      const after = decidePrepared(this.#after, prepared);
      if (before.kind === 'ask' || after.kind === 'ask') {
        this.#unknown += 1;
        continue;
      }
      const ids = (routes: readonly { id: string }[]) => routes.map((route) => route.id).join(' ');
      if (ids(before.routes) === ids(after.routes)) {
        this.#same += 1;
        continue;
      }
      const key = `${ids(before.routes)}>${ids(after.routes)}`;
      let group = this.#groups.get(key);
      if (!group) {
        const names = (routes: readonly { name: string }[]) => routes.map(({ name }) => name);
        group = { before: names(before.routes), after: names(after.routes), count: 0, examples: [] };
        this.#groups.set(key, group);
      }
      group.count += 1;
      if (group.examples.length < EXAMPLES) group.examples.push(id);
    }
  }

  summary(): ReplaySummary {
    return {
      messages: this.#messages,
      same: this.#same,
      unknown: this.#unknown,
      groups: [...this.#groups.values()].sort((a, b) => b.count - a.count),
    };
  }
}
