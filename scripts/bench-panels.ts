import { spawnSync } from 'node:child_process';
import { rmSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { PLACING_RULES } from '$core/layout/placement';
import { seededRandom } from '$core/geometry/random';
import { fourInks } from '$core/inks/ink-set';
import { layOutRun, ripPieces } from '$core/layout/run-layout';
import { calmSeams } from '$core/panels/calm';
import { detailOf, detailUnder } from '$core/panels/detail';
import { newWall, type Wall } from '$core/panels/wall';
import { wholePage } from '$core/artwork/preparation';
import type { RipPlan } from '$core/rip/plan';
import { compareFilms, type FilmOffer } from '$lib/film-widths';
import { DEFAULT_RULE } from '$lib/run-rule';
import { DocketChoices } from '$lib/docket-choices';
import { toRunPieces } from '$lib/run-pieces';
import { plannedWall } from '$lib/panels';
import { wallPicture } from '../tests/made/wall-pictures';
import { colours, folder, MM, pdf, report, rip } from './bench-rip';

/** Walls in panels: how calm their seams are, how long films are compared, and what memory a long wall takes. */

const HEIGHT_MM = 2600;
const MODE = { dpi: 360 };
/** A long wall is RIPped low and coarsely: bands are as large as ever, and there are enough of them. */
const LOW_MM = 800;
const COARSE = { dpi: 180 };
const FILM: FilmOffer = {
  id: 1,
  machine: 'Petrel 13',
  machineId: 1,
  media: 'Film',
  family: 'cast',
  costPerM2: 9,
  rollWidthMm: 1370,
  sheetMm: null,
  rolls: [],
  mode: MODE
};

const choicesOf = (widthMm: number, over: Partial<Wall> = {}, heightMm = HEIGHT_MM) =>
  DocketChoices.parse({
    widthMm,
    heightMm,
    copies: 1,
    bleedMm: 20,
    conditionId: 1,
    cut: false,
    mayTurn: false,
    intent: 'relative',
    wall: { ...newWall(20), ...over }
  }) as DocketChoices & { wall: Wall };
const docketOf = (widthMm: number, heightMm?: number) => ({
  id: 1,
  name: 'Wall',
  customer: '',
  choices: choicesOf(widthMm, {}, heightMm)
});

/** Detail under seams that look for calm within the usual range, against equal ones, over made pictures of a wall of 9 × 2.6 m. */
function calm(): number {
  let [found, equal] = [0, 0];
  for (let seed = 1; seed <= 12; seed++) {
    const { pixels, width, height } = wallPicture(seed);
    const detail = detailOf(pixels, width, height);
    const choices = choicesOf(9000, { curved: true, columns: { how: 'count', count: 8, widestMm: 1, seams: null } });
    const { columns, rooms } = plannedWall(choices, FILM);
    const { calmMm, curved } = choices.wall;
    const moved = calmSeams(detail, 9000, columns, { rangeMm: calmMm, curved, rooms: rooms.columns, leastMm: 150, corners: [], cornerMm: 0 }); // prettier-ignore
    if (!moved) throw new Error('No seams were found.');
    for (const seam of columns) equal += detailUnder(detail, 9000, seam).mean;
    for (const seam of moved) found += detailUnder(detail, 9000, seam).mean;
  }
  return found / equal;
}

/** Seconds to hold every film against the others for a wall of 60 m. */
function plan(): number {
  const offers = [1, 2, 3].map((id): FilmOffer => ({
    ...FILM,
    id,
    rolls: [760, 1060, 1220, 1370, 1520, 1600].map((widthMm) => ({ widthMm: widthMm + id, lengthMm: 50_000 }))
  }));
  const from = performance.now();
  const lines = compareFilms(docketOf(60_000), offers, []);
  if (!lines.some(({ cannot, panels }) => cannot === '' && panels > 40)) throw new Error('The wall was not divided.');
  return (performance.now() - from) / 1000;
}

/** A wall of so many metres, RIPped: a page at a tenth with much on it. */
async function ripWall(metres: number): Promise<number> {
  const widthMm = metres * 1000;
  const random = seededRandom(20);
  const page = await pdf(`wall-${metres}.pdf`, widthMm / 10, LOW_MM / 10, (doc) => {
    doc.rect(0, 0, (widthMm / 10) * MM, (LOW_MM / 10) * MM).fill([40, 10, 5, 0]);
    for (let i = 0; i < 400; i++)
      doc.circle((random() * widthMm * MM) / 10, (random() * LOW_MM * MM) / 10, random() * 30 * MM).fill([random() * 100, random() * 100, 30, 0]); // prettier-ignore
  });
  const docket = docketOf(widthMm, LOW_MM);
  const laid = toRunPieces(docket, { condition: { ...FILM, mode: COARSE } });
  const stock = { kind: 'roll' as const, width: FILM.rollWidthMm };
  const rule = { ...DEFAULT_RULE, placing: PLACING_RULES[1] };
  const [part] = layOutRun(stock, rule, laid, []).parts;
  const size = { widthMm: widthMm / 10, heightMm: LOW_MM / 10 };
  const pages = new Map([['1', { file: page, page: 0, prepare: wholePage(size), sources: colours.sources }]]);
  const { sources, pieces } = ripPieces(part!.copies, rule, laid, pages, stock);
  const plan: RipPlan = {
    widthMm: stock.width,
    lengthMm: part!.length,
    dpi: { x: COARSE.dpi, y: COARSE.dpi },
    inks: fourInks([6, 13, 21]),
    totalInk: 2.6,
    sources,
    pieces,
    marks: []
  };
  return (await rip(plan)).peakMb;
}

/** The most memory that a RIP of so many metres takes, MB, in a process of its own. */
function peakOf(metres: number): number {
  const { stdout, status } = spawnSync(process.execPath, [fileURLToPath(import.meta.url), 'peak', String(metres)], {
    stdio: ['ignore', 'pipe', 'inherit'],
    encoding: 'utf8'
  });
  if (status !== 0) throw new Error('The wall was not RIPped.');
  return Number(stdout);
}

const benches: Record<string, () => void> = {
  'seam-calm': () => report('seam-calm', calm(), 'ratio'),
  'panel-plan': () => report('panel-plan', plan(), 's'),
  'panel-memory': () => report('panel-memory', peakOf(60) / peakOf(6), 'ratio')
};

const [what = '', figure = ''] = process.argv.slice(2);
if (what === 'peak') {
  process.stdout.write(String(await ripWall(Number(figure))));
} else for (const name of process.argv.slice(2)) benches[name]!();
rmSync(folder, { recursive: true, force: true });
