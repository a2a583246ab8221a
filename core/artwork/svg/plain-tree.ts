import { SaxesParser } from 'saxes';
import type { Matrix, Point } from '../../geometry/matrix';
import type { Path } from '../../geometry/path';

/** A drawing of nothing but groups, paths, pictures, gradients, patterns, clips, masks and filters, as it is after normalising. */
export interface Plain {
  tag: string;
  attributes: Record<string, string>;
  kids: Plain[];
}

export interface PlainDrawing {
  root: Plain;
  /** What is referred to, by id. */
  definitions: Map<string, Plain>;
}

/** @throws Error when the text is not XML; the normaliser writes none such */
export function readPlain(text: string): PlainDrawing {
  const top: Plain = { tag: '', attributes: {}, kids: [] };
  const open = [top];
  const parser = new SaxesParser();
  parser.on('opentag', ({ name, attributes }) => {
    const node = { tag: name, attributes: attributes as Record<string, string>, kids: [] };
    open.at(-1)?.kids.push(node);
    open.push(node);
  });
  parser.on('closetag', () => void open.pop());
  parser.write(text).close();
  const root = top.kids[0];
  if (!root) throw new Error('There is no drawing.');
  const definitions = new Map<string, Plain>();
  for (const node of root.kids) {
    if (node.tag !== 'defs') continue;
    for (const one of node.kids) if (one.attributes['id'] !== undefined) definitions.set(one.attributes['id'], one);
  }
  return { root, definitions };
}

const escaped = (value: string) => value.replace(/[&<"]/g, (c) => (c === '&' ? '&amp;' : c === '<' ? '&lt;' : '&quot;'));

export function writePlain({ tag, attributes, kids }: Plain): string {
  const words = Object.entries(attributes).map(([name, value]) => ` ${name}="${escaped(value)}"`);
  return `<${tag}${words.join('')}>${kids.map(writePlain).join('')}</${tag}>`;
}

/** The ids that a node refers to, itself or below. */
export function references(node: Plain, into = new Set<string>()): Set<string> {
  for (const value of Object.values(node.attributes)) {
    if (!value.startsWith('url(#')) continue;
    into.add(value.slice(5, value.indexOf(')')));
  }
  const use = node.attributes['xlink:href'] ?? node.attributes['href'];
  if (use?.startsWith('#')) into.add(use.slice(1));
  node.kids.forEach((kid) => references(kid, into));
  return into;
}

export const number = (node: Plain, name: string, fallback = 0): number => {
  const value = Number.parseFloat(node.attributes[name] ?? '');
  return Number.isFinite(value) ? value : fallback;
};

/** The node that an attribute as `url(#id)` names. */
export function referred(node: Plain, name: string, definitions: ReadonlyMap<string, Plain>): Plain | undefined {
  const value = node.attributes[name];
  return value?.startsWith('url(#') ? definitions.get(value.slice(5, value.indexOf(')'))) : undefined;
}

export function matrixOf(node: Plain, name = 'transform'): Matrix {
  const n = (/matrix\(([^)]*)\)/.exec(node.attributes[name] ?? '')?.[1] ?? '').split(/[\s,]+/).map(Number);
  return n.length === 6 && n.every(Number.isFinite) ? (n as unknown as Matrix) : [1, 0, 0, 1, 0, 0];
}

/** Path data of absolute M, L, C, Q and Z with spaces between all, as the normaliser writes it; Q becomes C. */
export function readPathData(data: string): Path {
  const path: Path = [];
  const words = data.split(' ');
  let at: Point = { x: 0, y: 0 };
  let i = 0;
  const point = (): Point => ({ x: Number(words[i++]), y: Number(words[i++]) });
  while (i < words.length) {
    const letter = words[i++];
    if (letter === 'M') path.push({ kind: 'move', to: (at = point()) });
    else if (letter === 'L') path.push({ kind: 'line', to: (at = point()) });
    else if (letter === 'C') {
      const [c1, c2, to] = [point(), point(), point()];
      path.push({ kind: 'curve', c1, c2, to: (at = to) });
    } else if (letter === 'Q') {
      const [c, to] = [point(), point()];
      const toward = (p: Point): Point => ({ x: p.x + ((c.x - p.x) * 2) / 3, y: p.y + ((c.y - p.y) * 2) / 3 });
      path.push({ kind: 'curve', c1: toward(at), c2: toward(to), to: (at = to) });
    } else if (letter === 'Z') path.push({ kind: 'close' });
  }
  return path;
}
