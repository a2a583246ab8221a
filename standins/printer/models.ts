import type { DropVolumes } from '$core/inks/drops';

/** Kept back from the made-up makers' sheets: drops in pl, the head, the carriage. */
export interface Model {
  name: string;
  /** Takes sheets on a bed, and no rolls. */
  flatbed: boolean;
  inks: string[];
  colours: string[];
  drops: DropVolumes;
  speed: { headMm: number; passes: number; carriageMmPerS: number; turnS: number };
  cartridgeMl: number;
}

const INKS = {
  inks: ['Cyan', 'Magenta', 'Yellow', 'Black'],
  colours: ['#00AEEF', '#EC008C', '#FFF200', '#000000'],
  drops: [6, 13, 21] as DropVolumes
};

export const MODELS: Model[] = [
  {
    name: 'Petrel 13',
    flatbed: false,
    ...INKS,
    speed: { headMm: 54, passes: 8, carriageMmPerS: 1100, turnS: 0.25 },
    cartridgeMl: 700
  },
  {
    name: 'Gannet 32',
    flatbed: false,
    ...INKS,
    speed: { headMm: 108, passes: 6, carriageMmPerS: 1500, turnS: 0.4 },
    cartridgeMl: 2000
  },
  {
    name: 'Skua 25',
    flatbed: true,
    ...INKS,
    speed: { headMm: 72, passes: 8, carriageMmPerS: 1200, turnS: 0.35 },
    cartridgeMl: 1000
  }
];

/** @throws RangeError for a machine that there is not */
export function modelNamed(name: string): Model {
  const model = MODELS.find((one) => one.name === name);
  if (!model) throw new RangeError(`There is no machine ${name}; there are ${MODELS.map((one) => one.name).join(', ')}.`);
  return model;
}
