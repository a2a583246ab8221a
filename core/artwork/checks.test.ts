import { describe, expect, it } from 'vitest';
import { checkDocket, effectiveResolution, ppiAtDistance } from './checks';
import { isCutName, type PageFacts } from './facts';

const page = (over: Partial<PageFacts> = {}): PageFacts => ({
  widthMm: 100,
  heightMm: 50,
  boxes: {},
  bleedMm: 3,
  images: [],
  colourSpaces: [],
  spots: [],
  cutPaths: [],
  objects: 1,
  ...over
});
const docket = { widthMm: 100, heightMm: 50, bleedMm: 0, cut: false, mayTurn: false };
const level = (checks: ReturnType<typeof checkDocket>, id: string) => checks.find((check) => check.id === id)?.level;

describe('checks of a docket', () => {
  it('stops what is wider than the roll, with the size that fits', () => {
    const wide = checkDocket(page(), { ...docket, widthMm: 2000, heightMm: 1400 }, [], 1280);
    expect(wide[0]).toMatchObject({ id: 'width', level: 'stop' });
    const { mend } = wide[0]!;
    expect(level(checkDocket(page(), { ...docket, ...mend }, [], 1280), 'width')).toBe('fine');
    expect(mend?.widthMm).toBeGreaterThan(1279);
    // Turned a quarter it would fit.
    expect(level(checkDocket(page(), { ...docket, widthMm: 2000, heightMm: 1000, mayTurn: true }, [], 1280), 'width')).toBe(
      'fine'
    );
  });

  it('reckons the resolution at the size that prints', () => {
    const picture = page({
      images: [{ widthPx: 800, heightPx: 400, ppi: 203.2, colourSpace: 'RGB', place: { x: 0, y: 0, width: 100, height: 50 } }]
    });
    expect(effectiveResolution(picture, 200, 100)).toBeCloseTo(101.6, 6);
    expect(level(checkDocket(picture, { ...docket, widthMm: 200, heightMm: 100 }, [], 1280), 'resolution')).toBe('fine');
    expect(level(checkDocket(picture, { ...docket, widthMm: 300, heightMm: 150 }, [], 1280), 'resolution')).toBe('look');
    expect(ppiAtDistance(1000)).toBeCloseTo(87.3, 1);
  });

  it('looks at stretching, fonts, bleed and a cut line left out', () => {
    const cut = page({ cutPaths: [{ spot: 'CutContour', path: [] }] });
    expect(level(checkDocket(page(), { ...docket, heightMm: 60 }, [], 1280), 'stretch')).toBe('look');
    expect(level(checkDocket(page(), docket, ['Somefont'], 1280), 'fonts')).toBe('look');
    expect(level(checkDocket(cut, { ...docket, cut: true }, [], 1280), 'bleed')).toBe('look');
    expect(level(checkDocket(cut, { ...docket, cut: true, bleedMm: 2 }, [], 1280), 'bleed')).toBeUndefined();
    expect(level(checkDocket(cut, docket, [], 1280), 'cut')).toBe('look');
  });
});

describe('names of cut lines', () => {
  it('forgive case, spaces and hyphens', () => {
    for (const name of ['cutcontour', 'Cut Contour', 'CUT-CONTOUR', 'cut_contour'])
      expect(isCutName(name, ['CutContour'])).toBe(true);
    expect(isCutName('Cut Contours', ['CutContour'])).toBe(false);
  });
});
