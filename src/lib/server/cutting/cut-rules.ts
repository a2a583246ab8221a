import { lieAt, type Lie } from '$core/cutting/lie';
import type { Box } from '$core/geometry/box';
import type { Point } from '$core/geometry/matrix';
import type { KnifeChoice } from '$core/media/knife';
import type { Tool } from '$core/artwork/roles';
import type { CutterAbilities } from '$protocol/cutter';
import { bounds, flatten, type Path } from '$core/geometry/path';
import { shownCode } from '$core/marks/print-code';
import { MARKS_SAID } from '$core/marks/print-list';
import { marksTo } from '$core/marks/registration';
import { formatTape, type ShopUnit } from '$core/units/length';
import type { CutPlan, CutRow } from './cut';

/** What may be cut, and what not. */

/** How many lines are cut when so many strokes are made. @param ends by line the strokes up to its end */
export function cutAfter(ends: readonly number[], strokes: number): number {
  let [low, high] = [0, ends.length];
  while (low < high) {
    const middle = (low + high) >> 1;
    if (ends[middle]! <= strokes) low = middle + 1;
    else high = middle;
  }
  return low;
}

/** A print is cut only where the code that was read lies where it has one, mm. */
const CODE_APART_MM = 2.5;

/** How far the code that a camera read lies from the nearest that the print has, mm; 0 where it has none or none was read. */
export function codeApart(lie: Lie, codes: readonly Box[], read: Point | null): number {
  if (!read || codes.length === 0) return 0;
  const places = codes.map(({ x, y, width, height }) => lieAt(lie, { x: x + width / 2, y: y + height / 2 }));
  return Math.min(...places.map((p) => Math.hypot(p.x - read.x, p.y - read.y)));
}

export const isElsewhere = (apart: number): boolean => apart > CODE_APART_MM;

/**
 * What is cut of a print that broke off: copies all of whose lines came out, by the marks that did.
 *
 * @param partMm how far it is cut
 * @param lengthMm how far it was printed
 */
export function partOf(plan: CutPlan, partMm: number, lengthMm: number): CutPlan {
  // Straight cuts along the pieces are of no copy: each is one by itself.
  const nameOf = ({ docket, piece, copy }: CutPlan['cuts'][number]) => `${docket}/${piece}/${copy}`;
  const cut = new Set(plan.cuts.filter(({ path }) => endOf(path) > partMm).map(nameOf));
  const { codes } = plan;
  return {
    ...plan,
    lengthMm,
    marks: marksTo(plan.marks, partMm),
    ...(codes && { codes: codes.filter(({ y, height }) => y + height <= partMm) }),
    cuts: plan.cuts.filter((one) => !cut.has(nameOf(one)))
  };
}

const TOLERANCE_MM = 0.05;
/** How far a path reaches along the run, mm. */
function endOf(path: Path): number {
  const box = bounds(flatten(path, TOLERANCE_MM));
  return box ? box.y + box.height : 0;
}

/**
 * Why what lies in a cutter may be a print that broke off, though its marks fit; nothing where one of them is seen that such a
 * print does not have.
 *
 * @param seen marks of the print that were found
 * @param brokenMm where prints of the same plates broke off
 */
export function mayBeBroken(
  marks: readonly Point[],
  seen: readonly Point[],
  brokenMm: readonly number[],
  unit: ShopUnit
): string | undefined {
  const farthest = Math.max(...seen.map(({ y }) => y));
  const end = Math.max(...marks.map(({ y }) => y));
  const broken = brokenMm.find((mm) => mm < end && farthest <= mm);
  if (broken === undefined) return undefined;
  return `This may be the print that broke off after ${formatTape(broken, unit)}: of the marks beyond that none is seen. If it is the whole one, clean its marks.`;
}

/** Why a print is not cut, in one word that does not change and in a sentence. */
export interface Refusal {
  kind: 'cut' | 'claimed' | 'changed' | 'half cut';
  sentence: string;
}

export type Candidate = Pick<CutRow, 'id' | 'code' | 'state' | 'closed' | 'lines_cut' | 'allowed' | 'cut_at'>;

/**
 * Which print of a code it is that lies in a cutter: the first that waits. Its prints look all the same.
 *
 * @param tasks of the code, the oldest first; one at least
 * @param changed whether its docket is another since
 */
export function chooseTask(code: string, tasks: readonly Candidate[], changed: boolean): Candidate | Refusal {
  const shown = shownCode(code);
  const waiting = tasks.filter(({ state }) => state === 'waiting');
  const allowed = tasks.find((task) => task.allowed === 1 && (task.state === 'waiting' || task.state === 'cut'));
  if (allowed) return allowed;
  const [first] = waiting;
  if (!first) {
    const open = tasks.find(({ state }) => state !== 'cut');
    if (open) return { kind: 'claimed', sentence: `${open.code} ${open.state === 'cutting' ? 'is being cut' : 'lies'} in another cutter.` }; // prettier-ignore
    const closed = tasks.find((task) => task.closed !== null);
    if (closed) {
      const putDown = `was put down as ${closed.closed}.`;
      const cut = tasks.filter((task) => task.closed === null).length;
      const others = cut > 0 ? `${cut} of ${tasks.length} have been cut already, and ` : '';
      return {
        kind: 'cut',
        sentence: tasks.length === 1 ? `${shown} ${putDown}` : `No print of ${shown} waits: ${others}${closed.code} ${putDown}`
      };
    }
    return {
      kind: 'cut',
      sentence:
        tasks.length === 1 ? `${shown} has been cut already.` : `All ${tasks.length} prints of ${shown} have been cut already.`
    };
  }
  if (changed)
    return { kind: 'changed', sentence: `${shown} was printed before its docket was changed: its lines are not those of today.` };
  const half = waiting.find((task) => task.lines_cut > 0);
  if (half && waiting.length > 1)
    return {
      kind: 'half cut',
      sentence: `${half.code} is cut in part (${half.lines_cut} lines), and ${waiting.length - 1} more of ${shown} not at all. Say which one this is.`
    };
  return first;
}

export const isRefusal = (answer: Candidate | Refusal): answer is Refusal => 'kind' in answer;

/** What a cutter lacks for a print; nothing where it has all. */
export function lacking(
  name: string,
  { blades, widthMm: bed, marks }: Pick<CutterAbilities, 'blades' | 'widthMm' | 'marks'>,
  print: { widthMm: number; lengthMm: number; marks: readonly { shape?: CutterAbilities['marks'][number] | undefined }[] },
  tools: ReadonlySet<Tool>,
  knives: KnifeChoice
): string | undefined {
  const narrow = Math.min(print.widthMm, print.lengthMm);
  if (bed !== null && narrow > bed) return `The print is ${Math.round(narrow)} mm wide, and ${name} takes ${Math.round(bed)} mm.`;
  const unseen = print.marks.find(({ shape = 'disc' }) => !marks.includes(shape));
  if (unseen)
    return `The marks of the print are ${MARKS_SAID[unseen.shape ?? 'disc']}, and ${name} sees ${marks.map((one) => MARKS_SAID[one]).join(', ')}.`;
  for (const tool of tools) {
    const { blade } = knives[tool];
    if (!blades.includes(blade))
      return `${name} has no ${blade}, which the ${tool} lines are set to. Set them to one that it has: ${blades.join(', ')}.`;
  }
  return undefined;
}
