import type { Point } from '../geometry/matrix';
import { subpaths, type Path } from '../geometry/path';
import type { Box } from '../geometry/box';

/** A line as its nodes, for editing by hand. */
export interface Node {
  at: Point;
  /** Handles; none where the piece on that side is straight. */
  before?: Point | undefined;
  after?: Point | undefined;
}

export interface NodeLine {
  nodes: Node[];
  closed: boolean;
}

const same = (p: Point, q: Point) => Math.hypot(p.x - q.x, p.y - q.y) < 1e-6;

export function toNodes(path: Path): NodeLine[] {
  return subpaths(path).flatMap((part): NodeLine[] => {
    const nodes: Node[] = [];
    let closed = false;
    for (const segment of part) {
      if (segment.kind === 'close') closed = true;
      else if (segment.kind === 'curve') {
        const last = nodes.at(-1);
        if (last) last.after = segment.c1;
        nodes.push({ at: segment.to, before: segment.c2 });
      } else nodes.push({ at: segment.to });
    }
    // A closed line that comes back to its start has that node once.
    const first = nodes[0];
    const last = nodes.at(-1);
    if (closed && first && last && nodes.length > 1 && same(first.at, last.at)) {
      first.before = last.before;
      nodes.pop();
    }
    return nodes.length > 1 ? [{ nodes, closed }] : [];
  });
}

export function fromNodes(lines: readonly NodeLine[]): Path {
  const path: Path = [];
  for (const { nodes, closed } of lines) {
    const first = nodes[0];
    if (!first || nodes.length < 2) continue;
    path.push({ kind: 'move', to: first.at });
    const piece = (from: Node, to: Node) => {
      if (from.after || to.before) path.push({ kind: 'curve', c1: from.after ?? from.at, c2: to.before ?? to.at, to: to.at });
      else path.push({ kind: 'line', to: to.at });
    };
    for (let i = 1; i < nodes.length; i++) piece(nodes[i - 1]!, nodes[i]!);
    if (closed) {
      const last = nodes[nodes.length - 1]!;
      if (last.after || first.before) piece(last, first);
      path.push({ kind: 'close' });
    }
  }
  return path;
}

/** The same with one line changed. */
export const withLine = (lines: readonly NodeLine[], index: number, change: (line: NodeLine) => NodeLine): NodeLine[] =>
  lines.map((line, i) => (i === index ? change(line) : line)).filter((line) => line.nodes.length > 1);

const mix = (p: Point, q: Point, t: number): Point => ({ x: p.x + (q.x - p.x) * t, y: p.y + (q.y - p.y) * t });

/**
 * A node more on the piece after node `index`, or before it where that is the end of an open line, at `t` of it; the shape stays
 * (de Casteljau).
 */
export function addNode(line: NodeLine, index: number, t: number): NodeLine {
  const { nodes, closed } = line;
  if (!closed && index === nodes.length - 1) return addNode(line, index - 1, t);
  const from = nodes[index]!;
  const next = (index + 1) % nodes.length;
  const to = nodes[next]!;
  if (!from.after && !to.before) {
    return { ...line, nodes: [...nodes.slice(0, index + 1), { at: mix(from.at, to.at, t) }, ...nodes.slice(index + 1)] };
  }
  const [a, b, c, d] = [from.at, from.after ?? from.at, to.before ?? to.at, to.at];
  const [ab, bc, cd] = [mix(a, b, t), mix(b, c, t), mix(c, d, t)];
  const [abc, bcd] = [mix(ab, bc, t), mix(bc, cd, t)];
  const changed = nodes.map((node, i) => {
    const after = i === index ? ab : node.after;
    const before = i === next ? cd : node.before;
    return { at: node.at, before, after };
  });
  changed.splice(index + 1, 0, { at: mix(abc, bcd, t), before: abc, after: bcd });
  return { ...line, nodes: changed };
}

/** Without a node; a line of fewer than three nodes that is closed, or two that is open, is none any more. */
export function removeNode(line: NodeLine, index: number): NodeLine {
  const nodes = line.nodes.filter((_, i) => i !== index);
  return { ...line, nodes: nodes.length < (line.closed ? 3 : 2) ? [] : nodes };
}

export function moveNode(line: NodeLine, index: number, to: Point): NodeLine {
  return {
    ...line,
    nodes: line.nodes.map((node, i) => {
      if (i !== index) return node;
      const by = { x: to.x - node.at.x, y: to.y - node.at.y };
      const shift = (p: Point | undefined) => p && { x: p.x + by.x, y: p.y + by.y };
      return { at: to, before: shift(node.before), after: shift(node.after) };
    })
  };
}

/** A smooth node keeps its handles in one line, each its own length. */
export const isSmooth = ({ at, before, after }: Node): boolean => {
  if (!before || !after) return false;
  const cross = (at.x - before.x) * (after.y - at.y) - (at.y - before.y) * (after.x - at.x);
  const lengths = Math.hypot(at.x - before.x, at.y - before.y) * Math.hypot(after.x - at.x, after.y - at.y);
  return lengths > 0 && Math.abs(cross) < 0.01 * lengths;
};

export function moveHandle(line: NodeLine, index: number, which: 'before' | 'after', to: Point): NodeLine {
  return {
    ...line,
    nodes: line.nodes.map((node, i) => {
      if (i !== index) return node;
      const other = which === 'before' ? 'after' : 'before';
      const opposite = node[other];
      if (!opposite || !isSmooth(node)) return { ...node, [which]: to };
      const length = Math.hypot(opposite.x - node.at.x, opposite.y - node.at.y);
      const span = Math.hypot(to.x - node.at.x, to.y - node.at.y) || 1;
      const turned = {
        x: node.at.x - ((to.x - node.at.x) / span) * length,
        y: node.at.y - ((to.y - node.at.y) / span) * length
      };
      return { ...node, [which]: to, [other]: turned };
    })
  };
}

/** Gives a node handles along its neighbours (smooth), or takes them away (straight). */
export function setSmooth(line: NodeLine, index: number, smooth: boolean): NodeLine {
  const { nodes, closed } = line;
  const n = nodes.length;
  const node = nodes[index]!;
  if (!smooth) return { ...line, nodes: nodes.map((one, i) => (i === index ? { at: one.at } : one)) };
  const before = nodes[(index + n - 1) % n];
  const after = nodes[(index + 1) % n];
  if (!before || !after || (!closed && (index === 0 || index === n - 1))) return line;
  const [dx, dy] = [after.at.x - before.at.x, after.at.y - before.at.y];
  const span = Math.hypot(dx, dy) || 1;
  const reach = (p: Point) => Math.hypot(p.x - node.at.x, p.y - node.at.y) / 3;
  const along = (d: number): Point => ({ x: node.at.x + (dx / span) * d, y: node.at.y + (dy / span) * d });
  const changed = { at: node.at, before: along(-reach(before.at)), after: along(reach(after.at)) };
  return { ...line, nodes: nodes.map((one, i) => (i === index ? changed : one)) };
}

export const reverse = (line: NodeLine): NodeLine => ({
  ...line,
  nodes: [...line.nodes].reverse().map(({ at, before, after }) => ({ at, before: after, after: before }))
});

/** A closed line that starts at another of its nodes. */
export const startAt = (line: NodeLine, index: number): NodeLine =>
  line.closed ? { ...line, nodes: [...line.nodes.slice(index), ...line.nodes.slice(0, index)] } : line;

export const mapLine = (line: NodeLine, map: (p: Point) => Point): NodeLine => ({
  ...line,
  nodes: line.nodes.map(({ at, before, after }) => ({ at: map(at), before: before && map(before), after: after && map(after) }))
});

/** Lines moved and scaled so that `from` becomes `to`. */
export function fitInto(lines: readonly NodeLine[], from: Box, to: Box): NodeLine[] {
  const sx = from.width > 0 ? to.width / from.width : 1;
  const sy = from.height > 0 ? to.height / from.height : 1;
  return lines.map((line) => mapLine(line, (p) => ({ x: to.x + (p.x - from.x) * sx, y: to.y + (p.y - from.y) * sy })));
}

/** The place on a line nearest to a point: the piece it is on, and how far along. */
export function nearestOn(line: NodeLine, p: Point): { index: number; t: number; distance: number } {
  let best = { index: 0, t: 0, distance: Infinity };
  const n = line.nodes.length;
  for (let i = 0; i < (line.closed ? n : n - 1); i++) {
    const from = line.nodes[i]!;
    const to = line.nodes[(i + 1) % n]!;
    const [a, b, c, d] = [from.at, from.after ?? from.at, to.before ?? to.at, to.at];
    const straight = !from.after && !to.before;
    const at = (t: number): Point => {
      if (straight) return mix(a, d, t);
      const [ab, bc, cd] = [mix(a, b, t), mix(b, c, t), mix(c, d, t)];
      return mix(mix(ab, bc, t), mix(bc, cd, t), t);
    };
    for (let k = 0; k <= 40; k++) {
      const q = at(k / 40);
      const distance = Math.hypot(q.x - p.x, q.y - p.y);
      if (distance < best.distance) best = { index: i, t: k / 40, distance };
    }
  }
  return best;
}

/**
 * Where a dragged point snaps to: the nearest of given places, or of given lines across and along, within a reach.
 * @returns the point, and what it snapped to
 */
export function snap(
  p: Point,
  places: readonly Point[],
  guides: { x: readonly number[]; y: readonly number[] },
  reach: number
): { at: Point; snapped: boolean } {
  const near = nearest(places, (q) => Math.hypot(q.x - p.x, q.y - p.y), reach);
  if (near) return { at: near, snapped: true };
  const x = nearest(guides.x, (g) => Math.abs(g - p.x), reach);
  const y = nearest(guides.y, (g) => Math.abs(g - p.y), reach);
  return { at: { x: x ?? p.x, y: y ?? p.y }, snapped: x !== undefined || y !== undefined };
}

/** The one that is least far, within a reach. */
function nearest<T>(all: readonly T[], distance: (one: T) => number, reach: number): T | undefined {
  let best: T | undefined;
  let least = reach;
  for (const one of all) {
    const far = distance(one);
    if (far > least || (best !== undefined && far === least)) continue;
    [best, least] = [one, far];
  }
  return best;
}
