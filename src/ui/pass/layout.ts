/**
 * Lays the set-up out as lanes across a gap: accounts and channels on the left bank,
 * apps on the right, the route in between. Pure: the same set-up gives the same picture.
 */
import type { ProofState } from '../../core/proof/proofs';

export interface PassInput {
  accounts: Node[];
  channels: Node[];
  routes: Node[];
  apps: Node[];
  lines: { from: string; to: string; traffic: number; state: ProofState }[];
}

interface Node {
  id: string;
  name: string;
  detail: string;
  href: string;
  state: ProofState;
}

export interface PlacedNode extends Node {
  x: number;
  y: number;
  width: number;
}

export interface PlacedLine {
  from: string;
  to: string;
  traffic: number;
  state: ProofState;
  path: string;
  thickness: number;
  /** Half-way point, where a break is drawn. */
  middle: Point;
  /** Where its figure stands, clear of those of other lines. */
  figure: Point;
}

export interface PassPicture {
  width: number;
  height: number;
  nodes: PlacedNode[];
  lines: PlacedLine[];
}

const WIDTH = 1036;
/** Room for the words above the banks. */
const HEAD = 20;
const ROW = 58;
const COLUMNS = {
  accounts: { x: 14, width: 210 },
  channels: { x: 284, width: 190 },
  routes: { x: 556, width: 196 },
  apps: { x: 834, width: 188 },
};
type Column = keyof typeof COLUMNS;

export function layPass(input: PassInput): PassPicture {
  const channels = orderByOwner(input);
  const columns: Record<Column, Node[]> = {
    accounts: input.accounts,
    channels,
    routes: input.routes,
    apps: input.apps,
  };
  const rows = Math.max(...Object.values(columns).map((nodes) => nodes.length), 2);
  const height = rows * ROW + HEAD + 16;
  const nodes = (Object.keys(COLUMNS) as Column[]).flatMap((column) => placeColumn(columns[column], column, height));
  const byId = new Map(nodes.map((node) => [node.id, node]));
  const figures: Point[] = [];
  const lines = input.lines.flatMap((line) => {
    const from = byId.get(line.from);
    const to = byId.get(line.to);
    if (!from || !to) return [];
    const { at, ...drawn } = drawLine(from, to);
    const places = FIGURE_AT.map(at);
    const figure = places.find((place) => figures.every((other) => apart(place, other))) ?? (places[0] as Point);
    if (line.traffic > 0) figures.push(figure);
    return [{ ...line, ...drawn, figure, thickness: thicknessOf(line.traffic) }];
  });
  return { width: WIDTH, height, nodes, lines };
}

/** Channels stand in the order of their accounts, so that lanes on the left bank do not cross. */
function orderByOwner(input: PassInput): Node[] {
  const ownerOf = (channel: Node) =>
    input.accounts.findIndex((account) =>
      input.lines.some((line) => line.from === account.id && line.to === channel.id),
    );
  return [...input.channels].sort((a, b) => ownerOf(a) - ownerOf(b));
}

function placeColumn(nodes: Node[], column: Column, height: number): PlacedNode[] {
  const { x, width } = COLUMNS[column];
  const step = (height - HEAD) / nodes.length;
  return nodes.map((node, index) => ({ ...node, x, width, y: Math.round(HEAD + step * (index + 0.5)) }));
}

interface Point {
  x: number;
  y: number;
}

/** Shares of the way at which a figure may stand, best first: before the lines cross, or after. */
const FIGURE_AT = [0.32, 0.22, 0.42, 0.6, 0.7, 0.5];
/** What a figure of two digits takes. */
const FIGURE_SIZE = { x: 20, y: 14 };

const apart = (one: Point, other: Point) =>
  Math.abs(one.x - other.x) >= FIGURE_SIZE.x || Math.abs(one.y - other.y) >= FIGURE_SIZE.y;

function drawLine(from: PlacedNode, to: PlacedNode) {
  const start = { x: from.x + from.width, y: from.y };
  const end = { x: to.x, y: to.y };
  const bend = (end.x - start.x) / 2;
  return {
    path: `M${start.x} ${start.y} C${start.x + bend} ${start.y} ${end.x - bend} ${end.y} ${end.x} ${end.y}`,
    middle: { x: (start.x + end.x) / 2, y: (start.y + end.y) / 2 },
    at: (share: number) => onCurve(start, end, bend, share),
  };
}

/** The place at a share `t` of the way along the line’s curve. */
function onCurve(start: Point, end: Point, bend: number, t: number): Point {
  const s = 1 - t;
  const at = (p0: number, p1: number, p2: number, p3: number) =>
    s ** 3 * p0 + 3 * s ** 2 * t * p1 + 3 * s * t ** 2 * p2 + t ** 3 * p3;
  return {
    x: Math.round(at(start.x, start.x + bend, end.x - bend, end.x)),
    y: Math.round(at(start.y, start.y, end.y, end.y)),
  };
}

/** A lane without traffic is a thread; a hundred times the traffic is about three times as wide. */
function thicknessOf(traffic: number): number {
  return Math.min(14, 1.5 + Math.log2(1 + traffic) * 1.5);
}

/** Everything on a path through one node: what leads to it and what it leads to. */
export function pathThrough(id: string, lines: readonly { from: string; to: string }[]): Set<string> {
  const reached = new Set([id]);
  const follow = (start: string, next: (node: string) => string[]) => {
    const waiting = [start];
    for (let node = waiting.pop(); node !== undefined; node = waiting.pop()) {
      for (const neighbour of next(node)) {
        if (reached.has(neighbour)) continue;
        reached.add(neighbour);
        waiting.push(neighbour);
      }
    }
  };
  follow(id, (node) => lines.filter((line) => line.to === node).map((line) => line.from));
  follow(id, (node) => lines.filter((line) => line.from === node).map((line) => line.to));
  return reached;
}
