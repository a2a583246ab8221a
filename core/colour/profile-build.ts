import { ForwardGrid, type Forward } from './forward-grid';
import { descriptionTag, lut16Tag, STRAIGHT, textTag, writeProfile, xyzTag, type ProfileVersion } from './icc-write';
import { atChroma } from './ipt';
import { deltaE00, labToXyz, type Triple } from './lab';
import { ModelEvaluator, type PrinterModel } from './printer-model';
import { blackShare, darkestNeutral, wantedBlack, type SeparationSettings } from './black';
import { Separator } from './separation';

/** What is known of a press: the XYZ of its bare media, and the colour of inks relative to it. */
export interface Press {
  white: Triple;
  forward: Forward;
}

export interface ProfileRecipe {
  name: string;
  made: { year: number; month: number; day: number };
  version: ProfileVersion;
  separation: SeparationSettings;
  /** Grid points of ink → colour and colour → ink. */
  forwardGrid: number;
  backwardGrid: number;
  /** The readings it is made of, as CGATS text: kept in the profile. */
  measured?: string | undefined;
}

/** A press that is known as a model. */
export function modelPress(model: PrinterModel): Press {
  const evaluator = new ModelEvaluator(model);
  return {
    white: evaluator.white,
    forward: (c, m, y, k, out) => {
      const lab = evaluator.lab(c, m, y, k);
      out[0] = lab[0];
      out[1] = lab[1];
      out[2] = lab[2];
    }
  };
}

/** v2 encoding of L*a*b* in 16 bits (ICC.1:2001-04, 6.3.4.2), which lut16 keeps in v4: 100 is 65280, a and b are offset by 128. */
const encode = (lab: Readonly<Triple>): Triple => [lab[0] * 652.8, (lab[1] + 128) * 256, (lab[2] + 128) * 256];

/**
 * Where colours lie on the grid's axes: input tables of a lut16, 0…1 → 0…1. L* is stretched so that 100 (65280 of 65535)
 * falls on the last point, and has more of the points in the dark; a* and b* have more of them where inks can reach,
 * and one on grey.
 */
const STEPS = 256;
const L_AXIS = Float64Array.from({ length: STEPS }, (_, i) => {
  const t = Math.min(1, ((i / (STEPS - 1)) * 65535) / 65280);
  return t * (1.3 - 0.3 * t);
});
const AB_AXIS = Float64Array.from({ length: STEPS }, (_, i) => {
  const u = ((i / (STEPS - 1)) * 65535) / 32768 - 1;
  return Math.min(1, (1 + u * (1.3 - 0.3 * u * u)) / 2);
});

function onAxis(axis: Float64Array, v: number): number {
  const x = Math.min(1, Math.max(0, v)) * (STEPS - 1);
  const cell = Math.min(STEPS - 2, Math.floor(x));
  return axis[cell]! + (x - cell) * (axis[cell + 1]! - axis[cell]!);
}

/** What lies at a place of the axis; the first of several. */
function offAxis(axis: Float64Array, place: number): number {
  const after = axis.findIndex((v) => v >= place);
  if (after <= 0) return after === 0 ? 0 : 1;
  return (after - 1 + (place - axis[after - 1]!) / (axis[after]! - axis[after - 1]!)) / (STEPS - 1);
}

const asTable = (axis: Float64Array) => Array.from(axis, (v) => v * 65535);

/** Builds a CMYK output profile of a press that is known as a function. */
export function buildProfile(
  press: Press,
  recipe: ProfileRecipe,
  onProgress: (share: number) => void = () => undefined
): Uint8Array<ArrayBuffer> {
  const grid = ForwardGrid.sample(press.forward, recipe.forwardGrid, (share) => onProgress(0.2 * share));
  return buildGridProfile(press.white, grid, recipe, (share) => onProgress(0.2 + 0.8 * share));
}

/**
 * Builds a CMYK output profile, with all three intents both ways and the gamut.
 *
 * @param white XYZ of the bare media
 * @param onProgress told the share that is done, now and then; throwing there stops the work
 */
export function buildGridProfile(
  white: Triple,
  grid: ForwardGrid,
  recipe: ProfileRecipe,
  onProgress: (share: number) => void = () => undefined
): Uint8Array<ArrayBuffer> {
  const forward = new Uint16Array(grid.table.length);
  for (let i = 0; i < forward.length; i += 3) {
    const values = encode([grid.table[i]!, grid.table[i + 1]!, grid.table[i + 2]!]);
    values.forEach((value, v) => (forward[i + v] = Math.min(65535, Math.max(0, Math.round(value)))));
  }
  const tables = backwardTables(grid, recipe, onProgress);

  const forwardTag = (table: Uint16Array) =>
    lut16Tag({
      inputs: 4,
      outputs: 3,
      grid: grid.size,
      inputTables: [STRAIGHT, STRAIGHT, STRAIGHT, STRAIGHT],
      outputTables: [STRAIGHT, STRAIGHT, STRAIGHT],
      table
    });
  const a2b = forwardTag(forward);
  /** The perceptual side of version 4: the darkest that the press prints stands for the reference medium's black. */
  const toReference = (table: Uint16Array, darkest: number) =>
    forwardTag(
      table.map((value, i) =>
        i % 3 === 0 ? Math.round(652.8 * Math.max(0, rescaled(value / 652.8, darkest, REFERENCE_BLACK))) : value
      )
    );
  const b2a = (table: Uint16Array, outputs: number) =>
    lut16Tag({
      inputs: 3,
      outputs,
      grid: recipe.backwardGrid,
      inputTables: [L_AXIS, AB_AXIS, AB_AXIS].map(asTable),
      outputTables: Array.from({ length: outputs }, () => STRAIGHT),
      table
    });
  return writeProfile(
    { deviceClass: 'prtr', colourSpace: 'CMYK', connection: 'Lab ', made: recipe.made, version: recipe.version },
    {
      desc: descriptionTag(recipe.name, recipe.version),
      cprt: textTag('No rights reserved', recipe.version),
      wtpt: xyzTag(white),
      A2B0: recipe.version === 4 ? toReference(forward, tables.darkest) : a2b,
      A2B1: a2b,
      A2B2: a2b,
      B2A0: b2a(tables.perceptual, 4),
      B2A1: b2a(tables.relative, 4),
      B2A2: b2a(tables.saturation, 4),
      gamt: b2a(tables.gamut, 1),
      // ISO 12642 and the ICC keep the measured data as plain text under this name.
      ...(recipe.measured ? { targ: textTag(recipe.measured) } : {})
    }
  );
}

/** L* of the black of version 4's perceptual reference medium (ICC.1:2010-12, 6.3.3: a reflectance of 0.34731 %). */
const REFERENCE_BLACK = 3.1373;

/** Lightness between a black and white, as it is between another black and white. */
const rescaled = (lightness: number, from: number, to: number): number => to + ((lightness - from) * (100 - to)) / (100 - from);

/**
 * Lightness from the darkest black up, chroma gently pressed: pictures keep their steps where the gamut ends.
 *
 * @param black L* that the darkest stands for
 */
function perceptualAim(lab: Readonly<Triple>, darkest: number, black: number): Triple {
  const chroma = Math.hypot(lab[1], lab[2]);
  const knee = 30;
  const pressed = chroma <= knee ? chroma : knee + ((chroma - knee) * 55) / (55 + (chroma - knee) * 0.55);
  return atChroma(lab, chroma > 0 ? pressed / chroma : 1, Math.max(darkest, rescaled(lab[0], black, darkest)));
}

/** Lightness as in perceptual, chroma strengthened: charts and lettering. */
function saturationAim(lab: Readonly<Triple>, darkest: number): Triple {
  return atChroma(lab, 1.12, darkest + (lab[0] * (100 - darkest)) / 100);
}

/** The grid of colour → ink: which colour stands where, and reading between the points. */
class ColourGrid {
  readonly size: number;
  readonly #lightness: number[];
  readonly #ab: number[];
  constructor(size: number) {
    this.size = size;
    const places = Array.from({ length: size }, (_, i) => i / (size - 1));
    this.#lightness = places.map((place) => (offAxis(L_AXIS, place) * 65535) / 652.8);
    // The middle is grey itself, not a rounding beside it.
    this.#ab = places.map((place, i) => (i * 2 === size - 1 ? 0 : (offAxis(AB_AXIS, place) * 65535) / 256 - 128));
  }
  lab(l: number, a: number, b: number): Triple {
    return [this.#lightness[l]!, this.#ab[a]!, this.#ab[b]!];
  }
  index(l: number, a: number, b: number): number {
    return (l * this.size + a) * this.size + b;
  }
  /** Trilinear, of `width` figures a point. */
  read(table: Float64Array, width: number, lab: Readonly<Triple>, out: Float64Array): void {
    const last = this.size - 1;
    const place = (v: number): [number, number] => {
      const x = Math.min(last, Math.max(0, v));
      const cell = Math.min(last - 1, Math.floor(x));
      return [cell, x - cell];
    };
    const [l, tl] = place(onAxis(L_AXIS, (lab[0] * 652.8) / 65535) * last);
    const [a, ta] = place(onAxis(AB_AXIS, ((lab[1] + 128) * 256) / 65535) * last);
    const [b, tb] = place(onAxis(AB_AXIS, ((lab[2] + 128) * 256) / 65535) * last);
    out.fill(0);
    for (let corner = 0; corner < 8; corner++) {
      const [i, j, k] = [corner & 1, (corner >> 1) & 1, corner >> 2];
      const share = (i ? tl : 1 - tl) * (j ? ta : 1 - ta) * (k ? tb : 1 - tb);
      const at = this.index(l + i, a + j, b + k) * width;
      for (let v = 0; v < width; v++) out[v] = out[v]! + share * table[at + v]!;
    }
  }
}

/** Missed by less than this, a colour counts as in the gamut. */
const IN_GAMUT = 0.5;

function backwardTables(grid: ForwardGrid, recipe: ProfileRecipe, onProgress: (share: number) => void) {
  const separator = new Separator(grid, recipe.separation.limits);
  const colours = new ColourGrid(recipe.backwardGrid);
  const { size } = colours;
  const count = size ** 3;
  const darkest = darkestNeutral(separator);
  const { inks: relative, black, inGamut } = separateAll(separator, colours, recipe, darkest, (share) => onProgress(0.6 * share));
  smooth(black, inGamut, size);

  // All intents once more, with the evened black, from where the first time ended.
  const gamut = new Uint16Array(count);
  const at = new Float64Array(4);
  const wanted = new Float64Array(1);
  const refine = (aim: (lab: Triple) => Triple, from: number, told?: (index: number, lab: Triple) => void): Uint16Array => {
    const table = new Uint16Array(count * 4);
    for (let l = 0; l < size; l++) {
      for (let a = 0; a < size; a++) {
        for (let b = 0; b < size; b++) {
          const index = colours.index(l, a, b);
          const lab = colours.lab(l, a, b);
          const to = aim(lab);
          colours.read(relative, 4, to, at);
          colours.read(black, 1, to, wanted);
          clipWithHue(separator, to, wanted[0]!, at, isReal(lab));
          for (let i = 0; i < 4; i++) table[index * 4 + i] = Math.floor(at[i]! * 65535);
          told?.(index, lab);
        }
      }
      onProgress(from + (0.4 * (l + 1)) / size / 3);
    }
    // White paper takes no ink, to the last bit.
    const white = colours.index(size - 1, (size - 1) >> 1, (size - 1) >> 1) * 4;
    return table.fill(0, white, white + 4);
  };
  const colorimetric = refine(
    (lab) => lab,
    0.6,
    (index, lab) => {
      const miss = deltaE00(lab, grid.lab(at[0]!, at[1]!, at[2]!, at[3]!));
      gamut[index] = miss < 2 ? 0 : Math.min(65535, Math.round(miss * 655));
    }
  );
  return {
    relative: colorimetric,
    darkest,
    perceptual: refine((lab) => perceptualAim(lab, darkest, recipe.version === 4 ? REFERENCE_BLACK : 0), 0.6 + 0.4 / 3),
    saturation: refine((lab) => saturationAim(lab, darkest), 0.6 + 0.8 / 3),
    gamut
  };
}

/**
 * The first pass: inks of every grid colour, and the black that is wanted there. Planes go from light to dark and each
 * from grey outwards, so that every colour begins at a neighbour's answer.
 */
function separateAll(
  separator: Separator,
  colours: ColourGrid,
  recipe: ProfileRecipe,
  darkest: number,
  onProgress: (share: number) => void
) {
  const { size } = colours;
  const share = blackShare(separator, recipe.separation.black);
  const inks = new Float64Array(size ** 3 * 4);
  const least = new Float64Array(size ** 3 * 4);
  const most = new Float64Array(size ** 3 * 4);
  const black = new Float64Array(size ** 3);
  const inGamut = new Uint8Array(size ** 3);
  const middle = (size - 1) >> 1;
  const order = [...Array(size).keys()].sort((p, q) => Math.abs(p - middle) - Math.abs(q - middle));
  for (let l = size - 1; l >= 0; l--) {
    const darkness = (100 - colours.lab(l, 0, 0)[0]) / (100 - darkest);
    for (const a of order) {
      for (const b of order) {
        const index = colours.index(l, a, b);
        const lab = colours.lab(l, a, b);
        const from =
          b !== middle
            ? colours.index(l, a, b > middle ? b - 1 : b + 1)
            : a !== middle
              ? colours.index(l, a > middle ? a - 1 : a + 1, b)
              : l < size - 1
                ? colours.index(l + 1, a, b)
                : undefined;
        const [mine, mineLeast, mineMost] = [inks, least, most].map((table) => {
          if (from !== undefined) table.copyWithin(index * 4, from * 4, from * 4 + 4);
          return table.subarray(index * 4, index * 4 + 4);
        }) as [Float64Array, Float64Array, Float64Array];
        const near = mine[3]!;
        inGamut[index] = separator.solve(lab, near, 1, mine) < IN_GAMUT ? 1 : 0;
        if (!inGamut[index]) {
          // At the gamut's edge there is no choice of black.
          black[index] = mine[3]!;
          mineLeast.set(mine);
          mineMost.set(mine);
          continue;
        }
        black[index] = wantedBlack(separator, lab, share(darkness), mineLeast, mineMost);
        separator.solve(lab, black[index], 1, mine);
      }
    }
    onProgress((size - l) / size);
  }
  return { inks, black, inGamut };
}

/** Evens the wanted black out between neighbours that are in the gamut: its bends would be seen as bends of all inks. */
function smooth(black: Float64Array, inGamut: Uint8Array, size: number): void {
  // Neighbours in lightness alone; along a and b black may change as it must.
  const plane = size * size;
  const before = Float64Array.from(black);
  for (let i = 0; i < black.length; i++) {
    const place = Math.floor(i / plane) % size;
    if (!inGamut[i] || place === 0 || place === size - 1 || !inGamut[i - plane] || !inGamut[i + plane]) continue;
    black[i] = 0.25 * before[i - plane]! + 0.5 * before[i]! + 0.25 * before[i + plane]!;
  }
}

/** Whether light could have this colour; corners of the grid that nothing can ask for are not worth a second look. */
function isReal(lab: Readonly<Triple>): boolean {
  const [x, y, z] = labToXyz(lab);
  return x > -0.01 && z > -0.01 && y >= 0 && x < 1.2 && z < 1.2 && Math.hypot(lab[1], lab[2]) < 20 + 3 * lab[0];
}

/** Inks for a colour; where it is out of the gamut, aimed at again along the line of its hue as the eye sees it. */
function clipWithHue(separator: Separator, lab: Triple, black: number, inks: Float64Array, real: boolean): void {
  const miss = separator.solve(lab, black, 1, inks);
  if (miss < IN_GAMUT || !real) return;
  const got = separator.grid.lab(inks[0]!, inks[1]!, inks[2]!, inks[3]!);
  const chroma = Math.hypot(lab[1], lab[2]);
  if (chroma < 1) return;
  const near = atChroma(lab, Math.min(1, Math.hypot(got[1], got[2]) / chroma), got[0]);
  // Just outside the gamut the two aims are one, so that nothing jumps there.
  const far = Math.min(1, (miss - IN_GAMUT) / 4);
  const aim = lab.map((v, i) => v + far * (near[i]! - v)) as Triple;
  separator.solve(aim, black, 1, inks);
}
