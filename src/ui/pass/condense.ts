/**
 * A large set-up in a picture that fits: of each column the nodes that need to be seen, the
 * rest as one. What is broken comes first, then what carries most. Pure.
 */

import { groupBy } from '../../core/groupBy';
import { worstOf } from '../../core/proof/proofs';
import type { PassInput } from './layout';

export type Column = 'accounts' | 'channels' | 'routes' | 'apps';
type Node = PassInput['accounts'][number];

export interface Condensed {
  input: PassInput;
  /** What stands together, by the id of the node it stands in. */
  members: Map<string, string[]>;
}

const COLUMNS: readonly Column[] = ['accounts', 'channels', 'routes', 'apps'];
const WORDS: Record<Column, string> = { accounts: 'accounts', channels: 'channels', routes: 'routes', apps: 'apps' };
const ORDER = { broken: 0, unproven: 1, proven: 2, 'not-applicable': 2 } as const;

/** `most` nodes a column; `open` columns are shown whole, `wanted` nodes are always drawn by themselves. */
export function condense(
  input: PassInput,
  most: number,
  { open = new Set(), wanted = new Set() }: { open?: ReadonlySet<string>; wanted?: ReadonlySet<string> } = {},
): Condensed {
  const traffic = new Map<string, number>();
  for (const { from, to, traffic: n } of input.lines)
    for (const id of [from, to]) traffic.set(id, (traffic.get(id) ?? 0) + n);
  const members = new Map<string, string[]>();
  const standsIn = new Map<string, string>();
  const fold = (column: Column): Node[] => {
    const nodes = input[column];
    if (nodes.length <= most || open.has(column)) return nodes;
    const ranked = [...nodes].sort(
      (a, b) =>
        Number(wanted.has(b.id)) - Number(wanted.has(a.id)) ||
        ORDER[a.state] - ORDER[b.state] ||
        (traffic.get(b.id) ?? 0) - (traffic.get(a.id) ?? 0),
    );
    const kept = new Set(ranked.slice(0, Math.max(most - 1, wanted.size)).map(({ id }) => id));
    const rest = nodes.filter(({ id }) => !kept.has(id));
    const id = `other ${column}`;
    members.set(
      id,
      rest.map((node) => node.id),
    );
    for (const node of rest) standsIn.set(node.id, id);
    const states = groupBy(rest, ({ state }) => state);
    const count = (state: Node['state']) => states.get(state)?.length ?? 0;
    const said = [
      count('broken') > 0 && `${count('broken')} broken`,
      count('unproven') > 0 && `${count('unproven')} unproven`,
      count('proven') > 0 && `${count('proven')} proven`,
    ].filter(Boolean);
    return [
      ...nodes.filter((node) => kept.has(node.id)),
      {
        id,
        name: `${rest.length} other ${WORDS[column]}`,
        detail: said.join(', ') || 'choose to see them',
        href: '#',
        state: worstOf(rest.map(({ state }) => state)),
      },
    ];
  };
  const [accounts, channels, routes, apps] = COLUMNS.map(fold) as [Node[], Node[], Node[], Node[]];
  const of = (id: string) => standsIn.get(id) ?? id;
  const lines = [...groupBy(input.lines, ({ from, to }) => `${of(from)} ${of(to)}`).values()].map((same) => ({
    from: of(same[0]?.from ?? ''),
    to: of(same[0]?.to ?? ''),
    traffic: same.reduce((sum, line) => sum + line.traffic, 0),
    state: worstOf(same.map(({ state }) => state)),
  }));
  return { input: { accounts, channels, routes, apps, lines }, members };
}
