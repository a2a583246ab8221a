import { describe, expect, it } from 'vitest';
import { newWall, type Wall } from '$core/panels/wall';
import { compareFilms, filmNow, onFilm, type FilmOffer } from './film-widths';
import { DocketChoices } from './docket-choices';
import { toRunPieces } from './run-pieces';
import { laidPanels, plannedWall, rollsOf, wallLook } from './panels';

const FILM: FilmOffer = {
  id: 1,
  machine: 'Petrel 13',
  machineId: 4,
  media: 'Film',
  family: 'cast',
  costPerM2: 9,
  rollWidthMm: 1370,
  sheetMm: null,
  rolls: [
    { widthMm: 1370, lengthMm: 20_000 },
    { widthMm: 1370.5, lengthMm: 5000 },
    { widthMm: 760, lengthMm: 50_000 }
  ],
  mode: { dpi: 360 }
};
const choices = (over: Partial<Wall> = {}) =>
  DocketChoices.parse({
    widthMm: 9000,
    heightMm: 2600,
    copies: 2,
    bleedMm: 20,
    conditionId: 1,
    cut: false,
    mayTurn: true,
    intent: 'relative',
    wall: { ...newWall(20), ...over }
  }) as DocketChoices & { wall: Wall };
const docket = (over: Partial<Wall> = {}) => ({ id: 7, name: 'Wall', customer: 'Ferry', choices: choices(over) });
const LOADED = [{ id: 4, printer: { media: { name: 'Film', widthMm: 1370, lengthMm: 9000 } } }];

describe('films compared', () => {
  const lines = compareFilms(docket(), [FILM], LOADED);

  it('are every width of each media, upright and lying, the cheapest first and what cannot be taken last', () => {
    expect(lines).toHaveLength(6);
    const costs = lines.filter(({ cannot }) => cannot === '').map(({ cost }) => cost);
    expect(costs).toEqual([...costs].sort((p, q) => p - q));
    for (const line of lines) {
      expect(line.areaM2).toBeCloseTo((line.lengthMm * line.widthMm) / 1e6, 6);
      expect(line.wasteM2).toBeCloseTo(line.areaM2 - 23.4, 6);
      expect(line.cost).toBeCloseTo(line.areaM2 * 9, 6);
      expect(line.panels).toBe(plannedWall({ ...choices(), wall: onFilm(choices().wall, line.film, line.widthMm) }, FILM).panels.length); // prettier-ignore
    }
    expect(lines.find(({ widthMm, film }) => widthMm === 1370 && film === 'upright')!.seamsMm).toBe(6 * 2600);
  });

  it('say what is short of what lies in stock and on the machine', () => {
    expect(rollsOf(FILM, LOADED, 1370)).toEqual({ inAllMm: 34_000, longestMm: 20_000 });
    expect(rollsOf(FILM, [], 1220)).toBeUndefined();
    const little = compareFilms(docket(), [{ ...FILM, rolls: [{ widthMm: 1370, lengthMm: 4000 }] }], []);
    const upright = little.find(({ film, widthMm }) => film === 'upright' && widthMm === 1370)!;
    expect(upright.shortMm).toBeCloseTo(upright.lengthMm - 4000, 6);
    expect(upright.shortMm).toBeGreaterThan(10_000);
    expect(lines.every(({ shortMm, widthMm }) => shortMm === 0 || widthMm !== 1370)).toBe(true);
  });

  it('are divided anew on each: seams by hand are of the film that they were put on', () => {
    const put = newWall().columns;
    const wall = { ...newWall(), columns: { ...put, seams: [{ at: 4000, course: [] }] } };
    expect(onFilm(wall, 'upright', 760).columns.seams).toBeNull();
    expect(onFilm(wall, 'lying', null).rows.how).toBe(put.how);
    expect(onFilm(wall, 'lying', null).columns.how).toBe('whole');
    expect(compareFilms({ ...docket(), choices: { ...choices(), wall: null } }, [FILM], [])).toEqual([]);
  });
});

describe('the film that a wall is on', () => {
  it('is told with the seams where they were put: one more panel takes more of it', () => {
    const now = filmNow(docket(), FILM, LOADED);
    expect(now).toEqual(
      compareFilms(docket(), [FILM], LOADED).find(({ widthMm, film }) => widthMm === 1370 && film === 'upright')
    );
    const places = [900, 1800, 2700, 3600, 4500, 5400, 6300, 7200, 8100];
    const columns = { ...newWall().columns, seams: places.map((at) => ({ at, course: [] })) };
    const more = filmNow(docket({ columns }), FILM, LOADED);
    expect(more.panels).toBe(10);
    expect(more.lengthMm).toBeGreaterThan(now.lengthMm * 1.3);
    const wide = filmNow(docket({ columns: { ...columns, seams: [{ at: 4500, course: [] }] } }), FILM, LOADED);
    expect(wide.cannot).toBe('A panel is wider than this film.');
  });
});

describe('a wall’s panels in a run', () => {
  it('are pieces in the order in which they are printed, each with its number, in as many copies as the wall', () => {
    const pieces = toRunPieces(docket(), { condition: FILM });
    expect(pieces.map(({ piece }) => piece)).toEqual([6, 5, 4, 3, 2, 1, 0]);
    expect(pieces.map(({ panel }) => panel!.number)).toEqual([7, 6, 5, 4, 3, 2, 1]);
    expect(pieces.every(({ copies, mayTurn }) => copies === 2 && !mayTurn)).toBe(true);
    expect(pieces.at(-1)!.id).toBe('7');
    expect(pieces[0]!.id).toBe('7/6');
  });

  it('are only those that the run has, and as many of each', () => {
    const pieces = toRunPieces(docket(), { condition: FILM, pieces: [[2, 1], [5, 3]] }); // prettier-ignore
    expect(pieces.map(({ piece, copies }) => [piece, copies])).toEqual([
      [5, 3],
      [2, 1]
    ]);
  });

  it('are computed once, and turned about every second one where that is asked for', () => {
    expect(laidPanels(choices(), FILM, 'x')).toBe(laidPanels(choices(), FILM, 'x'));
    const turns = (over: Partial<Wall>) => laidPanels(choices(over), FILM, 'x').map(({ turn }) => turn);
    expect(turns({ alternate: true })).toEqual([0, 180, 0, 180, 0, 180, 0]);
    expect(new Set(turns({ film: 'lying', columns: choices().wall.rows, rows: choices().wall.columns }))).toEqual(new Set([90]));
  });

  it('are looked at with what there is of the film', () => {
    const look = wallLook(choices(), FILM, LOADED)!;
    expect(look.stock).toEqual({ inAllMm: 34_000, longestMm: 20_000 });
    expect(look.neededMm).toBeCloseTo(7 * (2640 + 22), -1);
    expect(wallLook({ ...choices(), wall: null }, FILM, [])).toBeUndefined();
    expect(wallLook(choices(), undefined, [])!.stock).toBeUndefined();
  });
});
