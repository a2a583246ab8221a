import type { Point } from '../geometry/matrix';
import { TOOLS, type Tool } from '../artwork/roles';
import type { Stroke } from './blade';
import type { KnifeChoice } from '../media/knife';

/** HPGL counts in fortieths of a millimetre. */
export const HPGL_PER_MM = 40;

/** Longest list of points in one instruction: cutters have small buffers. */
const POINTS_A_LINE = 60;

const units = (mm: number) => Math.round(mm * HPGL_PER_MM);

/** The cutter's pens: 1 kiss cut, 2 crease, 3 perforation, 4 through cut. */
export const penOf = (tool: Tool): number => TOOLS.indexOf(tool) + 1;

/**
 * Strokes in the cutter's coordinates (mm) → HPGL: IN, then SP, VS and FS whenever the tool changes, and for every stroke PU
 * to its start and PD along it.
 */
export function writeHpgl(strokes: readonly Stroke[], knives: KnifeChoice): string {
  const out = ['IN;', 'PA;'];
  let tool: Tool | undefined;
  for (const stroke of strokes) {
    const knife = knives[stroke.tool];
    if (stroke.tool !== tool) {
      tool = stroke.tool;
      out.push(`SP${penOf(tool)};`, `VS${Math.round(knife.speed)};`, `FS${Math.round(knife.force)};`);
    }
    const [first, ...rest] = stroke.points.map((p) => `${units(p.x)},${units(p.y)}`);
    if (first === undefined) continue;
    out.push(`PU${first};`);
    for (let i = 0; i < rest.length; i += POINTS_A_LINE) out.push(`PD${rest.slice(i, i + POINTS_A_LINE).join(',')};`);
  }
  out.push('PU0,0;', 'SP0;');
  return `${out.join('\n')}\n`;
}

/** What a plotter's head does. */
export interface HpglState {
  /** Lines cut so far, mm; the last one may still grow. */
  lines: Point[][];
  /** The pen of each line. */
  pens: number[];
  at: Point;
  down: boolean;
  relative: boolean;
  pen: number;
  speed: number;
  force: number;
  unknown: string[];
}

export const newHpglState = (): HpglState => ({
  lines: [],
  pens: [],
  at: { x: 0, y: 0 },
  down: false,
  relative: false,
  pen: 0,
  speed: 0,
  force: 0,
  unknown: []
});

const MOST_UNKNOWN = 100;

/**
 * Carries out one instruction (two letters and its figures, without the semicolon).
 * Coordinates that are not numbers are left out; instructions that are not known are noted.
 */
export function runHpgl(state: HpglState, instruction: string): void {
  const text = instruction.trim();
  if (text === '') return;
  const code = text.slice(0, 2).toUpperCase();
  const figures = (text.slice(2).match(/-?\d+(?:\.\d+)?/g) ?? []).map(Number);
  switch (code) {
    case 'IN':
    case 'DF':
      state.down = false;
      state.relative = false;
      state.at = { x: 0, y: 0 };
      return;
    case 'SP':
      state.pen = figures[0] ?? 0;
      state.down = false;
      return;
    case 'VS':
      state.speed = figures[0] ?? state.speed;
      return;
    case 'FS':
      state.force = figures[0] ?? state.force;
      return;
    case 'PA':
    case 'PR':
      state.relative = code === 'PR';
      break;
    case 'PU':
      state.down = false;
      break;
    case 'PD':
      if (!state.down) {
        state.lines.push([{ ...state.at }]);
        state.pens.push(state.pen);
      }
      state.down = true;
      break;
    default:
      if (state.unknown.length < MOST_UNKNOWN) state.unknown.push(code);
      return;
  }
  for (let i = 0; i + 1 < figures.length; i += 2) {
    const x = (figures[i] ?? 0) / HPGL_PER_MM;
    const y = (figures[i + 1] ?? 0) / HPGL_PER_MM;
    state.at = state.relative ? { x: state.at.x + x, y: state.at.y + y } : { x, y };
    if (state.down) state.lines[state.lines.length - 1]?.push({ ...state.at });
  }
}

/** The lines that a whole HPGL text cuts; those of a single point are left out. */
export function readHpgl(text: string): Point[][] {
  const state = newHpglState();
  for (const instruction of text.split(';')) runHpgl(state, instruction);
  return state.lines.filter((line) => line.length > 1);
}
