import { readFileSync } from 'node:fs';
import fc from 'fast-check';
import { zlibSync } from 'fflate';
import { describe, expect, it } from 'vitest';
import { FONT_FILES, faceOf, type FaceName } from '../../tests/made/faces';
import { openBytes } from '../../tests/made/opened';
import { readCodes } from '$protocol/code-reader';
import * as mupdf from '../interpreter/interpreter';
import { layCodeField } from './code-field';
import { layArc } from './arc';
import { Field, Fields, type CodeField, type FieldPlace, type TextField } from './field';
import { newCode, newPicture, newText } from './new-field';
import { layText, oneSize, OverlayWriter, shadowMoves, type FieldText, type OpenedFont, type OverlayPicture } from './overlay';

/** Overlays as pages of 100 × 60 mm, seen by the interpreter. */

const SIZE = { widthMm: 100, heightMm: 60 };
const fonts = new Map<string, OpenedFont>(
  (Object.keys(FONT_FILES) as FaceName[]).map((name) => [name, { face: faceOf(name), file: readFileSync(FONT_FILES[name]) }])
);
const place = (more: Partial<FieldPlace> = {}): FieldPlace => ({ x: 10, y: 10, width: 60, height: 20, turn: 0, ...more });
const textField = (more: Partial<TextField> = {}): TextField => ({
  ...newText([], place(), '{name}', 'name'),
  font: 'latin',
  along: 'left',
  down: 'top',
  ...more
});

/** Pages of texts, in grey. */
function drawn(pages: readonly (readonly FieldText[])[], perMm = 10, dpi?: number, most?: Map<number, number>) {
  const writer = new OverlayWriter(SIZE, fonts, dpi);
  for (const page of pages) writer.add(page, most);
  const document = openBytes(writer.finish());
  expect(document.countPages()).toBe(pages.length);
  const k = (perMm * 25.4) / 72;
  const all = pages.map((_, i) => {
    const page = document.loadPage(i);
    const pixmap = page.toPixmap(mupdf.Matrix.scale(k, k), mupdf.ColorSpace.DeviceGray, false, true);
    const [width, height] = [pixmap.getWidth(), pixmap.getHeight()];
    const grey = Uint8Array.from(pixmap.getPixels());
    pixmap.destroy();
    return { grey, width, height };
  });
  document.destroy();
  return all;
}
/** Where ink is, mm; nothing where there is none. */
function inkBox({ grey, width }: { grey: Uint8Array; width: number }, perMm = 10) {
  const box = { left: Infinity, right: -Infinity, top: Infinity, bottom: -Infinity };
  grey.forEach((v, i) => {
    if (v > 200) return;
    const [x, y] = [i % width, Math.floor(i / width)];
    box.left = Math.min(box.left, x / perMm);
    box.right = Math.max(box.right, (x + 1) / perMm);
    box.top = Math.min(box.top, y / perMm);
    box.bottom = Math.max(box.bottom, (y + 1) / perMm);
  });
  return box.right < box.left ? undefined : box;
}
const PIXEL = 0.15;

/** A picture of two halves, red over blue. */
const HALVES: OverlayPicture = {
  key: 'halves',
  width: 2,
  height: 2,
  data: zlibSync(Uint8Array.from([255, 0, 0, 255, 0, 0, 0, 0, 255, 0, 0, 255])),
  filter: 'FlateDecode',
  channels: 3,
  icc: undefined
};

/** The colours of one page at places in mm. */
function coloursAt(writer: OverlayWriter, page: number, places: readonly [number, number][]): number[][] {
  const document = openBytes(writer.finish());
  const k = (4 * 25.4) / 72;
  const pixmap = document.loadPage(page).toPixmap(mupdf.Matrix.scale(k, k), mupdf.ColorSpace.DeviceRGB, false, true);
  const pixels = Uint8Array.from(pixmap.getPixels());
  const width = pixmap.getWidth();
  pixmap.destroy();
  document.destroy();
  return places.map(([x, y]) => Array.from(pixels.subarray((y * 4 * width + x * 4) * 3, (y * 4 * width + x * 4) * 3 + 3)));
}

describe('lettering on an arc', () => {
  it('is never outside of its place, as large as can be, and turns with the arc', () => {
    const side = fc.double({ min: 5, max: 90, noNaN: true });
    fc.assert(
      fc.property(
        fc.constantFrom('Ove', 'Lantern Regatta', 'Þóra Hafsteinsdóttir', 'i'),
        fc.constantFrom(-180, -120, -40, 10, 90, 150),
        side,
        side,
        fc.constantFrom('left' as const, 'centre' as const, 'right' as const),
        (text, bend, width, height, along) => {
          const field = textField({ bend, along, place: place({ width, height }) });
          const face = fonts.get('latin')!.face;
          const { size, block, inside } = layText(field, text, face);
          // The arc alone is higher than the place: that is told.
          const half = (Math.abs(bend) * Math.PI) / 360;
          const rise = (width / (2 * Math.sin(half))) * (1 - Math.cos(half));
          if (!inside) expect(rise).toBeGreaterThan(height * 0.9);
          else {
            const larger = layText({ ...field, size: { is: 'fixed', pt: (size * 1.01 * 72) / 25.4 } }, text, face);
            expect(larger.inside).toBe(false);
            const { glyphs } = layArc(field, block, size);
            const turns = glyphs.map(({ turn }) => turn * Math.sign(bend));
            expect(turns).toEqual([...turns].sort((p, q) => p - q));
            expect(Math.max(...turns.map(Math.abs))).toBeLessThanOrEqual(half + 1e-9);
          }
        }
      ),
      { numRuns: 60 }
    );
  });

  it('prints where it is laid: high in the middle, or low', () => {
    const field = textField({ bend: 120, along: 'centre', place: place({ x: 20, y: 5, width: 60, height: 40 }) });
    const pages = drawn([[{ field, text: 'IIIIIIIIIIIII' }], [{ field: { ...field, bend: -120 }, text: 'IIIIIIIIIIIII' }]]);
    for (const [i, { grey, width }] of pages.entries()) {
      const box = inkBox({ grey, width })!;
      expect(box.left).toBeGreaterThan(19.8);
      expect(box.right).toBeLessThan(80.2);
      expect(box.top).toBeGreaterThan(4.8);
      expect(box.bottom).toBeLessThan(45.2);
      // The outer edge of the letters: their tops on a high arc, their feet on a low one.
      const edgeAt = (mm: number) => {
        const [x, rows] = [Math.round(mm * 10), Array.from({ length: 600 }, (_, y) => y)];
        const isInk = (y: number) => Array.from({ length: 17 }, (_, dx) => grey[y * width + x + dx - 8]!).some((v) => v < 128);
        return (i === 0 ? rows.find(isInk) : rows.findLast(isInk))! / 10;
      };
      const [end, middle] = [edgeAt(24), edgeAt(50)];
      // 26 mm from the middle of an arc of 34.6 mm it is 11.8 mm away.
      expect(Math.abs(end - middle)).toBeGreaterThan(9);
      expect(Math.abs(end - middle)).toBeLessThan(14);
      expect(end > middle).toBe(i === 0);
    }
  });
});

describe('a shadow', () => {
  const shadow = {
    right: 5,
    down: 3,
    soft: 0,
    strength: 0.5,
    colour: { is: 'inks' as const, inks: [0, 0, 0, 1] as [number, number, number, number] }
  };

  it('lies under its lettering, moved and as strong as it is said', () => {
    const white = { is: 'inks' as const, inks: [0, 0, 0, 0] as [number, number, number, number] };
    const field = textField({ shadow, colour: white, place: place({ width: 80, height: 40 }) });
    const [with1, without] = drawn([
      [{ field, text: 'O' }],
      [{ field: { ...field, shadow: null, colour: shadow.colour }, text: 'O' }]
    ]);
    const mean = (v: number[]) => v.reduce((sum, one) => sum + one, 0) / v.length;
    const inked = Array.from(without!.grey.keys()).filter((i) => without!.grey[i]! < 100);
    // Where the letter moved by the shadow’s way is, and the letter itself is not.
    const moved = inked.map((i) => i + 30 * without!.width + 50).filter((i) => without!.grey[i]! > 250);
    const dark = mean(moved.map((i) => with1!.grey[i]!));
    expect(dark).toBeGreaterThan(100);
    expect(dark).toBeLessThan(170);
    // The letter is white on it.
    expect(mean(inked.map((i) => with1!.grey[i]!))).toBeGreaterThan(253);
  });

  it('that is soft is spread evenly to both sides of its edge, and no stronger', () => {
    const { moves, strength } = shadowMoves({ ...shadow, soft: 2 });
    const far = moves.map(({ x, y }) => Math.hypot(x - 5, y - 3));
    expect(Math.max(...far)).toBeLessThanOrEqual(2);
    expect(far.filter((one) => one < Math.SQRT2).length / far.length).toBeCloseTo(0.5, 1);
    expect(moves.reduce((sum, { x }) => sum + x, 0) / moves.length).toBeCloseTo(5, 1);
    expect(1 - (1 - strength) ** moves.length).toBeCloseTo(0.5, 6);
    expect(shadowMoves({ ...shadow, soft: 2, strength: 1 }).strength).toBeLessThan(1);
  });
});

describe('pictures and spot colours on a page', () => {
  it('stand upright in their place, turned with it, cut off where they reach out, and are written once', () => {
    const field = newPicture([], place({ x: 10, y: 10, width: 20, height: 40 }));
    const writer = new OverlayWriter(SIZE, fonts, undefined);
    const shown = new Map([[field.id, HALVES]]);
    writer.add([{ field, text: 'a' }], undefined, shown);
    writer.add([{ field: { ...field, place: { ...field.place, turn: 180 } }, text: 'a' }], undefined, shown);
    writer.add([{ field, text: '' }]);
    const [RED, BLUE, WHITE] = [
      [255, 0, 0],
      [0, 0, 255],
      [255, 255, 255]
    ];
    // It fills 20 × 40 mm as 40 × 40 mm, of which ten on each side are cut off.
    expect(
      coloursAt(writer, 0, [
        [20, 15],
        [20, 45],
        [8, 15],
        [32, 45],
        [20, 8],
        [20, 52]
      ])
    ).toEqual([RED, BLUE, WHITE, WHITE, WHITE, WHITE]);
    expect(
      coloursAt(writer, 1, [
        [20, 15],
        [20, 45]
      ])
    ).toEqual([BLUE, RED]);
    expect(coloursAt(writer, 2, [[20, 15]])).toEqual([WHITE]);
    expect(new TextDecoder('latin1').decode(writer.finish()).split('/Subtype/Image').length - 1).toBe(1);
  });

  it('are of the name that was chosen, and look like their inks; one without a name is its inks', () => {
    const spot = { is: 'spot' as const, name: 'Buoy brass (2)', inks: [0, 0, 1, 0] as [number, number, number, number] };
    const code: CodeField = { ...newCode([], place({ width: 20 }), ''), colour: spot };
    const writer = new OverlayWriter(SIZE, fonts, undefined);
    writer.add([
      { field: code, text: 'A' },
      { field: { ...code, id: 2, place: place({ x: 40, width: 20 }), colour: { ...spot, name: '' } }, text: 'A' }
    ]);
    const document = openBytes(writer.finish());
    const names: string[] = [];
    const device = new mupdf.Device({
      fillPath: (_path, _evenOdd, _matrix, space) => void names.push(space.getName())
    });
    document.loadPage(0).run(device, mupdf.Matrix.identity);
    device.close();
    document.destroy();
    expect(names).toHaveLength(2);
    expect(names[0]).toContain('Buoy brass (2)');
    expect(names[1]).toBe('DeviceCMYK');
  });

  it('look like what is known of them, whatever their inks are', () => {
    const spot = { is: 'spot' as const, inks: [0, 0, 0, 1] as [number, number, number, number] };
    const bar = (id: number, name: string): CodeField => ({
      ...newCode([], place({ x: 30 * (id - 1), width: 20 }), ''),
      id,
      colour: { ...spot, name }
    });
    const fields = [bar(1, 'Lantern Red'), bar(2, 'Hull grey')];
    const writer = new OverlayWriter(SIZE, fonts, undefined, { 'Lantern Red': [53, 80, 67] });
    writer.add(fields.map((field) => ({ field, text: 'A' })));
    const boxes = fields.map((field) => ({ field, box: layCodeField(field, 'A', undefined).laid.dark[0]! }));
    const [red, dark] = coloursAt(
      writer,
      0,
      boxes
        .map(({ field: { place }, box }) => [place.x + box.x + box.width / 2, place.y + box.y + box.height / 2] as const)
        .map(([x, y]) => [Math.round(x * 4) / 4, Math.round(y * 4) / 4])
    );
    expect(red![0]! > 230 && red![1]! < 40 && red![2]! < 40).toBe(true);
    expect(Math.max(...dark!)).toBeLessThan(60);
  });
});

describe('lettering in its field', () => {
  const words = fc
    .array(fc.constantFrom('Ada', 'Ærø', 'fjord', 'Bartholomäus', 'To', 'ÅÇŞ'), { minLength: 1, maxLength: 4 })
    .map((all) => all.join(' '));
  it('is never outside of it, however it lies and is turned', () => {
    fc.assert(
      fc.property(
        words,
        fc.constantFrom(0, 90, 180, 37, -120),
        fc.boolean(),
        fc.constantFrom('left', 'centre', 'right'),
        fc.constantFrom('top', 'middle', 'bottom'),
        (text, turn, wrap, along, down) => {
          const field = textField({
            font: 'serif',
            wrap,
            along,
            down,
            place: place({ x: 25, y: 20, turn })
          } as Partial<TextField>);
          const [page] = drawn([[{ field, text }]]);
          const angle = (-turn * Math.PI) / 180;
          let outside = 0;
          let inked = 0;
          page!.grey.forEach((v, i) => {
            if (v > 128) return;
            inked++;
            const [x, y] = [((i % page!.width) + 0.5) / 10 - 55, (Math.floor(i / page!.width) + 0.5) / 10 - 30];
            const [u, w] = [x * Math.cos(angle) - y * Math.sin(angle), x * Math.sin(angle) + y * Math.cos(angle)];
            if (Math.abs(u) > 30 + PIXEL || Math.abs(w) > 10 + PIXEL) outside++;
          });
          expect(outside).toBe(0);
          expect(inked).toBeGreaterThan(100);
        }
      ),
      { numRuns: 30 }
    );
  });

  it('stands at its side and edge', () => {
    const at = (along: TextField['along'], down: TextField['down']) =>
      inkBox(drawn([[{ field: textField({ along, down, size: { is: 'fixed', pt: 20 } }), text: 'HHH' }]])[0]!)!;
    const [left, right] = [at('left', 'top'), at('right', 'bottom')];
    const middle = at('centre', 'middle');
    expect(left.left).toBeLessThan(11);
    expect(right.right).toBeGreaterThan(69);
    expect((middle.left + middle.right) / 2).toBeCloseTo(40, 0);
    expect(left.top).toBeLessThan(middle.top);
    expect(middle.top).toBeLessThan(right.top);
    // Capitals of Arimo are 0.716 em high.
    expect(left.bottom - left.top).toBeCloseTo(20 * 0.716 * (25.4 / 72), 0);
  });

  it('has one size for all records where it says so: that of the longest', () => {
    const field = textField({ size: { is: 'one for all' } });
    const texts = ['Li', 'Bartholomäus Maximilian', 'Ada'];
    const size = oneSize(field, texts, faceOf('latin'));
    expect(size).toBe(Math.min(...texts.map((text) => layText(textField(), text, faceOf('latin')).size)));
    for (const text of texts) expect(layText(field, text, faceOf('latin'), size)).toMatchObject({ size, inside: true });
    const [short] = drawn([[{ field, text: 'Li' }]], 10, undefined, new Map([[1, size]]));
    expect(inkBox(short!)!.right).toBeLessThan(20);
  });

  it('that has a size of its own and is too long is told', () => {
    const field = textField({ size: { is: 'fixed', pt: 40 } });
    expect(layText(field, 'Bartholomäus', faceOf('latin')).inside).toBe(false);
    expect(layText(field, 'To', faceOf('latin')).inside).toBe(true);
  });

  it('of any script and font is drawn, several on a page, each page its own', () => {
    const rows = (['latin', 'serif', 'arabic', 'devanagari'] as const).map((font, i) =>
      textField({ id: i + 1, font, place: place({ y: 2 + 14 * i, height: 12 }) })
    );
    const texts = ['Office', 'fluff', 'السلام', 'हिन्दी'];
    const [whole, empty, first] = drawn([
      rows.map((field, i) => ({ field, text: texts[i]! })),
      [{ field: rows[0]!, text: '  ' }],
      [{ field: rows[0]!, text: 'A' }]
    ]);
    for (let i = 0; i < 4; i++) {
      const row = { grey: whole!.grey.slice(whole!.width * (20 + 140 * i), whole!.width * (140 + 140 * i)), width: whole!.width };
      expect(inkBox(row), texts[i]).toBeDefined();
    }
    expect(inkBox(empty!)).toBeUndefined();
    expect(inkBox(first!)!.bottom).toBeLessThan(15);
  });

  it('has an outline that is wider than its letters', () => {
    const plain = textField({ size: { is: 'fixed', pt: 30 }, place: place({ x: 20 }) });
    const lined = { ...plain, outline: { mm: 2, colour: { is: 'rgb' as const, colour: '#000000' } } };
    const [p, q] = drawn([[{ field: plain, text: 'O' }], [{ field: lined, text: 'O' }]]);
    expect(inkBox(p!)!.left - inkBox(q!)!.left).toBeCloseTo(1, 0);
  });

  it('asks for a font that the shop has', () => {
    expect(() => drawn([[{ field: textField({ font: 'Nowhere' }), text: 'x' }]])).toThrow('The shop has no font Nowhere.');
  });
});

describe('a code in its field', () => {
  it('is read by another reader, upright and turned', async () => {
    const code = (turn: number): CodeField => ({
      id: 2,
      name: 'code',
      is: 'code',
      correction: 'middle',
      below: false,
      thinner: 0,
      kind: 'Data Matrix',
      content: '{no}',
      place: place({ width: 20, height: 20, turn }),
      colour: { is: 'inks', inks: [0, 0, 0, 1] }
    });
    const turns = [0, 90, 180, 30];
    const pages = drawn(
      turns.map((turn) => [{ field: code(turn), text: `No. ${turn}` }]),
      20,
      508
    );
    // The middle of the field lies at 20 mm, 20 pixels a mm.
    for (const [i, { grey, width, height }] of pages.entries())
      expect(await readCodes(grey, width, height)).toMatchObject([
        {
          format: 'DataMatrix',
          text: `No. ${turns[i]}`,
          middle: { x: expect.closeTo(400, -1), y: expect.closeTo(400, -1) }
        }
      ]);
  });
});

describe('a record without a value', () => {
  it('has neither lettering nor a code, and its page is there', () => {
    const code: CodeField = {
      id: 2,
      name: 'code',
      is: 'code',
      correction: 'middle',
      below: false,
      thinner: 0,
      kind: 'QR',
      content: '',
      place: place(),
      colour: { is: 'rgb', colour: '#000000' }
    };
    const [page] = drawn([
      [
        { field: textField(), text: '' },
        { field: code, text: ' ' }
      ]
    ]);
    expect(inkBox(page!)).toBeUndefined();
  });
});

describe('a field', () => {
  it('is checked where it comes from outside', () => {
    const said = (field: unknown) => Field.safeParse(field).error?.issues[0]?.message ?? 'fine';
    expect(said(textField())).toBe('fine');
    expect(said(textField({ name: ' ' }))).toBe('A field has a name.');
    expect(said(textField({ size: { is: 'fixed', pt: 0 } }))).toBe('Lettering is 1 to 10,000 pt.');
    expect(said(textField({ place: place({ width: 0 }) }))).toBe('The width is at least 0.5 mm.');
    expect(said(textField({ place: place({ x: Number.NaN }) }))).toBe('The place must be a figure.');
    expect(said(textField({ colour: { is: 'rgb', colour: 'red' } }))).toBe('A colour is six figures after #.');
    expect(said({ ...textField(), is: 'song' })).not.toBe('fine');
    const all = (fields: unknown) => Fields.safeParse(fields).error?.issues[0]?.message ?? 'fine';
    expect(all([textField(), textField({ id: 2 })])).toBe('fine');
    expect(all([textField(), textField()])).toBe('Two fields have the same number.');
    expect(all(Array.from({ length: 61 }, (_, i) => textField({ id: i + 1 })))).toBe('A docket has at most 60 fields.');
  });
});
