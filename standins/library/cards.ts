import { NEW_CARD, type Family, type Handling, type MediaCard, type Surface } from '$core/media/card';
import { suggestHandling, type HandlingTable } from '$core/media/handling';

/** The made-up makers' cards, and their second edition: what a library would offer and later improve. */

export interface Offer {
  id: string;
  version: number;
  published: string;
  news: string;
  card: MediaCard;
}

type Line = [
  id: string,
  name: string,
  maker: string,
  family: Family,
  surface: Surface,
  widthMm: number,
  thicknessMm: number,
  cost: number,
  note: string
];

const LINES: Line[] = [
  [
    'fathom-gloss',
    'Fathom gloss cast',
    'Fathom Films',
    'cast',
    'gloss',
    1370,
    0.05,
    9.8,
    'For boats and curves; five years outdoors.'
  ],
  ['fathom-satin', 'Fathom satin cast', 'Fathom Films', 'cast', 'satin', 1370, 0.05, 9.6, 'Less glare than gloss.'],
  ['fathom-clear', 'Fathom clear cast', 'Fathom Films', 'cast', 'gloss', 1370, 0.05, 10.4, 'Wants white behind colours.'],
  [
    'shoal-white',
    'Shoal white calendered',
    'Fathom Films',
    'calendered',
    'gloss',
    1370,
    0.08,
    5.2,
    'For flat boards, three years.'
  ],
  ['shoal-matt', 'Shoal matt calendered', 'Fathom Films', 'calendered', 'matt', 1370, 0.09, 5.1, ''],
  ['lee-banner', 'Lee Shore banner 510', 'Lee Shore', 'banner', 'matt', 1600, 0.42, 3.6, 'Weldable. Hem 40 mm.'],
  ['lee-mesh', 'Lee Shore mesh', 'Lee Shore', 'banner', 'matt', 1600, 0.36, 3.9, 'Lets the wind through; no fine lettering.'],
  ['lee-blockout', 'Lee Shore blockout', 'Lee Shore', 'banner', 'satin', 1370, 0.62, 6.1, 'Two sides, no light through.'],
  [
    'beacon-film',
    'Beacon backlit film',
    'Beacon',
    'backlit',
    'satin',
    1270,
    0.2,
    11.2,
    'Print with twice the ink for light boxes.'
  ],
  ['ebb-poster', 'Ebb poster 130', 'Ebb & Flow', 'paper', 'paper', 1270, 0.16, 1.1, ''],
  ['ebb-photo', 'Ebb photo satin 220', 'Ebb & Flow', 'paper', 'satin', 1270, 0.24, 3.4, ''],
  ['ebb-blueback', 'Ebb blue-back 120', 'Ebb & Flow', 'paper', 'paper', 1370, 0.15, 1.3, 'For pasting over old posters.'],
  ['halyard-flag', 'Halyard flag cloth', 'Halyard', 'textile', 'fabric', 1600, 0.22, 4.8, ''],
  ['halyard-canvas', 'Halyard canvas', 'Halyard', 'canvas', 'matt', 1370, 0.42, 7.9, '']
];

/** What is not opaque and white. */
const BODY: Record<string, Partial<MediaCard>> = {
  'fathom-clear': { body: 'clear', printedSide: 'back' },
  'beacon-film': { body: 'translucent' }
};

/** What the second edition changed. */
const IMPROVED: Record<string, { news: string; change: (card: MediaCard) => void }> = {
  'shoal-white': {
    news: 'The liner is thinner since spring; the feed was found to run 0.2 % long.',
    change: (card) => {
      card.thicknessMm = 0.075;
      for (const handling of Object.values(card.handling)) handling.feedCorrectionPercent = -0.2;
    }
  },
  'lee-banner': {
    news: 'New coating: less heat dries it.',
    change: (card) => {
      for (const handling of Object.values(card.handling)) handling.dryHeatC = 44;
      card.costPerM2 = 3.4;
    }
  }
};

/** @param edition 1, or 2 with what was improved */
export function offers(table: HandlingTable, edition: number): Offer[] {
  return LINES.map(([id, name, maker, family, surface, widthMm, thicknessMm, costPerM2, note]) => {
    const suggested = suggestHandling(table, family, thicknessMm)?.handling;
    const handling: Record<string, Handling> = suggested ? { [table.machine]: { ...suggested } } : {};
    const card: MediaCard = {
      ...NEW_CARD,
      ...BODY[id],
      name,
      maker,
      family,
      surface,
      widthMm,
      thicknessMm,
      costPerM2,
      note,
      handling
    };
    const improved = edition > 1 ? IMPROVED[id] : undefined;
    improved?.change(card);
    return {
      id,
      version: improved ? 2 : 1,
      published: improved ? '2027-06-01' : '2027-02-01',
      news: improved?.news ?? 'First edition.',
      card
    };
  });
}
