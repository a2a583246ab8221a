import { grow } from '../geometry/areas';
import { boxAround } from '../geometry/box';
import { turnRings, type Point } from '../geometry/matrix';
import { CellField, cellsOf, type Cells } from '../geometry/cells';
import { areaWithin } from '../geometry/path';
import type { Field } from './skyline';

/** A piece by its contour: rings (even-odd, so that holes are told) in mm, in the piece's own place. */
export interface ShapeLot {
  kind: number;
  rings: Point[][];
  count: number;
  /** Degrees clockwise that it may be turned by. */
  turns: readonly number[];
}

export interface ShapeSpot {
  kind: number;
  bin: number;
  turn: number;
  /** How far the turned rings (about 0, 0) are moved. */
  dx: number;
  dy: number;
}

interface Ready {
  turn: number;
  /** Cells of the shape, and of the shape grown by the gap, relative to the first of the shape. */
  own: Cells;
  column: number;
  row: number;
  grown: Cells;
  grownColumn: number;
  grownRow: number;
  /** Of the area, down from the first row, in cells. */
  centre: number;
}

/** A field of cells and shapes ready to be placed on it many times. */
export class ShapePlacer {
  readonly cell: number;
  readonly #field: Field;
  readonly #lots: readonly ShapeLot[];
  readonly #ready: Ready[][];
  readonly #bins: CellField[] = [];
  readonly #taken: (readonly Point[][])[][];
  readonly #gap: number;

  /**
   * @param gap least distance between contours, mm
   * @param taken by bin: contours that stay where they are
   */
  constructor(lots: readonly ShapeLot[], field: Field, gap: number, taken: readonly (readonly Point[][])[][] = []) {
    this.#lots = lots;
    this.#field = field;
    this.#gap = gap;
    this.#taken = taken.map((list) => [...list]);
    const least = Math.min(...lots.map((lot) => Math.sqrt(areaWithin(lot.rings))));
    this.cell = Math.min(3, Math.max(least / 40, field.width / 1600, 0.4));
    const ready = new Map<number, Ready[]>();
    for (const lot of lots)
      if (!ready.has(lot.kind)) ready.set(lot.kind, unlike(lot.turns.map((turn) => this.#prepare(lot, turn))));
    this.#ready = lots.map((lot) => ready.get(lot.kind)!);
  }

  #prepare(lot: ShapeLot, turn: number): Ready {
    const rings = turnRings(lot.rings, turn);
    // At a whole cell, so that a move by whole cells keeps what is touched.
    const { x: x0, y: y0 } = boxAround(rings) ?? { x: 0, y: 0 };
    const placed = rings.map((ring) => ring.map((p) => ({ x: p.x - x0, y: p.y - y0 })));
    const own = cellsOf(placed, this.cell);
    const grown = this.#gap > 0 ? cellsOf(grow(placed, this.#gap, 'round'), this.cell) : own;
    const rows = own.cells;
    let [sum, count] = [0, 0];
    for (let r = 0; r < rows.rows; r++)
      for (let i = rows.starts[r]!; i < rows.starts[r + 1]!; i++) {
        count += rows.to[i]! - rows.from[i]! + 1;
        sum += r * (rows.to[i]! - rows.from[i]! + 1);
      }
    return {
      turn,
      own: own.cells,
      column: -x0,
      row: -y0,
      grown: grown.cells,
      grownColumn: grown.column,
      grownRow: grown.row,
      centre: sum / Math.max(1, count)
    };
  }

  #bin(index: number): CellField {
    const kept = this.#bins[index];
    if (kept) kept.clear();
    const { width, height } = this.#field;
    const bin = kept ?? new CellField(Math.floor(width / this.cell + 1e-6), Math.floor(height / this.cell + 1e-6));
    this.#bins[index] = bin;
    for (const rings of this.#taken[index] ?? []) {
      const { cells, column, row } = cellsOf(this.#gap > 0 ? grow(rings, this.#gap, 'round') : rings, this.cell);
      bin.take(cells, column, row);
    }
    return bin;
  }

  /** Places the lots in this order, each piece turned the way that reaches least far. */
  fill(order: ArrayLike<number>): { spots: ShapeSpot[]; used: number[]; left: Set<number> } {
    const spots: ShapeSpot[] = [];
    const used: number[] = [];
    const counts = this.#lots.map((lot) => lot.count);
    let open = Array.from(order);
    for (let index = 0; index < this.#taken.length || open.length > 0; index++) {
      const bin = this.#bin(index);
      // A shape never fits where it did not before: the field only fills.
      const from = new Map(this.#ready.map((turns) => [turns, turns.map(() => 0)]));
      let filled = 0;
      for (const rings of this.#taken[index] ?? []) {
        const box = boxAround(rings);
        if (box) filled = Math.max(filled, (box.y + box.height) / this.cell);
      }
      for (const i of open) {
        const starts = from.get(this.#ready[i]!)!;
        while (counts[i]! > 0) {
          let best: Ready | undefined;
          let bestAt = -1;
          let bestReach = Infinity;
          for (const [t, ready] of this.#ready[i]!.entries()) {
            const start = starts[t]!;
            if (start < 0) continue;
            const at = bin.find(ready.own, Math.floor(start / bin.columns), start % bin.columns);
            starts[t] = at;
            if (at < 0) continue;
            const y = Math.floor(at / bin.columns);
            const reach = (y + ready.centre) * 1e3 + (at % bin.columns) / 1e3;
            if (reach < bestReach) {
              best = ready;
              bestAt = at;
              bestReach = reach;
            }
          }
          if (!best) break;
          const column = bestAt % bin.columns;
          const row = Math.floor(bestAt / bin.columns);
          bin.take(best.grown, column + best.grownColumn, row + best.grownRow);
          filled = Math.max(filled, row + best.own.rows);
          spots.push({
            kind: this.#lots[i]!.kind,
            bin: index,
            turn: best.turn,
            dx: column * this.cell + best.column,
            dy: row * this.cell + best.row
          });
          counts[i]!--;
        }
      }
      const rest = open.filter((i) => counts[i]! > 0);
      if (filled === 0 && index >= this.#taken.length)
        return { spots, used, left: new Set(rest.map((i) => this.#lots[i]!.kind)) };
      used.push(filled * this.cell);
      open = rest;
    }
    return { spots, used, left: new Set() };
  }
}

/** Turns that give the same cells, as a disc's do, are one. */
function unlike(turns: Ready[]): Ready[] {
  const key = ({ own }: Ready) => `${own.columns}/${own.starts.join()}/${own.from.join()}/${own.to.join()}`;
  const seen = new Set<string>();
  return turns.filter((ready) => !seen.has(key(ready)) && seen.add(key(ready)));
}
