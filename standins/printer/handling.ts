import type { Family, Handling } from '$core/media/card';
import type { HandlingRow, HandlingTable } from '$core/media/handling';

/** The maker's table of how to treat media: kept in the machine, so that any program can ask for it. */

const usualOf = (handling: Handling): HandlingRow['usual'] => {
  const round = (v: number) => Math.round(v * 100) / 100;
  return {
    headGapMm: [handling.headGapMm, round(handling.headGapMm + 0.8)],
    vacuumPercent: [Math.max(0, handling.vacuumPercent - 15), Math.min(100, handling.vacuumPercent + 15)],
    feedTensionN: [round(handling.feedTensionN * 0.7), round(handling.feedTensionN * 1.4)],
    preHeatC: [Math.max(0, handling.preHeatC - 6), handling.preHeatC + 6],
    platenHeatC: [Math.max(0, handling.platenHeatC - 6), handling.platenHeatC + 6],
    dryHeatC: [Math.max(0, handling.dryHeatC - 8), handling.dryHeatC + 8],
    feedCorrectionPercent: [-0.8, 0.8],
    marginMm: [handling.marginMm, handling.marginMm + 20]
  };
};

const row = (families: Family[], thickness: [number, number], handling: Partial<Handling>): HandlingRow => {
  const whole: Handling = {
    headGapMm: 1.5,
    vacuumPercent: 50,
    feedTensionN: 12,
    preHeatC: 38,
    platenHeatC: 40,
    dryHeatC: 48,
    drySeconds: 30,
    feedCorrectionPercent: 0,
    cutOff: 'blade',
    takeUp: 'off',
    marginMm: 5,
    edgeGuards: true,
    ...handling
  };
  return { families, thickness, handling: whole, usual: usualOf(whole) };
};

export const HANDLING: HandlingTable = {
  machine: 'Petrel 13',
  rows: [
    row(['cast', 'calendered'], [0.01, 0.15], {}),
    row(['cast', 'calendered'], [0.15, 0.6], { headGapMm: 1.8, vacuumPercent: 60 }),
    row(['banner', 'backlit'], [0.01, 0.6], {
      headGapMm: 2,
      vacuumPercent: 35,
      feedTensionN: 28,
      platenHeatC: 44,
      takeUp: 'print side out',
      edgeGuards: false
    }),
    row(['banner', 'backlit'], [0.6, 1.5], {
      headGapMm: 2.6,
      vacuumPercent: 30,
      feedTensionN: 36,
      platenHeatC: 45,
      cutOff: 'by hand',
      takeUp: 'print side out',
      edgeGuards: false
    }),
    row(['paper'], [0.01, 0.4], {
      headGapMm: 1.5,
      vacuumPercent: 40,
      feedTensionN: 9,
      preHeatC: 32,
      platenHeatC: 34,
      dryHeatC: 42
    }),
    row(['textile', 'canvas'], [0.01, 1], {
      headGapMm: 2.4,
      vacuumPercent: 25,
      feedTensionN: 18,
      drySeconds: 60,
      cutOff: 'by hand',
      edgeGuards: false,
      marginMm: 8
    })
  ]
};

const RIGID = row(['rigid'], [0.5, 50], {
  headGapMm: 2,
  vacuumPercent: 80,
  feedTensionN: 0,
  preHeatC: 20,
  platenHeatC: 20,
  dryHeatC: 40,
  cutOff: 'none',
  edgeGuards: false
});

/** What a machine gives of itself; only a flatbed takes boards. */
export const handlingOf = ({ name, flatbed }: { name: string; flatbed: boolean }): HandlingTable => ({
  machine: name,
  rows: flatbed ? [...HANDLING.rows, RIGID] : HANDLING.rows
});
