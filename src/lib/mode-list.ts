import { meanPrice, type Prices } from '$core/inks/ink-prices';
import { modeCost, type PrintMode } from '$core/media/modes';
import type { LocalSpec } from './listing';

/** The list that a print mode is found in. */

/** Of all inks together, on usual pages. */
const USUAL_COVERAGE = 0.6;

/** A print mode, and what the shop has to do with it. */
export interface ModeOfShop extends PrintMode {
  pinned: boolean;
  /** Prints that were made in it. */
  used: number;
  /** Whether the shop has such a machine. */
  here: boolean;
  /** How many times the ink of four it takes: more where the shop's machine has light inks. */
  inkTimes: number;
  /** What a ml of its colours costs, as the shop's machine has them. */
  inkPrices: Prices;
  conditions: { id: number; media: string; profiled: boolean }[];
}

interface CardToFit {
  id: number;
  name: string;
  family: string;
  costPerM2: number;
  /** Kinds of machines that the card is for. */
  machines: string[];
}

export interface ModeRow extends ModeOfShop {
  /** Its place among all. */
  number: number;
  /** Whether a media of the shop has been profiled in it. */
  profiled: boolean;
  /** Media cards that can be printed in it. */
  fitting: CardToFit[];
}

export const toModeRows = (modes: readonly ModeOfShop[], cards: readonly CardToFit[]): ModeRow[] =>
  modes.map((mode, number) => ({
    ...mode,
    number,
    profiled: mode.conditions.some((condition) => condition.profiled),
    fitting: cards.filter(({ family, machines }) => family === mode.family && machines.includes(mode.machine))
  }));

/** What a mode takes and costs, by what usual pages cover. @param usual what the shop pays for a ml of any ink */
export const usualCost = (mode: ModeOfShop, areaM2: number, usual: number) =>
  modeCost(mode, areaM2, { coverage: USUAL_COVERAGE * mode.inkTimes, costPerMl: meanPrice(mode.inkPrices, usual) });

export const MODE_LIST: LocalSpec<ModeRow> = {
  id: ({ number }) => number,
  words: ({ name, machine, inkSet, family, maker, dpi, quality, passes, direction, fitting, conditions }) =>
    [
      name,
      machine,
      inkSet,
      family,
      maker,
      `${dpi} dpi`,
      quality,
      `${passes} passes`,
      direction,
      ...fitting.map((card) => card.name),
      ...conditions.map(({ media }) => media)
    ].join(' '),
  sorts: {
    // What is pinned stands above what is used most, and what cannot be printed here below what can.
    used: ({ pinned, used, here }) => Number(pinned) * 1e9 + used * 2 + Number(here),
    mode: ({ dpi, passes }) => dpi * 100 + passes,
    machine: ({ machine, inkSet }) => `${machine} ${inkSet}`,
    family: ({ family }) => family,
    quality: ({ quality }) => quality,
    speed: ({ speedM2PerH }) => speedM2PerH,
    ink: (mode) => usualCost(mode, 1, 1).inkMl
  },
  facets: {
    machine: ({ machine }) => machine,
    inkSet: ({ inkSet }) => inkSet,
    family: ({ family }) => family,
    maker: ({ maker }) => maker,
    dpi: ({ dpi }) => `${dpi} dpi`,
    quality: ({ quality }) => quality,
    passes: ({ passes }) => String(passes),
    direction: ({ direction }) => direction,
    profile: ({ profiled }) => (profiled ? 'yes' : 'no')
  },
  inOrder: ['dpi', 'passes'],
  usual: { sort: 'used', down: true }
};
