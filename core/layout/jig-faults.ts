import Flatbush from 'flatbush';
import { intersect } from '../geometry/areas';
import { boxAround } from '../geometry/box';
import { areaWithin } from '../geometry/path';
import { formatClosely, type ShopUnit } from '../units/length';
import { outlineAt, outlineOf, plateOf, pocketsOf, type Jig, type Pocket } from './jig';

/** What keeps places of a jig from being printed, each with its figure. */
export interface JigFault {
  key: string;
  kind: 'off the bed' | 'off the plate' | 'overlap';
  /** How far it lies beyond the bed or the plate; how far it and the other one lie on each other at their narrowest, mm. */
  byMm: number;
  /** Which other place it lies on. */
  on?: string;
}

/** Less is how figures are rounded, mm and mm². */
const NOTHING_MM = 1e-6;
const NOTHING_MM2 = 1e-3;
/** So many are told; a jig with more is wrong altogether. */
const MOST_TOLD = 200;

/** Places that reach beyond the bed or the plate, or lie on each other; those that are switched off do neither. */
export function faultsOf(jig: Jig, pockets: readonly Pocket[] = pocketsOf(jig)): JigFault[] {
  const on = pockets.filter(({ isOff }) => !isOff);
  if (on.length === 0) return [];
  const outline = outlineOf(jig.thing);
  const plate = plateOf(jig);
  const rings = on.map((pocket) => outlineAt(jig.thing, pocket, outline));
  const boxes = rings.map((of) => boxAround(of)!);
  const faults: JigFault[] = [];
  const tree = new Flatbush(on.length);
  boxes.forEach(({ x, y, width, height }) => tree.add(x, y, x + width, y + height));
  tree.finish();
  for (const [i, { x, y, width, height }] of boxes.entries()) {
    if (faults.length >= MOST_TOLD) break;
    const { key } = on[i]!;
    const beyond = Math.max(-x, -y, x + width - jig.bed.widthMm, y + height - jig.bed.lengthMm);
    if (beyond > NOTHING_MM) faults.push({ key, kind: 'off the bed', byMm: beyond });
    const off = Math.max(plate.x - x, plate.y - y, x + width - plate.x - plate.width, y + height - plate.y - plate.height);
    if (jig.plate && beyond <= NOTHING_MM && off > NOTHING_MM) faults.push({ key, kind: 'off the plate', byMm: off });
    for (const j of tree.search(x, y, x + width, y + height)) {
      if (j <= i) continue;
      const other = boxes[j]!;
      const across = Math.min(x + width, other.x + other.width) - Math.max(x, other.x);
      const along = Math.min(y + height, other.y + other.height) - Math.max(y, other.y);
      if (Math.min(across, along) < NOTHING_MM || areaWithin(intersect(rings[i]!, rings[j]!)) < NOTHING_MM2) continue;
      faults.push({ key, kind: 'overlap', byMm: Math.min(across, along), on: on[j]!.key });
    }
  }
  return faults;
}

/** A fault in words, as one types them. @param pocket the number of a place */
export function faultWords({ kind, byMm, key, on }: JigFault, pocket: (key: string) => number, unit: ShopUnit): string {
  const by = formatClosely(byMm, unit);
  return kind === 'overlap'
    ? `Pockets ${pocket(key)} and ${pocket(on ?? key)} lie on each other by ${by}.`
    : `Pocket ${pocket(key)} reaches ${by} beyond the ${kind === 'off the bed' ? 'bed' : 'plate'}.`;
}
