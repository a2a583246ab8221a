import fc from 'fast-check';
import { beforeAll, describe, expect, it } from 'vitest';
import { rawStream } from '../../../tests/made/pdf';
import { madePress } from '../../../tests/made/press';
import { ALL_OVER, drawnOn, smallPage } from '../../../tests/made/small-page';
import { deltaE00, labOfRgb, type Triple } from '../../colour/lab';
import { openEngine } from '../../colour/lcms';
import { ColourMaker, type InkedColour } from '../../colour/named-inks';
import { pressOfProfile } from '../../colour/press-of-profile';
import { toneBytes, toneTables } from '../../colour/tone';
import { tonePixels, toneTablesOf } from '../toned';
import type { Inks } from '../../colour/separation';
import type { NamedPlaces } from '../preparation';
import type { InkSpace } from './resolver';

/** Named colours of the shop on small made pages: in a condition's inks and on the screen. */

const { screen, inks: plain } = madePress();
let inks: InkSpace;
let maker: ColourMaker;
beforeAll(async () => {
  maker = new ColourMaker(pressOfProfile(plain.profile!, { total: 2.6 }, await openEngine()));
  inks = { ...plain, tintsOf: (colour) => maker.tintsOf(colour) };
});

const FERRY: InkedColour = { id: 1, lab: [45, 55, 25] };
const DAWN: InkedColour = { id: 2, lab: [80, 5, 40] };
const OWN: InkedColour = { id: 3, lab: [45, 55, 25], own: [0.2, 0.4, 0.6, 0] };
const named = (spots: Record<string, InkedColour>, flats: NamedPlaces['flats'] = []) => ({ named: { spots, flats } });

/** What the file shows it as is a green: none of it is to be seen. */
const green = (name: string) =>
  `[/Separation /${name} /DeviceCMYK <</FunctionType 2/Domain[0 1]/C0[0 0 0 0]/C1[0.8 0 1 0]/N 1>>]`;
const SPACES = `/ColorSpace<</F ${green('Ferry')}/D ${green('Dawn')}/B [/DeviceN [/Ferry /Dawn] /DeviceCMYK 5 0 R]/U [/DeviceN [/Ferry /Unknown] /DeviceCMYK 5 0 R]>>`;
const ADDS = [rawStream('/FunctionType 4/Domain[0 1 0 1]/Range[0 1 0 1 0 1 0 1]', '{0 exch 0}')];
const at = (content: string, over = named({ Ferry: FERRY, Dawn: DAWN }), target: InkSpace | typeof screen = inks) =>
  drawnOn(target, smallPage(content, SPACES, ADDS), over)();
const bytes = (parts: readonly number[]) => parts.map((v) => Math.round(v * 255));
const near = (p: readonly number[], q: readonly number[], within = 1) =>
  p.forEach((v, i) => expect(Math.abs(v - q[i]!)).toBeLessThanOrEqual(within));

describe('a spot colour that the shop has by name', () => {
  it('is the inks that make its L*a*b* on the condition, whatever the file shows it as', () => {
    const made = at(`/F cs 1 scn ${ALL_OVER}`);
    expect(made).toEqual(bytes(maker.make(FERRY.lab).inks));
    expect(deltaE00(maker.look(made.map((v) => v / 255) as Inks), FERRY.lab)).toBeLessThan(0.4);
    expect(at(`/F cs 1 scn ${ALL_OVER}`, named({}))).not.toEqual(made);
  });

  it('has the inks of its tints between', () => {
    const tints = maker.tintsOf(FERRY);
    for (const step of [4, 16, 27]) near(at(`/F cs ${step / 32} scn ${ALL_OVER}`), bytes(tints[step]!));
    near(at(`/F cs ${16.5 / 32} scn ${ALL_OVER}`), bytes(tints[16]!.map((v, k) => (v + tints[17]![k]!) / 2)));
  });

  it('has inks of its own where somebody measured them', () => {
    expect(at(`/F cs 1 scn ${ALL_OVER}`, named({ Ferry: OWN }))).toEqual(bytes(OWN.own!));
  });

  it('is what it is in lettering, lines and areas alike', () => {
    const area = at(`/F cs 1 scn ${ALL_OVER}`);
    expect(at(`/F CS 1 SCN 30 w 0 10 m 20 10 l S`)).toEqual(area);
  });

  it('is drawn so that it comes out right after a tone, as far as the tone reaches', () => {
    const lift = toneTables([
      {
        all: {
          points: [
            [0, 0],
            [0.5, 0.65],
            [1, 1]
          ],
          mayFall: false
        }
      }
    ]);
    const tone = lift.map((table) => [...toneBytes(table)]);
    const wanted = bytes(maker.make(FERRY.lab).inks);
    const drawn = at(`/F cs 1 scn ${ALL_OVER}`, { ...named({ Ferry: FERRY }), tone } as never);
    const printed = Uint8Array.from(drawn);
    tonePixels(printed, toneTablesOf(tone));
    near([...printed], wanted, 2);
    expect(drawn).not.toEqual(wanted);
  });

  it('prints nothing where it is left out', () => {
    const made = at(`/F cs 1 scn ${ALL_OVER}`, {
      ...named({ Ferry: FERRY }),
      leftOut: { spots: ['Ferry'], layers: [] }
    } as never);
    expect(made).toEqual([0, 0, 0, 0]);
  });

  it('is seen as its L*a*b* on the screen', () => {
    const [r, g, b] = at(`/D cs 1 scn ${ALL_OVER}`, undefined, screen) as Triple;
    expect(deltaE00(labOfRgb(r, g, b), DAWN.lab)).toBeLessThan(1.5);
    near(at(`/D cs 0 scn ${ALL_OVER}`, undefined, screen), [255, 255, 255]);
  });

  it('lies over another as inks do, and over what the file has beside it', () => {
    const ferry = maker.tintsOf(FERRY)[32]!;
    const dawn = maker.tintsOf(DAWN)[16]!;
    near(at(`/B cs 1 0.5 scn ${ALL_OVER}`), bytes(ferry.map((v, k) => 1 - (1 - v) * (1 - dawn[k]!))));
    const unknown = at(`/U cs 0 1 scn ${ALL_OVER}`);
    const both = at(`/U cs 1 1 scn ${ALL_OVER}`);
    near(both, bytes(ferry.map((v, k) => 1 - (1 - v) * (1 - unknown[k]! / 255))));
    expect(unknown.some((v) => v > 20)).toBe(true);
  });

  it('covers what is under it, and lets it through where it overprints', () => {
    const under = `0.5 0 0 0 k ${ALL_OVER}`;
    expect(at(`${under} /F cs 1 scn ${ALL_OVER}`)).toEqual(bytes(maker.make(FERRY.lab).inks));
    const over = drawnOn(
      inks,
      smallPage(`${under} /G gs /F cs 1 scn ${ALL_OVER}`, `${SPACES}/ExtGState<</G<</op true/OP true/OPM 1>>>>`, ADDS),
      named({ Ferry: FERRY })
    )();
    expect(over[0]!).toBeGreaterThan(bytes(maker.make(FERRY.lab).inks)[0]! + 20);
  });
});

describe('pictures and gradients of named colours', () => {
  const picture = (space: string, components: number, samples: number[]) =>
    rawStream(
      `/Type/XObject/Subtype/Image/Width ${samples.length / components}/Height 1/BitsPerComponent 8/ColorSpace ${space}/Filter/ASCIIHexDecode`,
      `${Buffer.from(samples).toString('hex')}>`
    );
  const drawPicture = '20 0 0 20 0 0 cm /P Do';

  it('have the inks of each pixel’s tint', () => {
    const page = smallPage(drawPicture, '/XObject<</P 6 0 R>>', [...ADDS, picture(green('Ferry'), 1, [0, 64, 128, 255])]);
    const read = drawnOn(inks, page, named({ Ferry: FERRY }));
    [0, 64, 128, 255].forEach((v, i) => {
      const x = (v / 255) * 32;
      const [low, high] = [maker.tintsOf(FERRY)[Math.floor(x)]!, maker.tintsOf(FERRY)[Math.ceil(x)]!];
      near(read(2 + 5 * i), bytes(low.map((ink, k) => ink + (x - Math.floor(x)) * (high[k]! - ink))));
    });
  });

  it('of two colours are one over the other, as areas are', () => {
    const space = '[/DeviceN [/Ferry /Dawn] /DeviceCMYK 5 0 R]';
    const page = smallPage(drawPicture, '/XObject<</P 6 0 R>>', [...ADDS, picture(space, 2, [255, 128, 0, 255])]);
    const read = drawnOn(inks, page, named({ Ferry: FERRY, Dawn: DAWN }));
    near(read(4), at(`/B cs 1 ${128 / 255} scn ${ALL_OVER}`), 2);
    near(read(15), at(`/B cs 0 1 scn ${ALL_OVER}`), 2);
  });

  it('go through the tints along a gradient', () => {
    const shading = `/Shading<</S<</ShadingType 2/ColorSpace ${green('Ferry')}/Coords[0 0 20 0]/Function<</FunctionType 2/Domain[0 1]/C0[0]/C1[1]/N 1>>/Extend[true true]>>>>`;
    const read = drawnOn(inks, smallPage('/S sh', shading), named({ Ferry: FERRY }));
    for (const x of [3, 10, 16]) {
      const want = maker.tintsOf(FERRY)[Math.round(((x + 0.5) / 20) * 32)]!;
      near(read(x), bytes(want), 5);
    }
  });
});

describe('flat colours that print in a named colour', () => {
  const flats = (within: number): NamedPlaces['flats'] => [{ lab: labOfRgb(200, 30, 30), within, to: FERRY }];
  it('are those within the tolerance, and no others', () => {
    const ferry = bytes(maker.make(FERRY.lab).inks);
    expect(at(`${200 / 255} ${30 / 255} ${30 / 255} rg ${ALL_OVER}`, named({}, flats(2)))).toEqual(ferry);
    expect(at(`${190 / 255} ${30 / 255} ${40 / 255} rg ${ALL_OVER}`, named({}, flats(2)))).not.toEqual(ferry);
    expect(at(`${190 / 255} ${30 / 255} ${40 / 255} rg ${ALL_OVER}`, named({}, flats(9)))).toEqual(ferry);
    expect(at(`0 0 1 rg ${ALL_OVER}`, named({}, flats(9)))).toEqual(at(`0 0 1 rg ${ALL_OVER}`, named({})));
  });
  it('leave spot colours alone', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 16 }), (step) => {
        const plainTint = at(`/D cs ${step / 16} scn ${ALL_OVER}`, named({}));
        expect(at(`/D cs ${step / 16} scn ${ALL_OVER}`, named({}, flats(20)))).toEqual(plainTint);
      }),
      { numRuns: 6 }
    );
  });
});
