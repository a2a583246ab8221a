import { fourInks, shiftOf, type Ink, type InkSet } from '$core/inks/ink-set';

/** Kept back from the made-up makers' sheets: the inks and their drops, the head, the carriage. */
export interface Model {
  name: string;
  /** Takes sheets on a bed, and no rolls. */
  flatbed: boolean;
  /** How high things may stand on its bed, mm. */
  mostThingMm: number;
  inks: InkSet;
  /** The most layers of ink that it lays down in one job. */
  layers: number;
  speed: { headMm: number; passes: number; carriageMmPerS: number; turnS: number };
  cartridgeMl: number;
}

const FOUR = fourInks([6, 13, 21]);

/** Four colours and more, which follow them in the mask. */
const fourAnd = (...more: Pick<Ink, 'name' | 'role' | 'channel' | 'colour' | 'drops'>[]): InkSet => [
  ...FOUR,
  ...more.map((ink, i) => ({ ...ink, shift: shiftOf(FOUR.length + i) }))
];
const light = (name: string, channel: string, colour: string) =>
  ({ name, role: 'light', channel, colour, drops: [6, 13, 21] }) satisfies Partial<Ink>;
/** Its pigment is coarse: no small drops of it. */
const white = (name = 'White') =>
  ({ name, role: 'white', channel: 'White', colour: '#b9c4d6', drops: [12, 24, 36] }) satisfies Partial<Ink>;

export const MODELS: Model[] = [
  {
    name: 'Petrel 13',
    flatbed: false,
    mostThingMm: 0,
    inks: FOUR,
    layers: 1,
    speed: { headMm: 54, passes: 8, carriageMmPerS: 1100, turnS: 0.25 },
    cartridgeMl: 700
  },
  {
    name: 'Gannet 32',
    flatbed: false,
    mostThingMm: 0,
    inks: fourAnd(
      light('Light cyan', 'Cyan', '#9fdcf7'),
      light('Light magenta', 'Magenta', '#f5a3cf'),
      light('Light black', 'Black', '#b4b4b4')
    ),
    layers: 1,
    speed: { headMm: 108, passes: 6, carriageMmPerS: 1500, turnS: 0.4 },
    cartridgeMl: 2000
  },
  {
    name: 'Skua 25',
    flatbed: true,
    mostThingMm: 100,
    inks: fourAnd(
      white('White 1'),
      white('White 2'),
      { name: 'Varnish', role: 'varnish', channel: 'Varnish', colour: '#d8c39a', drops: [8, 16, 26] },
      { name: 'Primer', role: 'primer', channel: 'Primer', colour: '#c7b8d8', drops: [8, 16, 26] }
    ),
    layers: 6,
    speed: { headMm: 72, passes: 8, carriageMmPerS: 1200, turnS: 0.35 },
    cartridgeMl: 1000
  },
  {
    name: 'Fulmar 16',
    flatbed: false,
    mostThingMm: 0,
    inks: fourAnd(light('Light cyan', 'Cyan', '#9fdcf7'), light('Light magenta', 'Magenta', '#f5a3cf'), white()),
    layers: 3,
    speed: { headMm: 54, passes: 8, carriageMmPerS: 1000, turnS: 0.25 },
    cartridgeMl: 500
  },
  {
    name: 'Tern 16',
    flatbed: false,
    mostThingMm: 0,
    inks: fourAnd(white()),
    layers: 3,
    speed: { headMm: 54, passes: 8, carriageMmPerS: 1000, turnS: 0.25 },
    cartridgeMl: 500
  }
];

/** @throws RangeError for a machine that there is not */
export function modelNamed(name: string): Model {
  const model = MODELS.find((one) => one.name === name);
  if (!model) throw new RangeError(`There is no machine ${name}; there are ${MODELS.map((one) => one.name).join(', ')}.`);
  return model;
}
