import type { Point } from '../geometry/matrix';
import { flatten, lengthOf, polylinePath, type Path, type Polyline } from '../geometry/path';

const FLAT_MM = 0.01;

/** The parts of a line between given distances from its start, mm. */
function stretch(line: Polyline, from: number, to: number): Point[] {
  const points = line.closed ? [...line.points, line.points[0]!] : line.points;
  const out: Point[] = [];
  let gone = 0;
  for (let i = 1; i < points.length && gone < to; i++) {
    const a = points[i - 1]!;
    const b = points[i]!;
    const span = Math.hypot(b.x - a.x, b.y - a.y);
    const at = (d: number): Point => ({ x: a.x + ((b.x - a.x) * d) / span, y: a.y + ((b.y - a.y) * d) / span });
    if (span > 0 && gone + span > from) {
      if (out.length === 0) out.push(at(Math.max(0, from - gone)));
      out.push(gone + span <= to ? b : at(to - gone));
    }
    gone += span;
  }
  return out;
}

/**
 * A perforated line: cut and skipped in turn. The lengths are adjusted together so that a closed line ends in a skip and an
 * open one begins and ends with a cut.
 */
export function dashes(path: Path, cutMm: number, skipMm: number): Path {
  return flatten(path, FLAT_MM).flatMap((line) => {
    const total = lengthOf(line);
    const asked = cutMm + skipMm;
    const count = Math.max(1, Math.round((line.closed ? total : total + skipMm) / asked));
    const factor = (line.closed ? total : total + skipMm * (count > 0 ? 1 : 0)) / (count * asked);
    const cut = cutMm * factor;
    const period = asked * factor;
    return Array.from({ length: count }, (_, i) => stretch(line, i * period, Math.min(total, i * period + cut)))
      .filter((points) => points.length > 1)
      .flatMap((points) => polylinePath({ points, closed: false }));
  });
}

/** Closed lines with evenly spaced gaps that hold what is cut through; open lines stay whole. */
export function withTabs(path: Path, count: number, lengthMm: number): Path {
  return flatten(path, FLAT_MM).flatMap((line) => {
    const total = lengthOf(line);
    // Tabs never take more than half of a line.
    if (!line.closed || count * lengthMm > total / 2) return polylinePath(line);
    const period = total / count;
    return Array.from({ length: count }, (_, i) => stretch(line, i * period + lengthMm / 2, (i + 1) * period - lengthMm / 2))
      .filter((points) => points.length > 1)
      .flatMap((points) => polylinePath({ points, closed: false }));
  });
}
