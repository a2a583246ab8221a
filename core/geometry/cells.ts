import type { Point } from './matrix';

/** Shapes as cells of a grid: every cell that the shape touches, so that shapes with no cell in common do not overlap. */

/** Rows of spans: `from`, `to` of every span, both inclusive; row `r` has those from `starts[r]` to `starts[r + 1]`. */
export interface Cells {
  columns: number;
  rows: number;
  starts: Int32Array;
  from: Int32Array;
  to: Int32Array;
  /** Rows in the order in which they are tested: the ones that tell most first. */
  order: Int32Array;
}

/**
 * @param rings even-odd, in mm, at their place
 * @param cell mm
 * @returns the cells, and the column and row of the first
 */
export function cellsOf(rings: readonly (readonly Point[])[], cell: number): { cells: Cells; column: number; row: number } {
  let [x0, y0, x1, y1] = [Infinity, Infinity, -Infinity, -Infinity];
  for (const ring of rings)
    for (const p of ring) {
      x0 = Math.min(x0, p.x);
      y0 = Math.min(y0, p.y);
      x1 = Math.max(x1, p.x);
      y1 = Math.max(y1, p.y);
    }
  // What only touches a cell's edge is not in it.
  const HAIR = 1e-7;
  const column = Math.floor((x0 + HAIR) / cell);
  const row = Math.floor((y0 + HAIR) / cell);
  const columns = Math.max(1, Math.ceil((x1 - HAIR) / cell) - column);
  const rows = Math.max(1, Math.ceil((y1 - HAIR) / cell) - row);
  const spans: [number, number][][] = Array.from({ length: rows }, () => []);
  const crossings: number[][] = Array.from({ length: rows }, () => []);
  for (const ring of rings) {
    for (let i = 0; i < ring.length; i++) {
      const p = ring[i]!;
      const q = ring[(i + 1) % ring.length]!;
      const [top, bottom] = p.y <= q.y ? [p, q] : [q, p];
      const first = Math.max(0, Math.floor((top.y + HAIR) / cell) - row);
      const last = Math.min(rows - 1, Math.ceil((bottom.y - HAIR) / cell) - 1 - row);
      const slope = bottom.y - top.y > 1e-12 ? (bottom.x - top.x) / (bottom.y - top.y) : 0;
      for (let r = first; r <= last; r++) {
        const from = Math.max(top.y, (row + r) * cell);
        const to = Math.min(bottom.y, (row + r + 1) * cell);
        const a = top.x + (from - top.y) * slope;
        const b = bottom.y - top.y > 1e-12 ? top.x + (to - top.y) * slope : bottom.x;
        spans[r]!.push([
          Math.max(0, Math.floor((Math.min(a, b) + HAIR) / cell) - column),
          Math.min(
            columns - 1,
            Math.max(Math.floor((Math.min(a, b) + HAIR) / cell), Math.ceil((Math.max(a, b) - HAIR) / cell) - 1) - column
          )
        ]);
        const middle = (row + r + 0.5) * cell;
        if (top.y <= middle && bottom.y > middle) crossings[r]!.push(top.x + (middle - top.y) * slope);
      }
    }
  }
  const starts = new Int32Array(rows + 1);
  const from: number[] = [];
  const to: number[] = [];
  for (let r = 0; r < rows; r++) {
    const xs = crossings[r]!.sort((p, q) => p - q);
    const all = spans[r]!;
    for (let i = 0; i + 1 < xs.length; i += 2)
      all.push([Math.max(0, Math.floor(xs[i]! / cell) - column), Math.min(columns - 1, Math.floor(xs[i + 1]! / cell) - column)]);
    all.sort((p, q) => p[0] - q[0]);
    starts[r] = from.length;
    for (const [a, b] of all) {
      if (from.length > starts[r]! && a <= to.at(-1)! + 1) to[to.length - 1] = Math.max(to.at(-1)!, b);
      else {
        from.push(a);
        to.push(b);
      }
    }
  }
  starts[rows] = from.length;
  const widest = (r: number) => {
    let most = 0;
    for (let i = starts[r]!; i < starts[r + 1]!; i++) most = Math.max(most, to[i]! - from[i]! + 1);
    return most;
  };
  const order = Int32Array.from({ length: rows }, (_, r) => r).sort((p, q) => widest(q) - widest(p) || p - q);
  return { cells: { columns, rows, starts, from: Int32Array.from(from), to: Int32Array.from(to), order }, column, row };
}

/** What of a strip or sheet is taken, a bit a cell. */
export class CellField {
  readonly columns: number;
  readonly rows: number;
  readonly #words: number;
  #bits: Uint32Array;
  #room: number;
  /** Rows in use. */
  filled = 0;

  /** @param rows may be infinite */
  constructor(columns: number, rows: number) {
    this.columns = columns;
    this.rows = rows;
    this.#words = (columns + 31) >> 5;
    this.#room = Math.min(rows, 256);
    this.#bits = new Uint32Array(this.#words * this.#room);
  }

  clear(): void {
    this.#bits.fill(0, 0, this.#words * Math.min(this.#room, this.filled));
    this.filled = 0;
  }

  /** Takes cells; what reaches over the edges is left out. */
  take(cells: Cells, column: number, row: number): void {
    const end = Math.min(this.rows, row + cells.rows);
    while (end > this.#room) {
      const larger = new Uint32Array(this.#bits.length * 2);
      larger.set(this.#bits);
      this.#bits = larger;
      this.#room *= 2;
    }
    for (let r = Math.max(0, row); r < end; r++) {
      const base = r * this.#words;
      for (let i = cells.starts[r - row]!; i < cells.starts[r - row + 1]!; i++) {
        const a = Math.max(0, column + cells.from[i]!);
        const b = Math.min(this.columns - 1, column + cells.to[i]!);
        for (let w = a >> 5; w <= b >> 5 && a <= b; w++) {
          const low = w === a >> 5 ? a & 31 : 0;
          const high = w === b >> 5 ? b & 31 : 31;
          this.#bits[base + w]! |= ((high === 31 ? 0xffffffff : (1 << (high + 1)) - 1) & (0xffffffff << low)) >>> 0;
        }
      }
    }
    this.filled = Math.max(this.filled, end);
  }

  /** The last taken cell of a row between two columns; below 0 where all are free. */
  #lastTaken(row: number, a: number, b: number): number {
    const base = row * this.#words;
    for (let w = b >> 5; w >= a >> 5; w--) {
      const low = w === a >> 5 ? a & 31 : 0;
      const high = w === b >> 5 ? b & 31 : 31;
      const bits = this.#bits[base + w]! & (high === 31 ? 0xffffffff : (1 << (high + 1)) - 1) & (0xffffffff << low);
      if (bits !== 0) return (w << 5) + 31 - Math.clz32(bits);
    }
    return -1;
  }

  /**
   * The first free place at or after `row`, `column`, row by row.
   *
   * @returns row · columns + column, or below 0 where a field with an end has none
   */
  find(cells: Cells, row: number, column: number): number {
    const lastColumn = this.columns - cells.columns;
    if (lastColumn < 0) return -1;
    let x = column;
    for (let y = row; y + cells.rows <= this.rows; y++, x = 0) {
      if (y >= this.filled) return y * this.columns + x;
      next: while (x <= lastColumn) {
        for (let k = 0; k < cells.rows; k++) {
          const r = cells.order[k]!;
          if (y + r >= this.filled) continue;
          for (let i = cells.starts[r]!; i < cells.starts[r + 1]!; i++) {
            const taken = this.#lastTaken(y + r, x + cells.from[i]!, x + cells.to[i]!);
            if (taken >= 0) {
              x = taken - cells.from[i]! + 1;
              continue next;
            }
          }
        }
        return y * this.columns + x;
      }
    }
    return -1;
  }
}
