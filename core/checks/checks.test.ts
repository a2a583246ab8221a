import { describe, expect, it } from 'vitest';
import { cmykBox, lettering, madePdf, spotStroke, type MadePage } from '../../tests/made/pdf';
import { ArtworkChoices, prepare } from '../artwork/choices';
import { marksOf, readyStacks, stackOf } from '../artwork/docket-stack';
import { newLayer, PLAIN_STACK } from '../inks/stack';
import type { Press } from '../media/press';
import { fontsNotEmbedded, readPageFacts } from '../artwork/read-facts';
import { DEFAULT_RULES, isTool, roleOf } from '../artwork/roles';
import { finishedLines } from '../cutting/docket-lines';
import { DEFAULT_LIMITS, type Check, type CheckInput, type Measured, type WallLook } from './check';
import { NO_RECORDS } from '../records/choices';
import { nameField } from '../../tests/made/fields';
import { planWall, type Film } from '../panels/panels';
import { newWall, type Opening, type Wall } from '../panels/wall';
import { checkDocket, CHECKS } from './check-docket';
import { openBytes } from '../../tests/made/opened';

const CUT = { 'Cut line': [0, 1, 0, 0] } as const;
const page = (content: string, more: Partial<MadePage> = {}): MadePage => ({ width: 100, height: 60, content, ...more });
const plain = cmykBox('0.4 0.1 0 0', 20, 20, 40, 20);
const rect = (x: number, y: number, w: number, h: number) => `${x} ${y} m ${x + w} ${y} l ${x + w} ${y + h} l ${x} ${y + h} l h`;
const measured: Measured = {
  totalInk: { most: 2.2, shareAbove: 0, place: null },
  gamut: { share: 0, mean: 0, worst: 1, place: null },
  inked: 0.4,
  cutInk: { share: 1, changes: 0, place: null }
};

const ROLL: Press = {
  machine: 'Petrel 13',
  channels: {},
  fullDrop: {},
  layers: 1,
  media: { name: 'Film', body: 'opaque', colour: '#ffffff', printedSide: 'face', primer: false, black: 'gloss', stack: null },
  black: 'gloss'
};
const BED: Press = { ...ROLL, machine: 'Skua 25', channels: { white: 2, varnish: 1, primer: 1 }, layers: 6 };
const on = (media: Partial<Press['media']>): Press => ({ ...BED, media: { ...BED.media, ...media } });
const ready = (wanted: string) => readyStacks({}).find(({ name }) => name === wanted)!.stack;

interface Case {
  id: string;
  level: Check['level'];
  fails: MadePage;
  passes: MadePage;
  /** What both are asked with. */
  choices?: Partial<ArtworkChoices>;
  input?: Partial<CheckInput>;
  /** Where the made file alone does not tell: what the one that fails is asked with. */
  failsWith?: Partial<CheckInput>;
  /** The mend makes the finding go away. */
  mends?: boolean;
  figure?: RegExp;
}

/** A wall of 9 × 2.6 m on a film of 1.29 m, seams where they are put. */
function walled(over: Partial<Wall> = {}, film: Partial<Film> = {}, more: Partial<WallLook> = {}): Pick<CheckInput, 'wall'> {
  const wall = { ...newWall(20), ...over };
  const on: Film = { usableMm: 1290, dpi: 360, family: 'calendered', ...film };
  const planned = planWall(wall, { widthMm: 9000, heightMm: 2600 }, on);
  return { wall: { wall, planned, film: on, neededMm: 21_000, ...more } };
}
const seamsAt = (...places: number[]): Pick<Wall, 'columns'> => ({
  columns: { how: 'equal', count: 1, widestMm: 1, seams: places.map((at) => ({ at, course: [] })) }
});
const opening = (x: number, width: number): Opening => ({
  name: 'Door',
  x,
  y: 500,
  width,
  height: 2100,
  shape: 'rectangle',
  outline: [],
  leftOut: true
});
/** Under the first seams of a wall. */
const busyAt = (...worst: number[]) => [...worst, ...Array.from({ length: 7 - worst.length }, () => 0)].map((one) => ({ mean: one / 2, worst: one, worstAt: 0.5 })); // prettier-ignore
const OF_WALL = { widthMm: 9000, heightMm: 2600, bleedMm: 20, bleedFrom: 'mirror' } as const;
const wide = page(cmykBox('0.4 0.1 0 0', -2, -2, 94, 30), { width: 90, height: 26, bleed: [-2, -2, 94, 30] });
const wallCase = (id: string, level: Check['level'], fails: Pick<CheckInput, 'wall'>, figure: RegExp, made = wide): Case => ({
  id,
  level,
  fails: made,
  passes: wide,
  choices: OF_WALL,
  input: walled(),
  failsWith: fails,
  figure
});

const cut = { cut: true, bleedMm: 0 } as const;
const dense = (n: number) =>
  `${Array.from({ length: n }, (_, i) => {
    const a = (i / n) * 2 * Math.PI;
    return `${(50 + 20 * Math.cos(a)).toFixed(4)} ${(30 + 20 * Math.sin(a)).toFixed(4)} ${i === 0 ? 'm' : 'l'}`;
  }).join(' ')} h`;

/** For each check a made file that fails it and one that passes. */
const CASES: Case[] = [
  { id: 'blank', level: 'stop', fails: page(cmykBox('0 0 0 0', 0, 0, 100, 60)), passes: page(plain) },
  {
    id: 'width',
    level: 'stop',
    fails: page(plain, { width: 900, height: 900 }),
    passes: page(plain),
    input: { usableMm: 800 },
    mends: true,
    figure: /900/
  },
  {
    id: 'drift',
    level: 'look',
    fails: page(plain),
    passes: page(plain),
    input: { drift: { at: 1, mean: 0.9 } },
    failsWith: { drift: { at: 1, mean: 1.24 } },
    figure: /^ΔE00 1\.2$/
  },
  {
    id: 'boxes',
    level: 'look',
    fails: page(plain, { trim: [10, 10, 80, 40], crop: [20, 20, 50, 20] }),
    passes: page(plain, { trim: [10, 10, 80, 40] }),
    figure: /^20 mm/
  },
  {
    id: 'stretch',
    level: 'look',
    fails: page(plain),
    passes: page(plain, { width: 120, height: 60 }),
    choices: { widthMm: 200, heightMm: 100 },
    mends: true
  },
  {
    id: 'resolution',
    level: 'look',
    fails: page('80 0 0 40 10 10 cm /P Do', { picture: { width: 60, height: 30 } }),
    passes: page('80 0 0 40 10 10 cm /P Do', { picture: { width: 600, height: 300 } }),
    figure: /^19 ppi/
  },
  {
    id: 'bleed',
    level: 'look',
    fails: page(cmykBox('1 0 0 0', 0, 0, 100, 60)),
    passes: page(cmykBox('1 0 0 0', 10, 10, 80, 40)),
    mends: true
  },
  {
    id: 'near-trim',
    level: 'look',
    fails: page(plain + lettering('0 0 0 1 k', 1, 30, 10)),
    passes: page(plain + lettering('0 0 0 1 k', 30, 30, 10)),
    figure: /^1/
  },
  { id: 'fonts', level: 'look', fails: page(lettering('0 0 0 1 k', 30, 30, 10), { font: 'HarbourSans' }), passes: page(plain) },
  {
    id: 'thin-lines',
    level: 'look',
    fails: page('0 0 0 1 K 0.02 w 10 10 m 90 10 l S'),
    passes: page('0 0 0 1 K 0.5 w 10 10 m 90 10 l S'),
    mends: true,
    figure: /0\.02 mm/
  },
  {
    id: 'thin-text',
    level: 'look',
    fails: page(plain + lettering('0 0 0 1 k', 30, 30, 0.9)),
    passes: page(plain + lettering('0 0 0 1 k', 30, 30, 6))
  },
  {
    id: 'white-text',
    level: 'look',
    fails: page(plain + lettering('0 0 0 0 k', 30, 30, 1.5)),
    passes: page(plain + lettering('0 0 0 0 k', 30, 30, 8)),
    figure: /1\.5/
  },
  {
    id: 'rich-text',
    level: 'look',
    fails: page(plain + lettering('0.6 0.5 0.5 1 k', 30, 30, 2.5)),
    passes: page(plain + lettering('0 0 0 1 k', 30, 30, 2.5)),
    mends: true
  },
  {
    id: 'black-areas',
    level: 'look',
    fails: page(cmykBox('0 0 0 1', 10, 10, 300, 300), { width: 400, height: 400 }),
    passes: page(cmykBox('0.4 0.3 0.3 1', 10, 10, 300, 300), { width: 400, height: 400 }),
    mends: true
  },
  {
    id: 'role-Harbour blue',
    level: 'look',
    fails: page(`/S0 cs 1 scn 10 10 30 30 re f`, { spots: { 'Harbour blue': [1, 0.6, 0, 0] } }),
    passes: page(plain),
    mends: true
  },
  {
    id: 'role-Cutt line',
    level: 'look',
    fails: page(plain + spotStroke(rect(20, 20, 40, 20)), { spots: { 'Cutt line': [0, 1, 0, 0] } }),
    passes: page(plain + spotStroke(rect(20, 20, 40, 20)), { spots: CUT }),
    mends: true
  },
  {
    id: 'colour-Ghost',
    level: 'look',
    fails: page(`${plain}/S0 cs 1 scn 10 10 30 30 re f`, { spots: { Ghost: [0, 0, 0, 0] } }),
    passes: page(`${plain}/S0 cs 1 scn 10 10 30 30 re f`, { spots: { Ghost: [0.5, 0, 0, 0] } }),
    mends: true
  },
  {
    id: 'two-roles-Cut white',
    level: 'look',
    fails: page(`${plain}/S0 cs 1 scn 10 10 30 30 re f`, { spots: { 'Cut white': [0.1, 0, 0, 0] } }),
    passes: page(`${plain}/S0 cs 1 scn 10 10 30 30 re f`, { spots: { 'White of cuts': [0.1, 0, 0, 0] } }),
    input: {
      rules: [
        { pattern: 'cut*', role: 'kiss cut' },
        { pattern: '*white*', role: 'white' }
      ]
    },
    mends: true
  },
  {
    id: 'ink-missing',
    level: 'stop',
    fails: page(`${plain}/S0 cs 1 scn 10 10 30 30 re f`, { spots: { White: [0.1, 0, 0, 0] } }),
    passes: page(plain),
    input: { press: ROLL },
    mends: true,
    figure: /^white$/
  },
  {
    id: 'records-no-table',
    level: 'stop',
    fails: page(plain),
    passes: page(plain),
    failsWith: { records: { ...NO_RECORDS, fields: [nameField] } },
    figure: /^1 field$/
  },
  {
    id: 'records-column-name',
    level: 'stop',
    fails: page(plain),
    passes: page(plain),
    failsWith: {
      records: {
        ...NO_RECORDS,
        fields: [nameField],
        table: { hash: 'a'.repeat(64), name: 'crew.csv', columns: ['Who'], count: 3 }
      }
    },
    figure: /^name$/
  },
  {
    id: 'layers-many',
    level: 'stop',
    fails: page(plain),
    passes: page(plain),
    input: { press: { ...BED, layers: 3 } },
    failsWith: { stack: ready('Primer, white, colour, varnish') },
    figure: /^4 layers$/
  },
  {
    id: 'white-missing',
    level: 'look',
    fails: page(plain),
    passes: page(plain),
    input: { press: BED },
    failsWith: { press: on({ body: 'clear', printedSide: 'back' }) },
    mends: true
  },
  {
    id: 'primer',
    level: 'look',
    fails: page(plain),
    passes: page(plain),
    failsWith: { press: on({ primer: true }) },
    input: { press: BED },
    mends: true
  },
  {
    id: 'black',
    level: 'look',
    fails: page(plain),
    passes: page(plain),
    input: { press: ROLL },
    failsWith: { press: { ...ROLL, black: 'matt' } },
    figure: /^matt black$/
  },
  {
    id: 'facing',
    level: 'look',
    fails: page(plain),
    passes: page(plain),
    choices: { stack: ready('White under colour'), mirror: false },
    input: { press: on({ body: 'clear' }) },
    failsWith: { stack: ready('Colour under white') },
    figure: /not mirrored/
  },
  {
    id: 'lettering-backwards',
    level: 'look',
    fails: page(`q -1 0 0 1 100 0 cm ${lettering('0 0 0 1 k', 20, 20, 8)} Q`),
    passes: page(lettering('0 0 0 1 k', 20, 20, 8)),
    mends: true,
    figure: /^1 stretch$/
  },
  {
    id: 'white-peeps',
    level: 'look',
    fails: page(plain),
    passes: page(plain),
    choices: { stack: { seen: 'front', layers: [newLayer(2, 'white', { chokeMm: 0.3 }), newLayer(1, 'colour')] } },
    failsWith: { limits: { ...DEFAULT_LIMITS, layersApartMm: 0.5 } },
    mends: true,
    figure: /^0\.3 mm$/
  },
  {
    id: 'varnish-beneath',
    level: 'look',
    fails: page(plain),
    passes: page(plain),
    failsWith: { stack: { seen: 'front', layers: [newLayer(4, 'varnish'), newLayer(1, 'colour')] } }
  },
  {
    id: 'other-page-2',
    level: 'stop',
    fails: page(plain),
    passes: page(plain),
    choices: { stack: { seen: 'both', layers: [newLayer(2, 'colour', { ownPage: 1 }), newLayer(1, 'colour')] } },
    input: { press: BED, pages: { count: 2, shown: { 1: { widthMm: 200, heightMm: 120.2 } } } },
    failsWith: { pages: { count: 1, shown: {} } },
    mends: true,
    figure: /^page 2$/
  },
  {
    id: 'other-page-3',
    level: 'look',
    fails: page(plain),
    passes: page(plain),
    choices: { stack: { seen: 'both', layers: [newLayer(2, 'colour', { ownPage: 2 }), newLayer(1, 'colour')] } },
    input: { press: BED, pages: { count: 3, shown: { 2: { widthMm: 50, heightMm: 30 } } } },
    failsWith: { pages: { count: 3, shown: { 2: { widthMm: 80, heightMm: 60 } } } },
    mends: true,
    figure: /^25 %$/
  },
  {
    id: 'layer-amount',
    level: 'look',
    fails: page(plain),
    passes: page(plain),
    choices: {
      stack: { seen: 'front', layers: [newLayer(2, 'white', { amount: 1.5, chokeMm: 0.3 }), newLayer(1, 'colour')] }
    },
    input: { press: BED },
    failsWith: { press: { ...BED, channels: { white: 1 } } },
    mends: true,
    figure: /^150 %$/
  },
  {
    id: 'unused-white',
    level: 'look',
    fails: page(`${plain}/S0 cs 1 scn 10 10 30 30 re f`, { spots: { White: [0.1, 0, 0, 0] } }),
    passes: page(plain),
    choices: { stack: PLAIN_STACK },
    mends: true,
    figure: /^White$/
  },
  { id: 'colours', level: 'look', fails: page(`${plain}1 0 0 rg 60 20 10 10 re f`), passes: page(plain) },
  {
    id: 'overprint',
    level: 'look',
    fails: page(`/G gs ${plain}`, { states: { G: '/OP true/op true/OPM 1' } }),
    passes: page(`/G gs ${plain}`, { states: { G: '/OP false/op false' } })
  },
  {
    id: 'transparency',
    level: 'look',
    fails: page(`${plain}/G gs 1 0 0 rg 60 20 10 10 re f`, { states: { G: '/BM/Multiply' } }),
    passes: page(`${plain}1 0 0 rg 60 20 10 10 re f`)
  },
  {
    id: 'total-ink',
    level: 'look',
    fails: page(plain),
    passes: page(plain),
    failsWith: {
      measured: { ...measured, totalInk: { most: 3.4, shareAbove: 0.1, place: { x: 1, y: 1, width: 5, height: 5 } } }
    },
    figure: /340 %/
  },
  {
    id: 'gamut',
    level: 'look',
    fails: page(plain),
    passes: page(plain),
    failsWith: { measured: { ...measured, gamut: { share: 0.2, mean: 7, worst: 14, place: null } } },
    figure: /20 %/
  },
  {
    id: 'cut-missing',
    level: 'stop',
    fails: page(plain),
    passes: page(plain + spotStroke(rect(20, 20, 40, 20)), { spots: CUT }),
    choices: cut,
    mends: true
  },
  {
    id: 'cut-many',
    level: 'stop',
    fails: page(plain + Array.from({ length: 5100 }, (_, i) => spotStroke(`${i % 90} 10 m ${i % 90} 20 l`)).join(''), {
      spots: CUT
    }),
    passes: page(plain + spotStroke(rect(20, 20, 40, 20)), { spots: CUT }),
    choices: cut,
    figure: /5,100/
  },
  {
    id: 'cut-open',
    level: 'look',
    fails: page(plain + spotStroke('20 20 m 60 20 l 60 40 l 20 40 l 20 21 l'), { spots: CUT }),
    passes: page(plain + spotStroke(rect(20, 20, 40, 20)), { spots: CUT }),
    choices: cut,
    mends: true,
    figure: /^1 mm/
  },
  {
    id: 'cut-crossing',
    level: 'look',
    fails: page(plain + spotStroke('20 20 m 60 40 l 60 20 l 20 40 l h'), { spots: CUT }),
    passes: page(plain + spotStroke(rect(20, 20, 40, 20)), { spots: CUT }),
    choices: cut,
    mends: true
  },
  {
    id: 'cut-doubled',
    level: 'look',
    fails: page(plain + spotStroke(rect(20, 20, 40, 20)) + spotStroke(rect(20, 20, 40, 20)), { spots: CUT }),
    passes: page(plain + spotStroke(rect(20, 20, 40, 20)), { spots: CUT }),
    choices: cut,
    mends: true
  },
  {
    id: 'cut-nodes',
    level: 'look',
    fails: page(plain + spotStroke(dense(3000)), { spots: CUT }),
    passes: page(plain + spotStroke(dense(300)), { spots: CUT }),
    choices: cut,
    mends: true,
    figure: /3,00/
  },
  {
    id: 'cut-corners',
    level: 'look',
    fails: page(plain + spotStroke('20 20 m 90 20 l 40 22 l 40 40 l 20 40 l h'), { spots: CUT }),
    passes: page(plain + spotStroke(rect(20, 20, 40, 20)), { spots: CUT }),
    choices: cut
  },
  {
    id: 'cut-outside',
    level: 'look',
    fails: page(plain + spotStroke(rect(-5, 20, 40, 20)), { spots: CUT }),
    passes: page(plain + spotStroke(rect(20, 20, 40, 20)), { spots: CUT }),
    choices: cut,
    mends: true,
    figure: /^5/
  },
  {
    id: 'cut-islands',
    level: 'look',
    fails: page(plain + spotStroke(rect(20, 20, 40, 20)) + spotStroke(rect(80, 50, 2, 2)), { spots: CUT }),
    passes: page(plain + spotStroke(rect(20, 20, 40, 20)), { spots: CUT }),
    choices: cut,
    mends: true
  },
  {
    id: 'cut-art',
    level: 'look',
    fails: page(plain + spotStroke(rect(25, 15, 40, 20)), { spots: CUT }),
    passes: page(plain + spotStroke(rect(25, 25, 20, 10)), { spots: CUT }),
    choices: cut,
    failsWith: { measured: { ...measured, cutInk: { share: 0.5, changes: 2, place: null } } }
  },
  ...(
    [
      [{ kind: 'svg-font', what: 'Harbour Script', instead: 'Arimo' }, 'font Harbour Script', /^Harbour Script$/],
      [{ kind: 'svg-glyphs', what: '海 港', instead: '' }, 'glyphs', /海/],
      [{ kind: 'svg-picture', what: 'gull.jpg', instead: '' }, 'picture gull.jpg', /gull/],
      [{ kind: 'svg-html', what: '', instead: '' }, 'html', /web page/],
      [{ kind: 'svg-filter', what: '2', instead: '300' }, 'effects', /^2 effects$/],
      [{ kind: 'extra-channels', what: '1', instead: '' }, 'extra-channels', /^1 channel$/],
      [{ kind: 'damaged', what: '', instead: '' }, 'damaged', /damaged/]
    ] as const
  ).map(([finding, id, figure]): Case => ({
    id,
    level: 'look',
    fails: page(plain),
    passes: page(plain),
    failsWith: { findings: [{ ...finding, page: 0, place: { x: 10, y: 10, width: 20, height: 5 } }] },
    figure
  })),
  wallCase('columns-order', 'stop', walled(seamsAt(2000, 1000)), /^1 m/),
  wallCase('panel-width', 'stop', walled(seamsAt(4500)), /^45/),
  wallCase('panel-length', 'stop', walled({}, { longestMm: 2000 }), /^2\.66/),
  wallCase('panel-length', 'look', walled({}, {}, { stock: { inAllMm: 90_000, longestMm: 2500 } }), /^2\.66/),
  wallCase('film-stock', 'look', walled({}, {}, { stock: { inAllMm: 18_000, longestMm: 18_000 } }), /^21 m/),
  wallCase('wall-bleed', 'look', walled({ bleed: { left: 20, top: 8, right: 20, bottom: 20 } }), /^8 mm/),
  wallCase('overlap', 'look', walled({ overlapMm: 4 }), /^4 mm/),
  wallCase('panel-narrow', 'look', walled(seamsAt(1100, 2200, 3300, 4400, 5500, 6600, 7700, 8900)), /^100 mm/),
  wallCase(
    'seam-lettering',
    'look',
    walled(),
    /^1\.125 m/,
    page(`${cmykBox('0.4 0.1 0 0', -2, -2, 94, 30)}${lettering('Gangway', 8, 12, 20)}`, {
      width: 90,
      height: 26,
      bleed: [-2, -2, 94, 30],
      font: 'Helvetica'
    })
  ),
  {
    id: 'jig',
    level: 'look',
    fails: page(plain, { width: 100, height: 60 }),
    passes: page(plain, { width: 50, height: 30 }),
    input: {
      jig: { name: 'Buoy tags', faults: 0, pockets: 24, thing: { width: 50, height: 30 }, lies: { edge: 'cut off', size: 'own', turn: 0 }, scale: 1, rollOf: null } // prettier-ignore
    },
    figure: /^100 × 60 mm/
  },
  wallCase('seam-busy', 'look', walled({}, {}, { busy: { columns: busyAt(0.2, 0.72, 0.61), rows: [] } }), /^72 %/),
  wallCase('opening-0-outside', 'stop', walled({ openings: [opening(9100, 900)] }), /^9\.1 m/),
  wallCase('opening-0-seam', 'look', walled({ openings: [opening(1000, 900)] }), /^1\.125 m/),
  wallCase('corner-outside', 'stop', walled({ corners: [9000] }), /^9 m/),
  wallCase('corner-seam', 'look', walled({ corners: [1150] }), /^25 mm/),
  wallCase('white-strip', 'look', walled({ strip: 'white', stripMm: 4 }), /^4 mm/),
  { id: 'fields', level: 'look', fails: page(plain, { stamp: true }), passes: page(plain), mends: true, figure: /^1 filled-in/ }
];

function look(
  made: MadePage,
  choices: Partial<ArtworkChoices>,
  input: Partial<CheckInput>
): { checks: Check[]; given: CheckInput } {
  const bytes = madePdf(made);
  const document = openBytes(bytes);
  const { facts, lines } = readPageFacts(document, 0);
  const all = ArtworkChoices.parse({ widthMm: facts.widthMm, heightMm: facts.heightMm, bleedMm: 0, cut: false, ...choices });
  const preparation = prepare(all, facts, lines, DEFAULT_RULES);
  const { rules = DEFAULT_RULES } = input;
  const role = (name: string) => roleOf(name, rules, all.roles);
  const marks = marksOf(facts, rules, all.roles);
  const given: CheckInput = {
    unit: 'mm',
    stack: stackOf(all.stack, marks),
    marks,
    pages: { count: 1, shown: {} },
    page: facts,
    choices: all,
    preparation,
    rules: DEFAULT_RULES,
    limits: DEFAULT_LIMITS,
    lines: all.cut ? finishedLines(lines, role, preparation, all, all.lines, all.layersOff) : [],
    customerLines: lines.filter((line) => isTool(role(line.spot ?? ''))).length,
    fontsNotEmbedded: fontsNotEmbedded(document),
    findings: [],
    mayTurn: false,
    intent: 'relative',
    dpi: 720,
    measured,
    ...input
  };
  document.destroy();
  return { checks: checkDocket(given), given };
}

describe('checks', () => {
  it.each(CASES)('$id', ({ id, level, fails, passes, choices = {}, input = {}, failsWith = {}, mends, figure }) => {
    const found = look(fails, choices, { ...input, ...failsWith }).checks.find((check) => check.id === id);
    expect(found).toBeDefined();
    expect(found?.level).toBe(level);
    expect(found?.sentence).toMatch(/[.?]$/);
    if (figure) expect(found?.figure).toMatch(figure);
    expect(look(passes, choices, input).checks.find((check) => check.id === id && check.level !== 'fine')).toBeUndefined();
    if (mends) {
      expect(found?.mend).toBeDefined();
      const change = found?.mend?.change ?? {};
      const after = look(fails, { ...choices, ...change }, { ...input, ...failsWith }).checks;
      expect(after.find((check) => check.id === id && check.level !== 'fine')).toBeUndefined();
    }
  });

  it('tell lengths in what the shop measures in, and mean the same', () => {
    const made = page(plain, { trim: [20, 20, 200, 120] });
    const told = (unit: CheckInput['unit']) => look(made, { bleedMm: 1, cut: true }, { unit, usableMm: 20 }).checks;
    const [metric, imperial] = [told('mm'), told('in')];
    expect(imperial.map(({ id, level, mend }) => [id, level, mend?.change])).toEqual(
      metric.map(({ id, level, mend }) => [id, level, mend?.change])
    );
    const words = (checks: readonly Check[]) =>
      checks.flatMap(({ figure, limit, sentence }) => [figure, limit, sentence]).join(' ');
    expect(words(metric)).toMatch(/\d mm/);
    expect(words(imperial)).toMatch(/\d in\b/);
    expect(words(imperial)).not.toMatch(/\d (mm|cm|m)\b/);
  });

  it('hold lettering, lines and pictures against the size that they have in their pocket', () => {
    const made = page(plain + lettering('0 0 0 1 k', 30, 30, 10) + ' 0 0 0 1 K 0.5 w 10 10 m 90 10 l S');
    const lies = { edge: 'cut off', size: 'fit', turn: 0 } as const;
    const jig = { name: 'Pins', faults: 0, pockets: 9, thing: { width: 5, height: 3 }, lies, scale: 0.05, rollOf: null };
    const levels = (input: Partial<CheckInput>) =>
      ['thin-lines', 'thin-text'].map((id) => look(made, {}, input).checks.find((check) => check.id === id)?.level ?? 'fine');
    expect([levels({}), levels({ jig })]).toEqual([['fine', 'fine'], ['look', 'look']]); // prettier-ignore
    expect(look(made, {}, { jig }).checks.find(({ id }) => id === 'thin-lines')!.figure).toBe('0.03 mm');
  });

  it('tells findings apart, also those of several seams', () => {
    const several = { fails: page(plain), failsWith: walled(seamsAt(9500, 9600, 9700)) };
    for (const { fails, choices = {}, input = {}, failsWith = {} } of [several, ...CASES] as Case[]) {
      const ids = look(fails, choices, { ...input, ...failsWith }).checks.map(({ id }) => id);
      expect(new Set(ids).size).toBe(ids.length);
    }
    expect(look(several.fails, {}, several.failsWith).checks.filter(({ about }) => about === 'wall').length).toBeGreaterThan(2);
  });

  it('has a made file for every check there is', () => {
    const named = new Set(CASES.map(({ id }) => id));
    // Each function of the list finds something in at least one of the files.
    const all = CASES.map(
      ({ fails, choices = {}, input = {}, failsWith = {} }) => look(fails, choices, { ...input, ...failsWith }).given
    );
    for (const check of CHECKS) {
      const seen = all.some((given) => check(given).some(({ id, level }) => level !== 'fine' && named.has(id)));
      expect(seen, check.name).toBe(true);
    }
  });
});
