import type { PageFacts, PageLine } from '../artwork/facts';
import { layersOf } from '../artwork/facts';
import { pageToFinished, type FinishedSize, type Preparation } from '../artwork/preparation';
import type { Role } from '../artwork/roles';
import { boxAround, type Box } from '../geometry/box';
import { apply } from '../geometry/matrix';
import { bounds, flatten, transformPath } from '../geometry/path';
import type { Field, FieldPlace } from './field';
import { askFor, kindFor, NEW_FIELDS, newText } from './new-field';

/** Places that the artwork keeps free for what differs: shapes in a spot colour or on a layer of that role, and fields of PDF forms. */
export interface FoundArea {
  name: string;
  place: FieldPlace;
  /** What a form says that it is for; else its name does. */
  kind?: Field['is'] | 'tick' | undefined;
  /** The form has room for more than one line. */
  wrap: boolean;
}

const FLAT_MM = 0.1;
/** Smaller ones are hair lines and dots. */
const LEAST_MM = 0.5;

/** What is left of a name when what says its role is taken off. */
function ownName(name: string): string {
  const rest = name.replace(/^\s*data[\s_.-]*area/i, '').replace(/^[\s_.:-]+/, '');
  return rest.trim() || 'Area';
}

/**
 * The areas of a page, on the finished size.
 *
 * @param lines what the page outlines in spot colours and on layers
 * @param roleIn the role of a spot colour or layer by its name
 */
export function foundAreas(
  page: Pick<PageFacts, 'formFields'>,
  lines: readonly PageLine[],
  roleIn: (name: string) => Role | undefined,
  preparation: Preparation,
  size: FinishedSize
): FoundArea[] {
  const toFinished = pageToFinished(preparation, size);
  const found: FoundArea[] = [];
  for (const line of lines) {
    const named = [...(line.spot === undefined ? [] : [line.spot]), ...layersOf(line)].find(
      (name) => roleIn(name) === 'data area'
    );
    const box = named === undefined ? undefined : bounds(flatten(transformPath(line.path, toFinished), FLAT_MM));
    if (named !== undefined && box) add(found, ownName(named), box, false);
  }
  for (const { name, kind, place, multiline } of page.formFields) {
    const corners = [
      { x: place.x, y: place.y },
      { x: place.x + place.width, y: place.y + place.height }
    ].map((p) => apply(toFinished, p));
    const box = boxAround([corners]);
    if (box) add(found, name, box, multiline, kind === 'text' ? undefined : kind);
  }
  return found;
}

function add(found: FoundArea[], wanted: string, { x, y, width, height }: Box, wrap: boolean, kind?: FoundArea['kind']): void {
  if (width < LEAST_MM || height < LEAST_MM) return;
  // A frame that is filled and stroked is one.
  const isSame = ({ place }: FoundArea) => Math.abs(place.x - x) + Math.abs(place.y - y) + Math.abs(place.width - width) < 0.2;
  if (found.some((one) => isSame(one))) return;
  const taken = new Set(found.map(({ name }) => name));
  let name = wanted.slice(0, 90);
  for (let n = 2; taken.has(name); n++) name = `${wanted.slice(0, 90)} ${n}`;
  found.push({ name, place: { x, y, width, height, turn: 0 }, wrap, kind });
}

/** One of the shipped fonts that have a tick. */
const TICK_FONT = 'DejaVu Sans';

/** A field in the place of an area, which says the column of the area’s name. */
export function fieldOf(fields: readonly Field[], { name, place, kind: said, wrap }: FoundArea): Field {
  if (said === 'tick') return { ...newText(fields, place, askFor(name, 'ticked'), name), font: TICK_FONT };
  const kind = said ?? kindFor(name);
  return kind !== 'text'
    ? NEW_FIELDS[kind](fields, place, askFor(name), name)
    : { ...newText(fields, place, askFor(name), name), along: 'left', wrap };
}
