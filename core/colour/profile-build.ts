import { deltaE00, type Triple } from './lab';
import { descriptionTag, lut16Tag, STRAIGHT, textTag, writeProfile, xyzTag } from './icc-write';
import { ModelEvaluator, type Inks, type PrinterModel } from './printer-model';
import { separate, type SeparationSettings } from './separation';

export interface ProfileRecipe {
  name: string;
  made: { year: number; month: number; day: number };
  separation: SeparationSettings;
  /** Grid points of ink → colour and colour → ink. */
  forwardGrid: number;
  backwardGrid: number;
}

export const DEFAULT_SEPARATION: SeparationSettings = { totalInk: 2.6, blackStart: 72, blackMost: 0.95 };

/** v2 encoding of L*a*b* in 16 bits (ICC.1:2001-04, 6.3.4.2): 100 is 65280, a and b are offset by 128. */
const encodeLab = (lab: Readonly<Triple>): Triple => [lab[0] * 652.8, (lab[1] + 128) * 256, (lab[2] + 128) * 256];

/** The L* axis of the grid: 65280 does not fall on a grid point of 0…65535, so that an input table puts it there. */
const L_TABLE = Array.from({ length: 256 }, (_, i) => Math.min(65535, (((i / 255) * 65535) / 65280) * 65535));
/** Near neutrals the a and b axes want a grid point on zero (32768 of 65535). */
const AB_STRAIGHT = STRAIGHT;

/**
 * Builds a CMYK output profile from a printer model, with all three intents both ways and the gamut.
 *
 * @param onProgress told the share that is done, now and then; throwing there stops the work
 * @returns the bytes of a v2.4 profile
 */
export function buildProfile(
  model: PrinterModel,
  recipe: ProfileRecipe,
  onProgress: (share: number) => void = () => undefined
): Uint8Array<ArrayBuffer> {
  const evaluator = new ModelEvaluator(model);
  const grid = recipe.forwardGrid;
  const at = (i: number) => i / (grid - 1);
  const forward = new Uint16Array(grid ** 4 * 3);
  let put = 0;
  for (let c = 0; c < grid; c++) {
    for (let m = 0; m < grid; m++) {
      for (let y = 0; y < grid; y++) {
        for (let k = 0; k < grid; k++) {
          for (const value of encodeLab(evaluator.lab(at(c), at(m), at(y), at(k))))
            forward[put++] = Math.min(65535, Math.max(0, Math.round(value)));
        }
      }
    }
    onProgress((0.2 * (c + 1)) / grid);
  }
  const darkest = darkestNeutral(evaluator, recipe.separation);
  const tables = backwardTables(evaluator, recipe, darkest, (share) => onProgress(0.2 + 0.8 * share));

  const a2b = lut16Tag({
    inputs: 4,
    outputs: 3,
    grid,
    inputTables: [STRAIGHT, STRAIGHT, STRAIGHT, STRAIGHT],
    outputTables: [STRAIGHT, STRAIGHT, STRAIGHT],
    table: forward
  });
  const b2a = (table: Uint16Array, outputs: number) =>
    lut16Tag({
      inputs: 3,
      outputs,
      grid: recipe.backwardGrid,
      inputTables: [L_TABLE, AB_LENGTHENED, AB_LENGTHENED],
      outputTables: Array.from({ length: outputs }, () => STRAIGHT),
      table
    });
  return writeProfile(
    { deviceClass: 'prtr', colourSpace: 'CMYK', connection: 'Lab ', made: recipe.made },
    {
      desc: descriptionTag(recipe.name),
      cprt: textTag('No rights reserved'),
      wtpt: xyzTag(evaluator.white),
      A2B0: a2b,
      A2B1: a2b,
      A2B2: a2b,
      B2A0: b2a(tables.perceptual, 4),
      B2A1: b2a(tables.relative, 4),
      B2A2: b2a(tables.saturation, 4),
      gamt: b2a(tables.gamut, 1)
    }
  );
}

/** All input tables of a lut16 have one length. */
const AB_LENGTHENED = Array.from({ length: 256 }, (_, i) => ((AB_STRAIGHT[1] ?? 65535) * i) / 255);

function darkestNeutral(evaluator: ModelEvaluator, settings: SeparationSettings): number {
  const inks = separate(evaluator, [0, 0, 0], settings, [0.6, 0.5, 0.5, 0.9]);
  return evaluator.lab(...inks)[0];
}

/** Lightness from the darkest black up, chroma gently pressed: pictures keep their steps where the gamut ends. */
function perceptualAim(lab: Readonly<Triple>, darkest: number): Triple {
  const lightness = darkest + (lab[0] * (100 - darkest)) / 100;
  const chroma = Math.hypot(lab[1], lab[2]);
  const knee = 30;
  const pressed = chroma <= knee ? chroma : knee + ((chroma - knee) * 55) / (55 + (chroma - knee) * 0.55);
  const factor = chroma > 0 ? pressed / chroma : 1;
  return [lightness, lab[1] * factor, lab[2] * factor];
}

/** Lightness as in perceptual, chroma strengthened: charts and lettering. */
function saturationAim(lab: Readonly<Triple>, darkest: number): Triple {
  return [darkest + (lab[0] * (100 - darkest)) / 100, lab[1] * 1.12, lab[2] * 1.12];
}

function backwardTables(evaluator: ModelEvaluator, recipe: ProfileRecipe, darkest: number, onProgress: (share: number) => void) {
  const grid = recipe.backwardGrid;
  const count = grid ** 3;
  const make = (aim: (lab: Triple) => Triple, from: number, gamut?: Uint16Array): Uint16Array => {
    const table = new Uint16Array(count * 4);
    const axis = (j: number) => ((j / (grid - 1)) * 65535) / 256 - 128;
    // Each slice of a begins at the neutral column of the lighter slice; neighbours give the start to each other.
    for (let l = grid - 1; l >= 0; l--) {
      const lightness = (100 * l) / (grid - 1);
      const middle = Math.floor((grid - 1) / 2);
      const rowStart: Inks[] = new Array<Inks>(grid);
      const order = [...Array(grid).keys()].sort((p, q) => Math.abs(p - middle) - Math.abs(q - middle));
      for (const a of order) {
        const towards = a > middle ? a - 1 : a + 1;
        for (const b of order) {
          const near = b === middle ? rowStart[towards] : undefined;
          const index = ((l * grid + a) * grid + b) * 4;
          const beside = ((l * grid + a) * grid + (b > middle ? b - 1 : b + 1)) * 4;
          const start: Inks =
            b === middle
              ? (near ?? neutralStart(lightness))
              : ([0, 1, 2, 3].map((i) => (table[beside + i] ?? 0) / 65535) as Inks);
          const lab: Triple = [lightness, axis(a), axis(b)];
          const inks = separate(evaluator, aim(lab), recipe.separation, start);
          if (b === middle) rowStart[a] = inks;
          for (let i = 0; i < 4; i++) table[index + i] = Math.round((inks[i] ?? 0) * 65535);
          if (gamut) {
            const miss = deltaE00(lab, evaluator.lab(...inks));
            gamut[index / 4] = miss < 2 ? 0 : Math.min(65535, Math.round(miss * 655));
          }
        }
      }
      onProgress(from + (grid - l) / grid / 3);
    }
    return table;
  };
  const gamut = new Uint16Array(count);
  const relative = make((lab) => lab, 0, gamut);
  const perceptual = make((lab) => perceptualAim(lab, darkest), 1 / 3);
  const saturation = make((lab) => saturationAim(lab, darkest), 2 / 3);
  // White paper takes no ink, to the last bit.
  const white = (((grid - 1) * grid + Math.floor((grid - 1) / 2)) * grid + Math.floor((grid - 1) / 2)) * 4;
  for (const table of [relative, perceptual, saturation]) table.fill(0, white, white + 4);
  return { relative, perceptual, saturation, gamut };
}

const neutralStart = (lightness: number): Inks => {
  const t = 1 - lightness / 100;
  return [0.5 * t, 0.4 * t, 0.4 * t, 0.6 * t * t];
};
