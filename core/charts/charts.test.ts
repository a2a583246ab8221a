import { describe, expect, it } from 'vitest';
import { PressLoop } from '../../tests/made/press-loop';
import { readCgats, writeCgats } from '../colour/cgats';
import type { Triple } from '../colour/lab';
import { chartFlats, layOutChart, stripName } from './chart-layout';
import { checkReadings } from './check-readings';
import { codeFlats, textFlats } from '../marks/lettering';
import { freshPatches, profilePatches, totals, twoLadders } from './patches';

const media = { widthMm: 1300, marginMm: 10 };
const anything = () => true;

describe('patches', () => {
  it('are as many as asked for, all different, and within the limit', () => {
    const allowed = (inks: readonly number[]) => inks.reduce((sum, v) => sum + v, 0) <= 2.4;
    for (const count of [300, 1300]) {
      const patches = profilePatches(count, allowed);
      expect(patches).toHaveLength(count);
      expect(new Set(patches.map(({ inks }) => inks.join())).size).toBe(count);
      expect(patches.every(({ inks }) => allowed(inks))).toBe(true);
      const fresh = freshPatches(60, allowed, patches);
      expect(fresh).toHaveLength(60);
      expect(fresh.some(({ inks }) => patches.some((patch) => patch.inks.join() === inks.join()))).toBe(false);
    }
  });
});

describe('a chart’s layout', () => {
  it('puts every patch once, apart from each other, on the media and off the headers', () => {
    for (const [count, width] of [
      [84, 1300],
      [1300, 1300],
      [2000, 610],
      [300, 120]
    ] as const) {
      const patches = profilePatches(count, anything);
      const layout = layOutChart(patches, 'P7', { widthMm: width, marginMm: 10 });
      expect(layout.patches).toHaveLength(count);
      const places = new Set(layout.patches.map(({ x, y }) => `${x.toFixed(3)} ${y.toFixed(3)}`));
      expect(places.size).toBe(count);
      for (const { x, y } of layout.patches) {
        expect(x).toBeGreaterThanOrEqual(10);
        expect(x + layout.patchMm).toBeLessThanOrEqual(width - 10 + 1e-9);
        expect(y + layout.patchMm).toBeLessThanOrEqual(layout.lengthMm);
        expect(
          layout.pages.some((page) => x >= page.x && x < page.x + page.width && y >= page.y + 18 && y < page.y + page.height)
        ).toBe(true);
      }
    }
  });

  it('says what width it needs', () => {
    expect(() => layOutChart(profilePatches(200, anything), 'P7', { widthMm: 60, marginMm: 10 })).toThrow('58 mm');
  });

  it('carries lettering and a code of solid black', () => {
    const layout = layOutChart(twoLadders(21), 'L3', media);
    const flats = chartFlats(layout, 'Gloss white film', { text: textFlats, code: codeFlats });
    const marks = flats.filter(({ inks }) => inks.join() === '0,0,0,1');
    expect(marks.length).toBeGreaterThan(100);
    expect(textFlats('Gloss', 3).width).toBeGreaterThan(textFlats('Gl', 3).width);
    // A Data Matrix is square and fills its size.
    const code = codeFlats('L3-1/1', 12);
    expect(Math.max(...code.map(({ x, width }) => x + width))).toBeCloseTo(12, 6);
  });

  it('names strips as a sheet names its columns', () => {
    expect([0, 25, 26, 27, 52].map(stripName)).toEqual(['A', 'Z', 'AA', 'AB', 'BA']);
  });
});

describe('readings that make no sense', () => {
  const loop = new PressLoop('gloss');
  const layout = layOutChart(twoLadders(21), 'L1', media);
  const read = loop.read(layout.patches, (inks) => loop.amounts(inks)).map(({ lab }, i) => ({ ...layout.patches[i]!, lab }));
  const inStrip = (strip: number) => read.filter((patch) => patch.strip === strip);
  const withStrip = (strip: number, labs: Triple[]) =>
    read.map((patch) => (patch.strip === strip ? { ...patch, lab: labs[inStrip(strip).indexOf(patch)]! } : patch));

  it('are not found where there are none', () => {
    expect(checkReadings(read, true)).toEqual([]);
  });
  it('name a strip that was read backwards', () => {
    const findings = checkReadings(
      withStrip(
        1,
        inStrip(1)
          .map(({ lab }) => lab)
          .reverse()
      ),
      true
    );
    expect(findings).toMatchObject([{ kind: 'backwards', strip: 1 }]);
    expect(findings[0]!.text).toContain('Strip B');
  });
  it('name the strip that was read instead', () => {
    const findings = checkReadings(
      withStrip(
        2,
        inStrip(0).map(({ lab }) => lab)
      ),
      true
    );
    expect(findings).toMatchObject([{ kind: 'other strip', strip: 2 }]);
    expect(findings[0]!.text).toContain('looks like strip A');
  });
  it('name the red that is not red', () => {
    const magenta = read.findIndex(({ id }) => id === 'M20');
    const findings = checkReadings(
      read.map((patch, i) => (i === magenta ? { ...patch, lab: [52, -60, 30] as Triple } : patch)),
      true
    );
    expect(findings).toMatchObject([{ kind: 'not its colour', ids: ['M20'] }]);
    expect(findings[0]!.text).toContain('green');
  });
});

describe('CGATS', () => {
  const patches = totals()[0]!.patches.map(({ id, inks }, i) => ({ id, inks, lab: [90 - i, i, -i / 3] as Triple }));
  it('comes back as it was written', () => {
    const back = readCgats(writeCgats({ head: { ORIGINATOR: 'Gullway "Signs"' }, patches }));
    expect(back.head.ORIGINATOR).toBe("Gullway 'Signs'");
    back.patches.forEach((patch, i) => {
      expect(patch.id).toBe(patches[i]!.id);
      patch.inks!.forEach((v, n) => expect(v).toBeCloseTo(patches[i]!.inks[n]!, 4));
      patch.lab.forEach((v, n) => expect(v).toBeCloseTo(patches[i]!.lab[n]!, 3));
    });
  });
  it('is read with columns in any order, comments, old line ends, and XYZ', () => {
    const text =
      'CGATS.17\r# a comment\rBEGIN_DATA_FORMAT\rXYZ_Y SAMPLE_ID XYZ_X\rXYZ_Z EXTRA\rEND_DATA_FORMAT\rBEGIN_DATA\r100 A1 96.42 82.49 "x y"\rEND_DATA\r';
    const { patches: read } = readCgats(text);
    expect(read).toHaveLength(1);
    read[0]!.lab.forEach((v, i) => expect(v).toBeCloseTo([100, 0, 0][i]!, 3));
    expect(read[0]!.inks).toBeNull();
  });
  it('says what is wrong, and where', () => {
    expect(() => readCgats('hello')).toThrow('BEGIN_DATA');
    const bad = 'BEGIN_DATA_FORMAT\nSAMPLE_ID LAB_L LAB_A LAB_B\nEND_DATA_FORMAT\nBEGIN_DATA\n1 50 0 nothing\nEND_DATA';
    expect(() => readCgats(bad)).toThrow('Line 5: LAB_B is “nothing”');
    expect(() => readCgats(bad.replace(' nothing', ''))).toThrow('Line 5 has 3 figures');
    expect(() => readCgats(bad.replace('LAB_B\n', 'LAB_C\n'))).toThrow('neither');
  });
});
