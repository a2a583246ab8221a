import { describe, expect, it } from 'vitest';
import { madePress } from '../../../tests/made/press';
import { rawStream } from '../../../tests/made/pdf';
import { ALL_OVER, drawnOn, SIDE, smallPage } from '../../../tests/made/small-page';
import * as mupdf from '../../interpreter/interpreter';
import type { Preparation } from '../preparation';
import type { ColourTarget, InkSpace } from './resolver';
import { wideRgbProfile, withIntent } from '../../colour/icc-write';

const { screen, inks } = madePress();
const page = smallPage;
const drawn = (bytes: Buffer, over: Partial<Preparation> = {}, target: InkSpace | ColourTarget = inks) =>
  drawnOn(target, bytes, over);

const inksOf = (content: string, resources?: string, objects?: string[], over?: Partial<Preparation>) =>
  drawn(page(content, resources, objects), over)();
const outOf = (...spots: string[]) => ({ leftOut: { spots, layers: [] } });
const tint = (n: number, code: string) => rawStream(`/FunctionType 4/Domain[${'0 1 '.repeat(n)}]/Range[0 1 0 1 0 1 0 1]`, code);
/** The full inks of a spot colour in CMYK, as a function of one figure. */
const solid = (cmyk: string) => `<</FunctionType 2/Domain[0 1]/C0[0 0 0 0]/C1[${cmyk}]/N 1>>`;

describe('inks by name', () => {
  it.each([
    ['Cyan', '0.5 0 0 0'],
    ['Magenta', '0 0.5 0 0'],
    ['Yellow', '0 0 0.5 0'],
    ['Black', '0 0 0 0.5']
  ])('%s as Separation is what it is as CMYK', (name, k) => {
    const space = `/ColorSpace<</S [/Separation /${name} /DeviceCMYK ${solid('1 1 1 1')}]>>`;
    const made = inksOf(`/S cs 0.5 scn ${ALL_OVER}`, space);
    expect(made).toEqual(inksOf(`${k} k ${ALL_OVER}`));
    expect(made.some((v) => v > 60)).toBe(true);
  });

  it('DeviceN of process inks is what it is as CMYK', () => {
    const space = '/ColorSpace<</S [/DeviceN [/Magenta /Black /Cyan] /DeviceCMYK 5 0 R]>>';
    expect(inksOf(`/S cs 0.6 0.1 0.3 scn ${ALL_OVER}`, space, [tint(3, '{pop pop pop 1 0 0 0}')])).toEqual(
      inksOf(`0.3 0.6 0 0.1 k ${ALL_OVER}`)
    );
  });

  it('All is the condition’s own neutral black, within its limit of ink', () => {
    const space = `/ColorSpace<</S [/Separation /All /DeviceCMYK ${solid('1 1 1 1')}]>>`;
    const made = inksOf(`/S cs 1 scn ${ALL_OVER}`, space);
    expect(made.reduce((sum, v) => sum + v, 0)).toBeLessThanOrEqual(2.6 * 255 + 4);
    expect(Math.min(...made.slice(0, 3))).toBeGreaterThan(40);
    expect(made[3]).toBeGreaterThan(100);
  });

  it('None lays nothing and leaves what lies beneath', () => {
    const space = `/ColorSpace<</S [/Separation /None /DeviceCMYK ${solid('1 1 1 1')}]/T [/DeviceN [/None /None] /DeviceCMYK 5 0 R]>>`;
    const under = '0 0 0 0.4 k ' + ALL_OVER;
    expect(inksOf(`${under} /S cs 1 scn ${ALL_OVER} /T cs 1 1 scn ${ALL_OVER}`, space, [tint(2, '{pop pop 1 1 1 1}')])).toEqual(
      inksOf(under)
    );
  });

  it.each([
    [2, '0.5 1', '{pop 0 0 3 2 roll 0 exch}'],
    [5, '0.5 0 0 0 1', '{pop pop pop pop 0 0 3 2 roll 0 exch}'],
    [8, '0.5 0 0 0 0 0 0 1', '{pop pop pop pop pop pop pop 0 0 3 2 roll 0 exch}']
  ])('a colour of %i inks stops nothing', (n, color, code) => {
    const names = ['Rust', ...Array.from({ length: n - 1 }, (_, i) => `Other${i}`)].map((name) => `/${name}`).join(' ');
    const space = `/ColorSpace<</S [/DeviceN [${names}] /DeviceCMYK 5 0 R]>>`;
    const made = inksOf(`/S cs ${color} scn ${ALL_OVER}`, space, [tint(n, code)]);
    expect(made.reduce((sum, v) => sum + v, 0)).toBeGreaterThan(30);
  });

  it('what is left out of a colour has no part in it, and the rest prints as it would alone', () => {
    const space = '/ColorSpace<</S [/DeviceN [/Black /CutContour] /DeviceCMYK 5 0 R]>>';
    const content = `/S cs 0.7 1 scn ${ALL_OVER}`;
    // As the file shows it the line would be magenta.
    const shown = [tint(2, '{exch 0 3 1 roll 0 exch}')];
    expect(inksOf(content, space, shown, outOf('CutContour'))).toEqual(inksOf(`0 0 0 0.7 k ${ALL_OVER}`));
    expect(inksOf(content, space, shown)[1]).toBeGreaterThan(150);
    expect(inksOf(`0 0 1 0 k ${ALL_OVER} ${content}`, space, shown, outOf('CutContour', 'Black'))).toEqual(
      inksOf(`0 0 1 0 k ${ALL_OVER}`)
    );
  });

  it('a spot colour keeps its own part where another is left out', () => {
    const space = '/ColorSpace<</S [/DeviceN [/Rust /Cut] /DeviceCMYK 5 0 R]/R [/Separation /Rust /DeviceCMYK 6 0 R]>>';
    const functions = [tint(2, '{exch dup 0.2 mul exch 0.9 mul 3 2 roll 0}'), tint(1, '{dup 0.2 mul exch 0.9 mul 0 0}')];
    const made = inksOf(`/S cs 1 1 scn ${ALL_OVER}`, space, functions, outOf('Cut'));
    const alone = inksOf(`/R cs 1 scn ${ALL_OVER}`, space, functions);
    made.forEach((v, i) => expect(Math.abs(v - alone[i]!)).toBeLessThanOrEqual(2));
  });
});

describe('groups', () => {
  const group = (space: string, isolated: boolean) =>
    rawStream(
      `/Type/XObject/Subtype/Form/BBox[0 0 ${SIDE} ${SIDE}]/Group<</S/Transparency/CS/${space}/I ${isolated}>>/Resources<<>>`,
      `0 0 0 1 k ${ALL_OVER}`
    );
  it.each([
    ['DeviceCMYK', true],
    ['DeviceCMYK', false],
    ['DeviceRGB', true],
    ['DeviceRGB', false],
    ['DeviceGray', true]
  ])('black alone stays that in a group that mixes in %s, isolated: %s', (space, isolated) => {
    expect(inksOf('/G gs /F Do', '/XObject<</F 5 0 R>>/ExtGState<</G<</BM/Multiply>>>>', [group(space, isolated)])).toEqual([
      0, 0, 0, 255
    ]);
  });

  it('keeps the greys of a soft mask what they are: opacities', () => {
    const mask = rawStream(
      `/Type/XObject/Subtype/Form/BBox[0 0 ${SIDE} ${SIDE}]/Group<</S/Transparency/CS/DeviceGray>>/Resources<<>>`,
      `0.5 g ${ALL_OVER}`
    );
    const [, , , k] = inksOf(`/G gs 0 0 0 1 k ${ALL_OVER}`, '/ExtGState<</G<</SMask<</S/Luminosity/G 5 0 R>>>>>>', [mask]);
    expect(Math.abs(k! - 128)).toBeLessThanOrEqual(2);
  });
});

describe('gradients', () => {
  const axial = (space: string, made: string) =>
    `/Shading<</A <</ShadingType 2/ColorSpace ${space}/Coords[0 0 ${SIDE} 0]/Function ${made}/Extend[true true]>>>>`;
  const ramp = (n: number) => `<</FunctionType 2/Domain[0 1]/C0[${'0 '.repeat(n)}]/C1[${'1 '.repeat(n)}]/N 1>>`;

  it('in an ink that is left out paint nothing, alone and as patterns', () => {
    const cut = `[/Separation /Cut /DeviceCMYK ${solid('0 1 0 0')}]`;
    const under = `0.3 0 0 0 k ${ALL_OVER}`;
    expect(inksOf(`${under} /A sh`, axial(cut, ramp(1)), [], outOf('Cut'))).toEqual(inksOf(under));
    expect(inksOf(`${under} /A sh`, axial(cut, ramp(1)))).not.toEqual(inksOf(under));
    const pattern = `/Pattern<</P <</PatternType 2/Shading <</ShadingType 2/ColorSpace ${cut}/Coords[0 0 60 0]/Function ${ramp(1)}>>>>>>`;
    expect(inksOf(`${under} /Pattern cs /P scn ${ALL_OVER}`, pattern, [], outOf('Cut'))).toEqual(inksOf(under));
  });

  it('of several inks keep what prints of them', () => {
    const two = '[/DeviceN [/Black /Cut] /DeviceCMYK 5 0 R]';
    const at = drawn(page('/A sh', axial(two, ramp(2)), [tint(2, '{exch 0 3 1 roll 0 exch}')]), outOf('Cut'));
    for (const x of [2, 10, 18]) {
      const [c, m, y, k] = at(x);
      expect([c, m, y]).toEqual([0, 0, 0]);
      // Half a pixel.
      expect(Math.abs(k! - ((x + 0.5) / SIDE) * 255)).toBeLessThanOrEqual(7);
    }
  });

  it('in a spot colour follow its tint, which need not be straight', () => {
    const at = drawn(
      page('/A sh', axial('[/Separation /Rust /DeviceCMYK 5 0 R]', ramp(1)), [tint(1, '{1 exch sub dup mul 0 0 0 4 3 roll}')])
    );
    for (const x of [2, 10, 18]) {
      const t = (x + 0.5) / SIDE;
      const flat = inksOf(`/S cs ${t} scn ${ALL_OVER}`, '/ColorSpace<</S [/Separation /Rust /DeviceCMYK 5 0 R]>>', [
        tint(1, '{1 exch sub dup mul 0 0 0 4 3 roll}')
      ]);
      at(x).forEach((v, i) => expect(Math.abs(v - flat[i]!)).toBeLessThanOrEqual(14));
    }
  });

  it.each([
    ['grey', '/DeviceGray', ramp(1), false],
    ['black of CMYK', '/DeviceCMYK', '<</FunctionType 2/Domain[0 1]/C0[0 0 0 0]/C1[0 0 0 1]/N 1>>', true]
  ])('of %s are in all inks, or in black alone by choice', (_name, space, made, darker) => {
    const bytes = page('/A sh', axial(space, made));
    if (!darker)
      expect(
        drawn(bytes)(10)
          .slice(0, 3)
          .some((v) => v > 20)
      ).toBe(true);
    const alone = drawn(bytes, { blackPictures: true });
    const expected = (x: number) => ((x + 0.5) / SIDE) * 255;
    for (const x of [3, 10, 17]) {
      const [c, m, y, k] = alone(x);
      expect([c, m, y]).toEqual([0, 0, 0]);
      expect(Math.abs(k! - (darker ? expected(x) : 255 - expected(x)))).toBeLessThanOrEqual(7);
    }
  });
});

describe('pictures', () => {
  const picture = (space: string, bytes: number[], n: number) =>
    rawStream(
      `/Type/XObject/Subtype/Image/Width ${bytes.length / n}/Height 1/BitsPerComponent 8/ColorSpace ${space}`,
      String.fromCharCode(...bytes)
    );
  const over = `q ${SIDE} 0 0 ${SIDE} 0 0 cm /P Do Q`;

  it('of inks by name are what the same inks are as CMYK', () => {
    const made = inksOf(over, '/XObject<</P 5 0 R>>', [
      picture('[/DeviceN [/Black /Cut] /DeviceCMYK 6 0 R]', [128, 255], 2),
      tint(2, '{exch 0 3 1 roll 0 exch}')
    ]);
    expect(made[1]).toBeGreaterThan(100);
    const without = drawn(
      page(over, '/XObject<</P 5 0 R>>', [
        picture('[/DeviceN [/Black /Cut] /DeviceCMYK 6 0 R]', [128, 255], 2),
        tint(2, '{exch 0 3 1 roll 0 exch}')
      ]),
      outOf('Cut')
    )();
    expect(without).toEqual([0, 0, 0, 128]);
  });

  it('of greys are in all inks, or in black alone by choice, whatever they are made of', () => {
    for (const [space, bytes, n] of [
      ['/DeviceGray', [100], 1],
      ['/DeviceRGB', [100, 101, 99], 3],
      ['/DeviceCMYK', [0, 0, 0, 155], 4]
    ] as const) {
      const bytesOf = page(over, '/XObject<</P 5 0 R>>', [picture(space, [...bytes], n)]);
      if (n < 4) expect(drawn(bytesOf)().filter((v) => v > 8).length).toBeGreaterThan(2);
      expect(drawn(bytesOf, { blackPictures: true })().slice(0, 3)).toEqual([0, 0, 0]);
      expect(drawn(bytesOf, { blackPictures: true })()[3]).toBeGreaterThan(140);
    }
    const colourful = page(over, '/XObject<</P 5 0 R>>', [picture('/DeviceRGB', [200, 30, 30], 3)]);
    expect(drawn(colourful, { blackPictures: true })()).toEqual(drawn(colourful)());
  });

  it('in the content are read with the same profiles as others', () => {
    const inline = `q ${SIDE} 0 0 ${SIDE} 0 0 cm BI /W 1 /H 1 /BPC 8 /CS /RGB ID \xc8\x40\x20 EI Q`;
    expect(inksOf(inline)).toEqual(inksOf(over, '/XObject<</P 5 0 R>>', [picture('/DeviceRGB', [200, 64, 32], 3)]));
  });
});

describe('overprint', () => {
  const states = (mode: number) => `/ExtGState<</O <</op true/OP true/OPM ${mode}>>/N <</op false/OP false>>>>`;
  const under = `0.6 0.2 0 0.8 k ${ALL_OVER}`;

  it('leaves the inks that an object does not name', () => {
    const plain = inksOf(under);
    const [c, m, y] = inksOf(`${under} /O gs 0 0 0 0.3 k ${ALL_OVER}`, states(1));
    expect([c, m, y]).toEqual(plain.slice(0, 3));
    expect(inksOf(`${under} /O gs 0 0 0 0.3 k ${ALL_OVER}`, states(1))[3]).toBe(inksOf(`0 0 0 0.3 k ${ALL_OVER}`)[3]);
    // Without the mode a zero is a zero.
    expect(inksOf(`${under} /O gs 0 0 0 0.3 k ${ALL_OVER}`, states(0))).toEqual(inksOf(`0 0 0 0.3 k ${ALL_OVER}`));
    // White by zeros alone is nothing at all then.
    expect(inksOf(`${under} /O gs 0 0 0 0 k ${ALL_OVER}`, states(1))).toEqual(plain);
    // And the docket can switch it off.
    expect(inksOf(`${under} /O gs 0 0 0 0.3 k ${ALL_OVER}`, states(1), [], { overprint: false })).toEqual(
      inksOf(`0 0 0 0.3 k ${ALL_OVER}`)
    );
  });

  it('holds for inks by name in either mode, and mixes spot colours with what is beneath', () => {
    const spaces = `/ColorSpace<</K [/Separation /Black /DeviceCMYK ${solid('0 0 0 1')}]/S [/Separation /Rust /DeviceCMYK ${solid('0 0.8 0.9 0')}]>>`;
    for (const mode of [0, 1]) {
      expect(inksOf(`${under} /O gs /K cs 0.3 scn ${ALL_OVER}`, spaces + states(mode)).slice(0, 3)).toEqual(
        inksOf(under).slice(0, 3)
      );
      const cyan = inksOf(`0.7 0 0 0 k ${ALL_OVER}`);
      const mixed = inksOf(`0.7 0 0 0 k ${ALL_OVER} /O gs /S cs 1 scn ${ALL_OVER}`, spaces + states(mode));
      const alone = inksOf(`/S cs 1 scn ${ALL_OVER}`, spaces);
      mixed.forEach((v, i) => expect(Math.abs(v - (255 - ((255 - cyan[i]!) * (255 - alone[i]!)) / 255))).toBeLessThanOrEqual(2));
    }
  });

  it('follows the graphics state: strokes and fills apart, kept and brought back, into forms', () => {
    const k = `0 0 0 0.3 k 0 0 0 0.3 K 0 0 ${SIDE} ${SIDE} re`;
    const plain = inksOf(`0 0 0 0.3 k ${ALL_OVER}`);
    const through = inksOf(`${under} /O gs ${k} f`, states(1));
    const only = '/ExtGState<</S <</OP true/op false/OPM 1>>>>';
    expect(inksOf(`${under} /S gs ${k} f`, only)).toEqual(plain);
    expect(inksOf(`${under} /S gs 40 w ${k} S`, only)).toEqual(through);
    expect(inksOf(`${under} q /O gs Q ${k} f`, states(1))).toEqual(plain);
    expect(inksOf(`${under} /O gs q /N gs Q ${k} f`, states(1))).toEqual(through);
    const form = rawStream(`/Type/XObject/Subtype/Form/BBox[0 0 ${SIDE} ${SIDE}]/Resources<<>>`, `${k} f`);
    expect(inksOf(`${under} /O gs /F Do`, `${states(1)}/XObject<</F 5 0 R>>`, [form])).toEqual(through);
    const setting = rawStream(
      `/Type/XObject/Subtype/Form/BBox[0 0 ${SIDE} ${SIDE}]/Resources<<${states(1)}>>`,
      `q q q /O gs (a \\) q Q) Tj ${k} f`
    );
    expect(inksOf(`${under} /F Do`, `/XObject<</F 5 0 R>>`, [setting])).toEqual(through);
    expect(inksOf(`${under} /F Do ${under} ${k} f`, `${states(1)}/XObject<</F 5 0 R>>`, [setting])).toEqual(plain);
  });

  it('leaves channels in a group as well, and takes nothing where nothing is beneath', () => {
    const states = '/ExtGState<</O <</op true/OPM 1>>/H <</op true/OPM 1/ca 0.5>>>>';
    const group = (inside: string) =>
      rawStream(
        `/Type/XObject/Subtype/Form/BBox[0 0 ${SIDE} ${SIDE}]/Group<</S/Transparency/CS/DeviceCMYK/I true>>/Resources<<${states}>>`,
        inside
      );
    const through = (inside: string) =>
      inksOf('/G gs /F Do', '/XObject<</F 5 0 R>>/ExtGState<</G<</ca 0.99/BM/Multiply>>>>', [group(inside)]);
    const [c, m, y, k] = through(`/O gs 0 0 0 1 k ${ALL_OVER}`);
    expect([c, m, y]).toEqual([0, 0, 0]);
    expect(k).toBeGreaterThan(245);
    const over = through(`0.8 0 0 0 k ${ALL_OVER} /O gs 0 0 0 1 k ${ALL_OVER}`);
    expect(over[0]).toBeGreaterThan(180);
    expect(over[3]).toBeGreaterThan(245);
    expect(through(`/H gs 0 0 0 1 k ${ALL_OVER}`).slice(0, 3)).toEqual([0, 0, 0]);
  });

  it.each([
    ['a clip that is no rectangle', 'q 10 -20 m 40 10 l 10 40 l -20 10 l h W n BLACK Q'],
    ['a soft mask', '/M gs BLACK'],
    ['a pattern', '/Pattern cs /T scn 0 0 20 20 re f']
  ])('within %s: on nothing it is itself, and leaves what is beneath', (_what, content) => {
    const black = `/O gs 0 0 0 1 k ${ALL_OVER}`;
    const mask = rawStream(
      `/Type/XObject/Subtype/Form/BBox[0 0 ${SIDE} ${SIDE}]/Group<</S/Transparency/CS/DeviceGray>>/Resources<<>>`,
      `1 g ${ALL_OVER}`
    );
    const gs = '/ExtGState<</O <</op true/OPM 1>>/M <</SMask<</S/Luminosity/G 5 0 R>>>>>>';
    const tile = rawStream(
      `/PatternType 1/PaintType 1/TilingType 1/BBox[0 0 20 20]/XStep 20/YStep 20/Resources<<${gs}>>`,
      '/O gs 0 0 0 1 k 0 0 20 20 re f'
    );
    const resources = `${gs}/Pattern<</T 6 0 R>>`;
    const made = (under: string) => inksOf(`${under} ${content.replace('BLACK', black)}`, resources, [mask, tile]);
    expect(made('')).toEqual([0, 0, 0, 255]);
    // A pattern lays its tiles over what is beneath, whatever is in them.
    const over = made(`0.6 0 0.2 0 k ${ALL_OVER}`);
    expect(over[3]).toBe(255);
    if (!content.includes('Pattern')) expect(over.slice(0, 3)).toEqual(inksOf(`0.6 0 0.2 0 k ${ALL_OVER}`).slice(0, 3));
  });

  it('shows at edges and through opacities as much as there is of the object', () => {
    const half = `/ExtGState<</O <</op true/OPM 1/ca 0.5>>>>`;
    const [c, , , k] = inksOf(`1 0 0 0 k ${ALL_OVER} /O gs 0 0 0 1 k ${ALL_OVER}`, half);
    expect(c).toBe(inksOf(`1 0 0 0 k ${ALL_OVER}`)[0]);
    expect(Math.abs(k! - 128)).toBeLessThanOrEqual(12);
  });
});

describe('intents and sources of the file', () => {
  // The relative table and the perceptual one change places, so that it can be seen which is asked.
  const intents = {
    relative: inks.target,
    perceptual: new mupdf.ColorSpace(withIntent(inks.profile!, 'perceptual'), 'p'),
    saturation: new mupdf.ColorSpace(withIntent(inks.profile!, 'saturation'), 's')
  };
  const red = `1 0 0 rg ${ALL_OVER}`;
  const states = '/ExtGState<</P <</RI/Perceptual>>>>';

  it('follows the intents that the file says, where the docket wants it', () => {
    const asSaid = { ...inks, intents };
    const whole = drawn(page(red), {}, { ...inks, target: intents.perceptual })();
    const plain = inksOf(red);
    expect(whole).not.toEqual(plain);
    // Rounded once more on the way.
    const near = (made: number[]) => made.forEach((v, i) => expect(Math.abs(v - whole[i]!)).toBeLessThanOrEqual(1));
    near(drawn(page(`/Perceptual ri ${red}`), {}, asSaid)());
    near(drawn(page(`/P gs ${red}`, states), {}, asSaid)());
    expect(drawn(page(`q /P gs Q ${red}`, states), {}, asSaid)()).toEqual(plain);
    expect(drawn(page(`/Perceptual ri ${red}`))()).toEqual(plain);
    const picture = (intent: string) =>
      rawStream(
        `/Type/XObject/Subtype/Image/Width 1/Height 1/BitsPerComponent 8/ColorSpace/DeviceRGB${intent}`,
        String.fromCharCode(255, 0, 0)
      );
    const over = `q ${SIDE} 0 0 ${SIDE} 0 0 cm /P Do Q`;
    const through = (intent: string) => drawn(page(over, '/XObject<</P 5 0 R>>', [picture(intent)]), {}, asSaid)();
    near(through('/Intent/Perceptual'));
    through('').forEach((v, i) => expect(Math.abs(v - plain[i]!)).toBeLessThanOrEqual(1));
  });

  it('follows them in gradients too, each as it is drawn', () => {
    const asSaid = { ...inks, intents };
    const whole = drawn(page(red), {}, { ...inks, target: intents.perceptual })();
    const plain = inksOf(red);
    const ramp = '/ColorSpace/DeviceRGB/Extend[true true]/Function<</FunctionType 2/Domain[0 1]/C0[1 0 0]/C1[1 0 0]/N 1>>';
    const near = (made: number[], wanted: number[]) =>
      made.forEach((v, i) => expect(Math.abs(v - wanted[i]!), made.join()).toBeLessThanOrEqual(2));
    for (const kind of ['2/Coords[0 0 20 0]', '3/Coords[10 10 0 10 10 30]']) {
      const shading = `<</ShadingType ${kind}${ramp}>>`;
      const resources = `/Shading<</A ${shading}>>/Pattern<</P <</PatternType 2/Shading ${shading}>>>>${states}`;
      for (const paint of ['/A sh', `/Pattern cs /P scn ${ALL_OVER}`]) {
        near(drawn(page(`/Perceptual ri ${paint}`, resources), {}, asSaid)(), whole);
        near(drawn(page(`q /P gs Q ${paint}`, resources), {}, asSaid)(), plain);
        near(drawn(page(`${paint} /P gs ${paint}`, resources), {}, asSaid)(), whole);
        near(drawn(page(`/Perceptual ri ${paint}`, resources))(), plain);
      }
    }
  });

  it('reads plain colours with what a content has instead of them', () => {
    const wide = Buffer.from(wideRgbProfile()).toString('hex');
    const profile = rawStream('/N 3/Filter/ASCIIHexDecode', `${wide}>`);
    const instead = '/ColorSpace<</DefaultRGB [/ICCBased 5 0 R]/W [/ICCBased 5 0 R]>>';
    const strong = inksOf(`/W cs 0.2 0.7 0.3 scn ${ALL_OVER}`, instead, [profile]);
    const green = `0.2 0.7 0.3 rg ${ALL_OVER}`;
    expect(inksOf(green, instead, [profile])).toEqual(strong);
    expect(inksOf(green)).not.toEqual(strong);
    // A form has its own resources, and none of the page's.
    const form = rawStream(`/Type/XObject/Subtype/Form/BBox[0 0 ${SIDE} ${SIDE}]/Resources<</ProcSet[/PDF]>>`, green);
    expect(inksOf('/F Do', `${instead}/XObject<</F 6 0 R>>`, [profile, form])).toEqual(inksOf(green));
  });
});

it('draws what it can of a broken file, and is stopped by nothing in it', () => {
  const garbled = (dictionary: string) => rawStream(`${dictionary}/Filter/FlateDecode`, 'no such data \x01\x02');
  const resources = `/ExtGState<</O <</op true/OPM 1>>>>/XObject<</F 5 0 R/P 8 0 R>>/ColorSpace<</S [/DeviceN [/Black /Cut] /DeviceCMYK 6 0 R]/T [/DeviceN 5 /DeviceCMYK]/DefaultRGB [/ICCBased 7 0 R]/DefaultCMYK []>>/Shading<</A <</ShadingType 2/ColorSpace [/Separation /Rust /DeviceCMYK 6 0 R]/Coords[0 0 20 0]/Function 6 0 R>>/B <</ShadingType 3/ColorSpace [/Separation]/Coords[0 0]/Function 9 0 R>>/C <</ShadingType 2/ColorSpace/DeviceRGB/Coords[0 0 20 0]/Function <</FunctionType 2/Domain[0 1]/C0[0]/C1[1]/N 1>>>>>>/Pattern<</Q <</PatternType 2/Shading 9 0 R/Matrix[0 0 0 0 0 0]>>>>`;
  const objects = [
    garbled(`/Type/XObject/Subtype/Form/BBox[0 0 20 20]/Resources 9 0 R`),
    garbled('/FunctionType 0/Domain[0 1]/Range[0 1 0 1 0 1 0 1]/Size[4]/BitsPerSample 8'),
    garbled('/N 3'),
    garbled(
      '/Type/XObject/Subtype/Image/Width 4/Height 4/BitsPerComponent 8/ColorSpace [/DeviceN [/Black /Cut] /DeviceCMYK 6 0 R]'
    ),
    '<</Shading 9 0 R>>'
  ];
  const content = `/A sh /B sh /C sh /F Do q 5 0 0 5 0 0 cm /P Do Q /Pattern cs /Q scn 0 0 3 3 re f /S cs 1 1 scn 0 0 2 2 re f /T cs 1 scn 0 0 1 1 re f /O gs 0 0 0 1 k 5 5 10 10 re f`;
  for (const target of [
    inks,
    screen,
    { ...inks, intents: { relative: inks.target, perceptual: inks.target, saturation: inks.target } }
  ])
    for (const over of [{}, outOf('Cut'), { blackPictures: true }]) {
      const made = drawn(page(content, resources, objects), over, target)();
      expect(made.length === 4 ? made[3] : 255 - made[0]!).toBeGreaterThan(200);
    }
});

it('shows on the screen what it prints', () => {
  const space = '/ColorSpace<</S [/DeviceN [/Black /CutContour] /DeviceCMYK 5 0 R]>>';
  const bytes = page(`/S cs 0.7 1 scn ${ALL_OVER}`, space, [tint(2, '{exch 0 3 1 roll 0 exch}')]);
  expect(drawn(bytes, outOf('CutContour'), screen)()).toEqual(drawn(page(`0 0 0 0.7 k ${ALL_OVER}`), {}, screen)());
});
