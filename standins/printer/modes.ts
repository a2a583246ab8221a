import type { Family } from '$core/media/card';
import type { PrintMode } from '$core/media/modes';
import { printSeconds, type PrintSpeed } from '$core/inks/drops';

/** The made-up makers' print modes, by kind of machine. A machine gives its own to whoever asks. */

interface Kind {
  machine: string;
  inkSet: string;
  black?: PrintMode['black'];
  widthMm: number;
  families: Family[];
  speed: Omit<PrintSpeed, 'passes'>;
  steps: [dpi: number, passes: number, quality: PrintMode['quality']][];
}

const KINDS: Kind[] = [
  {
    machine: 'Petrel 13',
    inkSet: 'Harbour',
    widthMm: 1300,
    families: ['cast', 'calendered', 'banner', 'backlit', 'paper', 'textile', 'canvas'],
    speed: { headMm: 54, carriageMmPerS: 1100, turnS: 0.25 },
    steps: [
      [360, 4, 'draft'],
      [540, 4, 'draft'],
      [540, 6, 'production'],
      [720, 6, 'production'],
      [720, 8, 'quality'],
      [720, 12, 'quality'],
      [1080, 12, 'fine'],
      [1080, 16, 'fine']
    ]
  },
  {
    machine: 'Gannet 32',
    inkSet: 'Estuary',
    widthMm: 3200,
    families: ['cast', 'calendered', 'banner', 'backlit', 'paper', 'textile', 'canvas'],
    speed: { headMm: 108, carriageMmPerS: 1500, turnS: 0.4 },
    steps: [
      [360, 3, 'draft'],
      [360, 4, 'production'],
      [540, 4, 'production'],
      [540, 6, 'quality'],
      [720, 6, 'quality'],
      [720, 8, 'fine'],
      [1080, 12, 'fine']
    ]
  },
  {
    machine: 'Gannet 32',
    inkSet: 'Estuary with matt black',
    black: 'matt',
    widthMm: 3200,
    families: ['banner', 'paper', 'textile', 'canvas'],
    speed: { headMm: 108, carriageMmPerS: 1500, turnS: 0.4 },
    steps: [
      [540, 6, 'quality'],
      [720, 8, 'fine']
    ]
  },
  {
    machine: 'Fulmar 16',
    inkSet: 'Lagoon with light inks and white',
    widthMm: 1600,
    families: ['cast', 'calendered', 'backlit', 'paper'],
    speed: { headMm: 54, carriageMmPerS: 1000, turnS: 0.25 },
    steps: [
      [540, 6, 'production'],
      [720, 8, 'quality'],
      [1080, 16, 'fine']
    ]
  },
  {
    machine: 'Tern 16',
    inkSet: 'Saltmarsh with white',
    widthMm: 1600,
    families: ['cast', 'calendered', 'backlit'],
    speed: { headMm: 54, carriageMmPerS: 1000, turnS: 0.25 },
    steps: [
      [540, 6, 'production'],
      [720, 8, 'quality']
    ]
  },
  {
    machine: 'Skua 25',
    inkSet: 'Skerry',
    widthMm: 2500,
    families: ['rigid', 'cast', 'banner', 'backlit', 'paper', 'canvas'],
    speed: { headMm: 72, carriageMmPerS: 1200, turnS: 0.35 },
    steps: [
      [360, 4, 'draft'],
      [540, 4, 'production'],
      [540, 6, 'production'],
      [720, 6, 'quality'],
      [720, 8, 'quality'],
      [720, 12, 'fine'],
      [1080, 12, 'fine'],
      [1080, 16, 'fine'],
      [540, 8, 'quality']
    ]
  }
];

/** Drops that lay down the same ink at every resolution: coarse modes have large ones. */
const DROPS: Record<number, [number, number, number]> = {
  360: [24, 52, 84],
  540: [11, 23, 37],
  720: [6, 13, 21],
  1080: [3, 6, 9.4]
};

/** Ink that a family takes, in all and of each ink. */
const TAKES: Record<Family, { channel: number; total: number }> = {
  cast: { channel: 0.9, total: 2.6 },
  calendered: { channel: 0.9, total: 2.6 },
  banner: { channel: 0.85, total: 2.5 },
  backlit: { channel: 1, total: 3 },
  paper: { channel: 0.75, total: 2.1 },
  textile: { channel: 0.95, total: 2.5 },
  canvas: { channel: 0.85, total: 2.4 },
  rigid: { channel: 0.9, total: 2.6 }
};

/** Makers of media who give modes of their own beside the machine's maker. */
const MEDIA_MAKERS: Partial<Record<Family, string>> = { cast: 'Fathom Films', banner: 'Lee Shore', paper: 'Ebb & Flow' };

function modesOf(kind: Kind): PrintMode[] {
  return kind.families.flatMap((family) =>
    kind.steps.flatMap(([dpi, passes, quality]) =>
      (['both ways', 'one way'] as const).map((direction): PrintMode => {
        const seconds = printSeconds(kind.widthMm, 1000, { ...kind.speed, passes, oneWay: direction === 'one way' });
        const own = quality === 'fine' ? MEDIA_MAKERS[family] : undefined;
        const { channel, total } = TAKES[family];
        return {
          code: [kind.machine, kind.inkSet, family, dpi, passes, direction, quality].join('/'),
          name: `${dpi} × ${dpi}, ${passes} passes${direction === 'one way' ? ', one way' : ''}${kind.black === 'matt' ? ', matt black' : ''}`,
          machine: kind.machine,
          inkSet: kind.inkSet,
          black: kind.black ?? 'gloss',
          family,
          maker: own ?? `${kind.machine.split(' ')[0]} works`,
          dpi,
          passes,
          direction,
          quality,
          drops: DROPS[dpi]!,
          speedM2PerH: Math.round((kind.widthMm / 1000 / seconds) * 3600 * 10) / 10,
          limits: { channels: [channel, channel, channel, channel], total }
        };
      })
    )
  );
}

export const ALL_MODES: PrintMode[] = KINDS.flatMap(modesOf);
