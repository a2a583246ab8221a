import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { darkAndLight, inkCurves, inkTaken, inkTimes, LIGHT_STRENGTH, ownPlane } from './divide';
import { channelsOf, fourInks, InkSet, shiftOf, type Ink } from './ink-set';

const of = (name: string, role: Ink['role'], channel = name): Ink => ({
  name,
  role,
  channel,
  colour: '#336699',
  drops: [6, 13, 21],
  shift: [0, 0]
});

describe('an ink set', () => {
  it('says which channels are composed: those of the profile, then the others once each', () => {
    const inks = [
      ...fourInks([6, 13, 21]),
      of('Light cyan', 'light', 'Cyan'),
      of('White 1', 'white', 'White'),
      of('White 2', 'white', 'White')
    ];
    expect(channelsOf(inks)).toEqual(['Cyan', 'Magenta', 'Yellow', 'Black', 'White']);
    // A machine that has one ink alone is composed all the same.
    expect(channelsOf([of('Black', 'colour')])).toEqual(['Cyan', 'Magenta', 'Yellow', 'Black']);
  });

  it('is checked where it comes from a machine', () => {
    expect(InkSet.safeParse(fourInks([6, 13, 21])).success).toBe(true);
    for (const wrong of [{ role: 'gold' }, { colour: 'blue' }, { drops: [6, 13] }, { drops: [6, 13, -1] }, { name: '' }])
      expect(InkSet.safeParse([{ ...of('Cyan', 'colour'), ...wrong }]).success).toBe(false);
    expect(InkSet.safeParse([]).success).toBe(false);
  });

  it('gives every ink a place of its own in the mask', () => {
    const places = Array.from({ length: 16 }, (_, i) => shiftOf(i));
    for (let i = 0; i < places.length; i++)
      for (let j = 0; j < i; j++) {
        const apart = [0, 1].map((axis) => {
          const d = Math.abs(places[i]![axis]! - places[j]![axis]!);
          return Math.min(d, 1 - d);
        });
        expect(Math.hypot(...apart)).toBeGreaterThan(0.15);
      }
  });
});

describe('a channel divided between a dark and a light ink', () => {
  it('keeps its colour, begins with the light ink, and ends with the dark one', () => {
    fc.assert(
      fc.property(fc.double({ min: 0, max: 1, noNaN: true }), (amount) => {
        const { dark, light } = darkAndLight(amount);
        expect(dark + LIGHT_STRENGTH * light).toBeCloseTo(amount, 9);
        expect(dark).toBeGreaterThanOrEqual(0);
        // It leaves before it floods.
        expect(light).toBeGreaterThanOrEqual(0);
        expect(light).toBeLessThan(0.73);
      })
    );
    expect(darkAndLight(0.1).dark).toBeCloseTo(0, 9);
    expect(darkAndLight(1)).toEqual({ dark: 1, light: 0 });
  });

  it('has no jump in tone or slope, and the dark ink never goes back', () => {
    const steps = Array.from({ length: 1001 }, (_, i) => darkAndLight(i / 1000));
    const slopes = steps.slice(1).map(({ dark, light }, i) => [(dark - steps[i]!.dark) * 1000, (light - steps[i]!.light) * 1000]);
    slopes.forEach(([dark, light], i) => {
      expect(dark!).toBeGreaterThanOrEqual(-1e-9);
      const [before, beforeLight] = slopes[i - 1] ?? [dark, light];
      expect(Math.abs(dark! - before!)).toBeLessThan(0.05);
      expect(Math.abs(light! - beforeLight!)).toBeLessThan(0.1);
    });
  });
});

describe('the curves of inks', () => {
  const bent = Float64Array.from({ length: 256 }, (_, v) => (v / 255) ** 1.5 * 0.9);

  it('are the channel’s own where an ink prints it alone', () => {
    const curves = inkCurves(fourInks([6, 13, 21]), { Cyan: bent });
    expect(curves[0]).toEqual(bent);
    // Nothing was said of it.
    expect(curves[3]![255]).toBe(1);
  });

  it('come to the same colour where a light ink helps', () => {
    const [dark, light] = inkCurves([of('Cyan', 'colour'), of('Light cyan', 'light', 'Cyan')], { Cyan: bent });
    bent.forEach((amount, v) => expect(dark![v]! + LIGHT_STRENGTH * light![v]!).toBeCloseTo(amount, 9));
    expect([dark![0], light![0]]).toEqual([0, 0]);
  });

  it('say what values take of ink: of every ink that prints them, in drops of its own', () => {
    const small = { ...of('Cyan 2', 'colour', 'Cyan'), drops: [3, 6.5, 10.5] as Ink['drops'] };
    const inks = [of('Cyan', 'colour'), of('Light cyan', 'light', 'Cyan'), of('Magenta', 'colour'), of('White', 'white')];
    const [cyan, magenta, yellow] = inkTaken(inks, ['Cyan', 'Magenta', 'Yellow'], [bent, bent, bent], 21);
    const [dark, light] = inkCurves(inks, { Cyan: bent });
    bent.forEach((amount, v) => {
      expect(cyan![v]!).toBeCloseTo(dark![v]! + light![v]!, 9);
      expect(magenta![v]).toBeCloseTo(amount, 9);
    });
    // Pale tones take nearly three times as much.
    expect(cyan![60]! / bent[60]!).toBeGreaterThan(2.5);
    expect(yellow!.every((v) => v === 0)).toBe(true);
    // Two of a kind print the same each, the second in drops of half the size.
    const [two] = inkTaken([of('Cyan', 'colour'), small], ['Cyan'], [bent], 21);
    bent.forEach((amount, v) => expect(two![v]).toBeCloseTo(1.5 * amount, 9));
  });

  it('say how many times the ink they take in the mean: once, where none is light', () => {
    const four = fourInks([6, 13, 21]);
    expect(inkTimes(four)).toBeCloseTo(1, 9);
    expect(inkTimes([...four, of('White', 'white')])).toBeCloseTo(1, 9);
    const light = inkTimes([...four, of('Light cyan', 'light', 'Cyan'), of('Light magenta', 'light', 'Magenta')]);
    expect(light).toBeGreaterThan(1.1);
    expect(light).toBeLessThan(1.5);
    expect(inkTimes([...four, ...four])).toBeCloseTo(2, 9);
    expect(inkTimes([])).toBe(1);
  });

  it('that fall again have a plane of their own, those that rise need none', () => {
    const [dark, light] = inkCurves([of('Cyan', 'colour'), of('Light cyan', 'light', 'Cyan')], {});
    expect(ownPlane(dark!)).toBeUndefined();
    expect(ownPlane(bent)).toBeUndefined();
    const plane = ownPlane(light!)!;
    light!.forEach((share, v) => expect(Math.abs(plane[v]! / 255 - share)).toBeLessThan(0.002));
    expect(plane[255]).toBe(0);
  });

  it('are the same for two of a kind, so that both wear evenly', () => {
    const [one, two] = inkCurves([of('White 1', 'white', 'White'), of('White 2', 'white', 'White')], {});
    expect(one).toEqual(two);
    expect(one![255]).toBe(1);
  });

  it('leave a light ink that has no dark one to itself', () => {
    expect(inkCurves([of('Light black', 'light', 'Grey')], {})[0]![255]).toBe(1);
  });
});
