import {
  addNode,
  isSmooth,
  moveNode,
  removeNode,
  reverse,
  setSmooth,
  startAt,
  withLine,
  type NodeLine
} from '$core/cutting/nodes';

/** The line that is worked on, and its node; none for the whole line. */
export interface Chosen {
  line: number;
  node: number | null;
}

export type LineAction = 'remove' | 'add' | 'smooth' | 'straight' | 'reverse' | 'start';

/** What a button or a key does to the chosen line. */
export function act(lines: readonly NodeLine[], { line, node }: Chosen, action: LineAction): NodeLine[] {
  return withLine(lines, line, (one) => {
    if (action === 'reverse') return reverse(one);
    if (node === null) return action === 'remove' ? { ...one, nodes: [] } : one;
    switch (action) {
      case 'remove':
        return removeNode(one, node);
      case 'add':
        return addNode(one, node, 0.5);
      case 'smooth':
        return setSmooth(one, node, true);
      case 'straight':
        return setSmooth(one, node, false);
      case 'start':
        return startAt(one, node);
    }
  });
}

/** The keys of the editor. @returns the lines after it, or none when the key is not one of them */
export function actByKey(lines: readonly NodeLine[], chosen: Chosen, event: KeyboardEvent): NodeLine[] | undefined {
  const node = chosen.node === null ? undefined : lines[chosen.line]?.nodes[chosen.node];
  const by = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key];
  if (by && node && chosen.node !== null) {
    const step = event.shiftKey ? 1 : 0.1;
    const to = { x: node.at.x + (by[0] ?? 0) * step, y: node.at.y + (by[1] ?? 0) * step };
    const { node: index } = chosen;
    return withLine(lines, chosen.line, (line) => moveNode(line, index, to));
  }
  if (event.key === 'Delete' || event.key === 'Backspace') return act(lines, chosen, 'remove');
  if (event.key === 'Insert' || event.key === 'a') return act(lines, chosen, 'add');
  if (event.key === 's' && node) return act(lines, chosen, isSmooth(node) ? 'straight' : 'smooth');
  return undefined;
}
