import { CELL, COARSE, openPart, type TileRequest } from './plates';

export interface Place {
  /** Pixels from the left and from the start of a run. */
  x: number;
  y: number;
}

export interface NearestRequest extends Pick<TileRequest, 'size' | 'shown'>, Place {
  paths: Pick<TileRequest['paths'], 'overview' | 'coarse'>;
}

interface Box extends Place {
  width: number;
  height: number;
}

/**
 * Where ink of the plates that are shown lies nearest to a point: in the middle of a cell of 8 × 8 pixels. Cells of 64 × 64 are
 * looked at first, from the point outwards, so that little is read of a long run.
 *
 * @returns nothing where these plates are blank @throws Problem where the plates are gone
 */
export async function nearestInk({ paths, size, shown, x, y }: NearestRequest): Promise<Place | undefined> {
  const find = (path: string, cell: number, within: Box) => nearestCell(path, cell, size.widthPx / cell, shown, within, { x, y });
  const coarse = await find(paths.coarse, COARSE, { x: 0, y: 0, width: size.widthPx, height: size.heightPx });
  if (!coarse) return undefined;
  const height = Math.min(COARSE, size.heightPx - coarse.y);
  const { x: left, y: top } = (await find(paths.overview, CELL, { ...coarse, width: COARSE, height })) ?? coarse;
  return { x: left + CELL / 2, y: Math.min(size.heightPx - 1, top + CELL / 2) };
}

/** The left and upper end of the cell with ink, of a file of means, whose middle is nearest to a point. @param columns of the file */
async function nearestCell(
  path: string,
  cell: number,
  columns: number,
  shown: readonly boolean[],
  { x: left, y: top, width, height }: Box,
  { x, y }: Place
): Promise<Place | undefined> {
  const file = await openPart(path);
  try {
    const first = left / cell;
    const line = new Uint8Array(Math.ceil(width / cell) * shown.length);
    const plates = shown.flatMap((isShown, plate) => (isShown ? [plate] : []));
    let nearest: Place | undefined;
    let least = Infinity;
    for (const row of outwards(Math.floor(y / cell), top / cell, Math.ceil((top + height) / cell))) {
      const down = (row + 0.5) * cell - y;
      // Above and below take turns, so that the next may be nearer by as much as a cell.
      if (Math.abs(down) - cell > least) break;
      await file.read(line, 0, line.length, (row * columns + first) * shown.length);
      for (let column = 0; column * shown.length < line.length; column++) {
        if (!plates.some((plate) => line[column * shown.length + plate]! > 0)) continue;
        const distance = Math.hypot((first + column + 0.5) * cell - x, down);
        if (distance >= least) continue;
        least = distance;
        nearest = { x: (first + column) * cell, y: row * cell };
      }
    }
    return nearest;
  } finally {
    await file.close();
  }
}

/** Whole numbers from `first` to before `end`, those next to `from` first. */
function* outwards(from: number, first: number, end: number): Generator<number> {
  const start = Math.min(end - 1, Math.max(first, from));
  for (let d = 0; start - d >= first || start + d < end; d++) {
    if (start - d >= first) yield start - d;
    if (d > 0 && start + d < end) yield start + d;
  }
}
