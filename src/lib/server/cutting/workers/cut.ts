import { writeDxf, writeSvg, type CutFile } from '$core/cutting/cut-files';
import type { CutForm } from '../cut';
import { writeCutPdf } from './cut-pdf';
import { strokesOf, turnedStrokes, type Stroke } from '$core/cutting/blade';
import { writeHpgl } from '$core/cutting/hpgl';
import type { KnifeChoice } from '$core/media/knife';
import { lieAt, type Lie } from '$core/cutting/lie';
import { cuttingSeconds, type Moves } from '$core/cutting/duration';
import { orderCuts, travel, type CutLine } from '$core/cutting/order';
import { register, RegistrationError, type Registration } from '$core/cutting/registration';
import type { Point } from '$core/geometry/matrix';
import { flatten, lengthOf, type Path } from '$core/geometry/path';
import { SWIVEL_MM, TEST_CUT_MM, testCut, wasteFor, type Waste } from '$core/cutting/waste';
import type { Box } from '$core/geometry/box';
import type { Mark } from '$core/marks/print-list';

/** Flat pieces depart from the curve by at most this, mm: below the step of the cutter. */
const FLATNESS_MM = 0.01;
/** Long straight lines are divided, so that a bowed print is followed along them, mm. */
const LONGEST_MM = 100;

interface Ordering {
  cuts: { path: Path; tool: CutLine['tool'] }[];
  reach: number;
  /** They stand in their order. */
  inOrder?: boolean | undefined;
}

/** A run's lines in the order that they are cut in. */
export function orderForCutting({ cuts, reach, inOrder }: Ordering): CutLine[] {
  const flat = cuts.flatMap((cut) => flatten(cut.path, FLATNESS_MM).map((line) => ({ ...line, tool: cut.tool })));
  // A cutter counts no line that goes nowhere.
  const lines = flat.filter((line) => line.points.length > 1);
  return inOrder ? lines : orderCuts(lines, reach);
}

export interface CutSums {
  cutMm: number;
  travelMm: number;
  /** How long it takes, from the first mark that is looked for. */
  secondsAtSpeed: number;
}

/** What cutting a print comes to. */
export function sumsOf({
  lines,
  knives,
  moves,
  marks
}: {
  lines: CutLine[];
  knives: KnifeChoice;
  moves: Moves;
  marks: number;
}): CutSums {
  const at = lines[0]?.points[0];
  const turn = at && [at, { x: at.x + SWIVEL_MM, y: at.y }];
  return {
    cutMm: lines.reduce((sum, line) => sum + lengthOf(line), 0),
    travelMm: travel(lines),
    secondsAtSpeed: marks * moves.look + cuttingSeconds(turnedStrokes(lines, knives, turn), knives, moves)
  };
}

export interface Sighting {
  expected: Point[];
  seen: Point[];
  limit: number;
}

/** How a print lies, or the sentence that it is refused with. */
export function registerPrint({ expected, seen, limit }: Sighting): { fit: Registration } | { refused: string } {
  try {
    return { fit: register(expected, seen, limit) };
  } catch (error) {
    if (error instanceof RegistrationError) return { refused: error.message };
    throw error;
  }
}

/** Lines of a print as a file; HPGL as a cutter is sent them that lies where the print does, y up. */
export async function writeCutFile({ as, knives, ...file }: CutFile & { as: CutForm; knives: KnifeChoice }): Promise<Uint8Array> {
  if (as === 'pdf') return writeCutPdf(file);
  const text =
    as === 'svg' ? writeSvg(file) : as === 'dxf' ? writeDxf(file) : writeHpgl(strokesOf(upright(file), knives), knives);
  return new TextEncoder().encode(text);
}

const upright = ({ lines, lengthMm }: CutFile): CutLine[] =>
  lines.map((line) => ({ ...line, points: line.points.map(({ x, y }) => ({ x, y: lengthMm - y })) }));

export interface Leading {
  lines: CutLine[];
  lie: Lie;
  knives: KnifeChoice;
  /** How many of the lines are cut already. */
  from: number;
  marks: Mark[];
  codes: Box[];
}

export interface Led {
  hpgl: string;
  /** Strokes that `ends` does not count: one in the waste turns the knife where it goes on. */
  before: number;
  /** By line how many strokes are made when it is cut, all before it counted, cut already or not. */
  ends: number[];
}

/** What a cutter is sent for a print that lies in it. */
export function leadKnife({ lines, lie, knives, from, marks, codes }: Leading): Led {
  const placed = lines.map((line): CutLine => ({ ...line, points: divided(line).map((p) => lieAt(lie, p)) }));
  const turn = turnIn({ marks, kept: codes, lines }, lie);
  const ends = placed.map(() => 0);
  turnedStrokes(placed, knives, turn).forEach(({ line }, i) => {
    if (line >= 0) ends[line] = i + 1;
  });
  const strokes = turnedStrokes(placed.slice(from), knives, turn);
  // Where it goes on in the midst of a tool's lines, its knife is turned once more.
  const isMidst = from > 0 && placed[from]?.tool === placed[from - 1]?.tool;
  return { hpgl: writeHpgl(strokes, knives), before: isMidst && strokes[0]?.line === -1 ? 1 : 0, ends };
}

/** Film without a print has a margin, and no marks in it. */
const PLAIN_WASTE: Point = { x: 1, y: 1 };

/** A stroke in the waste that turns a knife, in the cutter's coordinates; nothing where there is no room. */
function turnIn(waste: Waste, lie: Lie): Stroke['points'] | undefined {
  const at = waste.marks.length === 0 ? PLAIN_WASTE : wasteFor(waste, SWIVEL_MM, 1);
  return at && [at, { x: at.x + SWIVEL_MM, y: at.y }].map((p) => lieAt(lie, p));
}

export interface Testing extends Omit<Leading, 'from'> {
  tool: CutLine['tool'];
}

export interface TestCut {
  hpgl: string;
  /** Of the print. */
  place: Box;
}

/** A square and a triangle in the waste, as HPGL; nothing where there is no room for them. */
export function leadTestCut({ lines, lie, knives, marks, codes, tool }: Testing): TestCut | undefined {
  const waste = { marks, kept: codes, lines };
  const at = wasteFor(waste, TEST_CUT_MM.width, TEST_CUT_MM.height);
  if (!at) return undefined;
  const cut = testCut(at, tool);
  const placed = cut.map((line): CutLine => ({ ...line, points: line.points.map((p) => lieAt(lie, p)) }));
  const strokes = turnedStrokes(placed, knives, turnIn({ ...waste, lines: [...lines, ...cut] }, lie));
  return { hpgl: writeHpgl(strokes, knives), place: { ...at, ...TEST_CUT_MM } };
}

function divided({ points, closed }: CutLine): Point[] {
  return points.flatMap((p, i) => {
    const q = points[i + 1] ?? (closed ? points[0]! : p);
    const parts = Math.max(1, Math.ceil(Math.hypot(q.x - p.x, q.y - p.y) / LONGEST_MM));
    return Array.from({ length: parts }, (_, k) => ({ x: p.x + ((q.x - p.x) * k) / parts, y: p.y + ((q.y - p.y) * k) / parts }));
  });
}
