import { execFileSync } from 'node:child_process';
import { existsSync, readFileSync, readdirSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { gzipSync } from 'node:zlib';
import sharp from 'sharp';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { xyzToSrgb, labToXyz } from '$core/colour/lab';
import { wholePage } from '$core/artwork/preparation';
import { greyProfile, wideRgbProfile } from '$core/colour/icc-write';
import { SHOPS_OWN, SHOPS_SOURCES } from '$lib/docket-choices';
import { TextFace } from '$core/records/shaping';
import { Shop } from '$lib/server/app/shop';
import { oneChunk, temporaryFolder, until } from '../harness';
import { rawPdf, rawStream } from '../made/pdf';
import { madeTiff, type MadeTiff } from '../made/tiff';

/** Files as customers send them, each small and made here: taken and seen as they are meant, or refused with what to do. */

let shop: Shop;
const folder = temporaryFolder();

beforeAll(() => {
  shop = new Shop(folder.path);
  shop.start();
});
afterAll(async () => {
  await shop.close();
  folder.remove();
});

async function take(bytes: Uint8Array | string, name = 'file') {
  const { id } = await shop.artworks.take(name, oneChunk(bytes));
  await until(() => shop.artworks.get(id).state !== 'reading');
  return shop.artworks.get(id);
}

async function taken(bytes: Uint8Array | string, name = 'file') {
  const artwork = await take(bytes, name);
  expect(artwork.reason).toBeNull();
  return artwork;
}

/** Colour of a place of the first page, shares of its size. */
async function seen(id: number, x = 0.5, y = 0.5, px = 200): Promise<number[]> {
  const { data, info } = await sharp(await shop.pictures.page(id, 0, px))
    .removeAlpha()
    .raw()
    .toBuffer({ resolveWithObject: true });
  const at =
    (Math.min(info.height - 1, Math.floor(y * info.height)) * info.width + Math.min(info.width - 1, Math.floor(x * info.width))) *
    3;
  return [...data.subarray(at, at + 3)];
}

const near = (is: readonly number[], wanted: readonly number[], by = 4) =>
  is.forEach((v, i) => expect(Math.abs(v - (wanted[i] ?? 0)), `${is.join()} for ${wanted.join()}`).toBeLessThanOrEqual(by));

const ORANGE = [230, 120, 30];

describe('pictures of every kind', () => {
  const square = { width: 24, height: 16, ppi: 100 };
  const tiffs: [string, Omit<MadeTiff, 'width' | 'height'>, number[] | undefined, number][] = [
    ['RGB of 8 bits', { photometric: 2, bits: 8, channels: 3, pixel: ORANGE }, ORANGE, 1],
    ['RGB of 16 bits', { photometric: 2, bits: 16, channels: 3, pixel: ORANGE.map((v) => v * 257) }, ORANGE, 1],
    ['RGB in floating point', { photometric: 2, bits: 32, format: 3, channels: 3, pixel: ORANGE.map((v) => v / 255) }, ORANGE, 1],
    ['RGB with a spot channel beside it', { photometric: 2, bits: 8, channels: 4, extra: [0], pixel: [...ORANGE, 0] }, ORANGE, 1],
    ['RGB half covered', { photometric: 2, bits: 8, channels: 4, extra: [2], pixel: [230, 120, 30, 128] }, [242, 187, 142], 3],
    [
      'RGB half covered, multiplied',
      { photometric: 2, bits: 8, channels: 4, extra: [1], pixel: [115, 60, 15, 128] },
      [242, 187, 142],
      3
    ],
    [
      'grey of 16 bits with a selection',
      { photometric: 1, bits: 16, channels: 2, extra: [0], pixel: [0x6060, 0] },
      [0x60, 0x60, 0x60],
      2
    ],
    [
      'grey, white being 0, in floating point',
      { photometric: 0, bits: 32, format: 3, channels: 1, pixel: [0.25] },
      [191, 191, 191],
      2
    ]
  ];
  it.each(tiffs)('TIFF: %s', async (_name, made, wanted, by) => {
    const artwork = await taken(madeTiff({ ...square, ...made }));
    near(await seen(artwork.id), wanted ?? [], by);
    expect(artwork.facts?.pages[0]?.widthMm).toBeCloseTo((24 / 100) * 25.4, 2);
    expect(artwork.facts?.findings.some(({ kind }) => kind === 'extra-channels')).toBe(made.extra?.[0] === 0);
  });

  const CMYK = [0.1, 0.6, 0.9, 0.05];
  const cmyk: [string, Omit<MadeTiff, 'width' | 'height'>][] = [
    ['of 16 bits', { photometric: 5, bits: 16, channels: 4, pixel: CMYK.map((v) => Math.round(v * 65535)) }],
    [
      'with a fifth channel',
      { photometric: 5, bits: 8, channels: 5, extra: [0], pixel: [...CMYK, 0].map((v) => Math.round(v * 255)) }
    ],
    [
      'with a fifth channel, full',
      { photometric: 5, bits: 8, channels: 5, extra: [0], pixel: [...CMYK, 1].map((v) => Math.round(v * 255)) }
    ],
    [
      'of 16 bits with two channels more',
      { photometric: 5, bits: 16, channels: 6, extra: [0, 0], pixel: [...CMYK, 0, 1].map((v) => Math.round(v * 65535)) }
    ]
  ];
  it.each(cmyk)('CMYK TIFF %s is the same as the plain one', async (_name, made) => {
    const plain = await taken(
      madeTiff({ ...square, photometric: 5, bits: 8, channels: 4, pixel: CMYK.map((v) => Math.round(v * 255)) })
    );
    const colour = await seen(plain.id);
    expect(colour[0]).toBeGreaterThan((colour[2] ?? 0) + 80);
    near(await seen((await taken(madeTiff({ ...square, ...made }))).id), colour, 2);
  });

  const lab: [string, Omit<MadeTiff, 'width' | 'height' | 'channels'>][] = [
    ['8 bits', { photometric: 8, bits: 8, pixel: [153, 30, -20] }],
    ['16 bits', { photometric: 8, bits: 16, pixel: [0.6 * 65535, 30 * 256, -20 * 256].map(Math.round) }],
    ['8 bits as profiles write it', { photometric: 9, bits: 8, pixel: [153, 158, 108] }],
    ['floating point', { photometric: 8, bits: 32, format: 3, pixel: [60, 30, -20] }]
  ];
  it.each(lab)('Lab TIFF of %s', async (_name, made) => {
    const wanted = xyzToSrgb(labToXyz([60, 30, -20])).map((v) => v * 255);
    near(await seen((await taken(madeTiff({ ...square, channels: 3, ...made }))).id), wanted, 5);
  });

  it('WebP, AVIF, GIF, BMP, JPEG 2000', async () => {
    const picture = sharp({ create: { width: 40, height: 30, channels: 3, background: { r: 230, g: 120, b: 30 } } });
    for (const format of ['webp', 'avif', 'gif'] as const) {
      const artwork = await taken(await picture.clone().toFormat(format, { lossless: true }).toBuffer());
      near(await seen(artwork.id), ORANGE, 8);
      expect(artwork.facts?.format.toLowerCase()).toBe(format);
    }
    const bmp = Buffer.alloc(54 + 12 * 2);
    bmp.write('BM');
    bmp.writeUInt32LE(bmp.length, 2);
    bmp.writeUInt32LE(54, 10);
    [40, 3, 2].forEach((v, i) => bmp.writeUInt32LE(v, 14 + i * 4));
    bmp.writeUInt16LE(1, 26);
    bmp.writeUInt16LE(24, 28);
    for (let y = 0; y < 2; y++) for (let x = 0; x < 3; x++) bmp.set([30, 120, 230], 54 + y * 12 + x * 3);
    near(await seen((await taken(bmp)).id), ORANGE, 1);
    const jp2 = Buffer.from(
      'AAAADGpQICANCocKAAAAFGZ0eXBqcDIgAAAAAGpwMiAAAAAtanAyaAAAABZpaGRyAAAABgAAAAgAAwcHAAAAAAAPY29scgEAAAAAABAAAAC4anAyY/9P/1EALwAAAAAACAAAAAYAAAAAAAAAAAAAAAgAAAAGAAAAAAAAAAAAAwcBAQcBAQcBAf9SAAwAAAABAQAEBAAB/1wABEBA/2QAJQABQ3JlYXRlZCBieSBPcGVuSlBFRyB2ZXJzaW9uIDIuNS4w/5AACgAAAAAAQAAB/5PAdEARUFSvz7RMEVBUhzuxIAAGEgwJzhIOie4SD8+0SBQAXK7l8wAABhIS9EagAAwkH//Z',
      'base64'
    );
    near(await seen((await taken(jp2)).id), ORANGE, 1);
    // The coded picture alone, without its box.
    near(await seen((await taken(jp2.subarray(jp2.indexOf(Buffer.from([0xff, 0x4f, 0xff, 0x51]))))).id), ORANGE, 1);
  });

  it('says which pictures do not say their size, by one rule for all formats', async () => {
    const picture = sharp({ create: { width: 300, height: 150, channels: 3, background: '#e6781e' } });
    const silent = [
      await picture.clone().png().toBuffer(),
      // A JPEG says a proportion alone where it does not know.
      withoutDensity(await picture.clone().jpeg().toBuffer()),
      madeTiff({ width: 300, height: 150, photometric: 2, bits: 8, channels: 3, pixel: ORANGE }),
      await picture.clone().webp().toBuffer()
    ];
    for (const bytes of silent) {
      const { facts } = await taken(bytes);
      expect(facts?.pages[0]?.widthMm).toBeCloseTo((300 / 150) * 25.4, 2);
      expect(facts?.notes.join()).toMatch(/does not say its size.*150 pixels an inch/);
    }
    const says = [
      await picture.clone().withMetadata({ density: 72 }).png().toBuffer(),
      await picture.clone().withMetadata({ density: 72 }).jpeg().toBuffer(),
      madeTiff({ width: 300, height: 150, photometric: 2, bits: 8, channels: 3, pixel: ORANGE, ppi: 72 })
    ];
    for (const bytes of says) {
      const { facts } = await taken(bytes);
      expect(facts?.pages[0]?.widthMm).toBeCloseTo((300 / 72) * 25.4, 1);
      expect(facts?.notes).toEqual([]);
    }
  });

  it('half a picture is refused, a damaged one is never taken without a word', async () => {
    const noise = Uint8Array.from({ length: 200 * 200 * 3 }, (_, i) => (i * 7919 + (i >> 5) * 31) % 256);
    const picture = sharp(noise, { raw: { width: 200, height: 200, channels: 3 } });
    for (const format of ['jpeg', 'png', 'tiff', 'webp', 'gif'] as const) {
      const bytes = await picture.clone().toFormat(format).toBuffer();
      const { state, reason } = await take(bytes.subarray(0, Math.floor(bytes.length / 2)));
      expect([format, state]).toEqual([format, 'refused']);
      expect(reason).toMatch(/damaged|new copy/);
    }
    const jpeg = await picture.jpeg().toBuffer();
    let told = 0;
    for (let i = 0; i < 12; i++) {
      const hurt = Buffer.from(jpeg);
      const at = 700 + Math.floor(((jpeg.length - 900) * i) / 12);
      hurt.fill(0, at, at + 40);
      const { state, facts } = await take(hurt);
      if (state === 'refused' || facts?.findings.some(({ kind }) => kind === 'damaged')) told++;
    }
    // Now and then other codes are as long as those that stood there.
    expect(told).toBeGreaterThanOrEqual(9);
  });

  const others: [string, Buffer, RegExp][] = [
    [
      'HEIC',
      Buffer.concat([Buffer.from('\0\0\0\x18ftypheic\0\0\0\0mif1heic', 'latin1'), Buffer.alloc(200)]),
      /HEIC.*JPEG or PNG/
    ],
    ['layers', Buffer.concat([Buffer.from('8BPS\0\x01'), Buffer.alloc(200)]), /layered.*TIFF or PDF/],
    ['a packed folder', Buffer.concat([Buffer.from('PK\x03\x04'), Buffer.alloc(200)]), /Unpack it, or save the document as PDF/],
    ['a web page', Buffer.from('<!DOCTYPE html><html><svg></svg></html>'), /web page/],
    ['nothing known', Buffer.from('hello there'), /not known.*Artwork comes as/]
  ];
  it.each(others)('%s gets a sentence that says what to save', async (_name, bytes, sentence) => {
    const { state, reason } = await take(bytes);
    expect(state).toBe('refused');
    expect(reason).toMatch(sentence);
  });
});

/** A JPEG whose JFIF head gives a proportion and no density. */
function withoutDensity(jpeg: Buffer): Buffer {
  const at = jpeg.indexOf('JFIF\0');
  const out = Buffer.from(jpeg);
  out[at + 7] = 0;
  return out;
}

describe('PDFs that other readers open', () => {
  const page = (content: string, resources = '', more: string[] = [], extra = '') =>
    rawPdf([
      `<</Type/Catalog/Pages 2 0 R${extra}>>`,
      '<</Type/Pages/Kids[3 0 R]/Count 1>>',
      `<</Type/Page/Parent 2 0 R/MediaBox[0 0 90 90]/Contents 4 0 R/Resources<<${resources}>>${extra ? '/Annots[5 0 R 6 0 R 7 0 R]' : ''}>>`,
      rawStream('', content),
      ...more
    ]);
  const tint = (inputs: number, code: string) =>
    rawStream(`/FunctionType 4/Domain[${'0 1 '.repeat(inputs)}]/Range[0 1 0 1 0 1 0 1]`, code);

  it('colours of two, five and six spot colours at once stop neither picture nor RIP', async () => {
    const bytes = page(
      '/A cs 1 0 scn 0 0 30 90 re f /B cs 0 1 0 0 0 scn 30 0 30 90 re f /C CS 0 0 1 0 0 0 SCN 9 w 75 0 m 75 90 l S BT /F 20 Tf /A cs 1 1 scn 2 2 Td (Tide) Tj ET',
      '/Font<</F<</Type/Font/Subtype/Type1/BaseFont/Helvetica>>>>/ColorSpace<</A[/DeviceN[/Black/CutContour]/DeviceCMYK 5 0 R]/B[/DeviceN[/Cyan/Magenta/Yellow/Black/Gold]/DeviceCMYK 6 0 R]/C[/DeviceN[/Cyan/Magenta/Yellow/Black/Gold/Silver]/DeviceCMYK 7 0 R]>>',
      [tint(2, '{pop 0 0 0 4 -1 roll}'), tint(5, '{pop}'), tint(6, '{pop pop}')]
    );
    const artwork = await taken(bytes);
    const { facts } = artwork;
    expect(facts?.pages[0]?.spots.map(({ name }) => name)).toEqual(['CutContour', 'Gold', 'Silver']);
    expect(facts?.fontsNotEmbedded).toEqual(['Helvetica']);
    expect(Math.max(...(await seen(artwork.id, 0.15, 0.2)))).toBeLessThan(70);
    const [r = 0, g = 0, b = 0] = await seen(artwork.id, 0.5, 0.2);
    expect(r - g).toBeGreaterThan(80);
    expect(b).toBeGreaterThan(g);
  });

  it('“None” is no ink, in the picture too', async () => {
    const bytes = page(
      '/N cs 1 scn 0 0 90 90 re f 0 0 0 1 k 0 0 5 5 re f',
      '/ColorSpace<</N[/Separation/None/DeviceCMYK 5 0 R]>>',
      [tint(1, '{dup dup dup}')]
    );
    const artwork = await taken(bytes);
    expect(artwork.facts?.pages[0]?.spots).toEqual([]);
    expect(await seen(artwork.id)).toEqual([255, 255, 255]);
  });

  it('what is filled in in forms, and stamps, are drawn; empty fields are not', async () => {
    const look = (colour: string) => rawStream('/Type/XObject/Subtype/Form/BBox[0 0 30 90]', `${colour} rg 0 0 30 90 re f`);
    const bytes = page(
      '',
      '',
      [
        '<</Type/Annot/Subtype/Widget/FT/Tx/T(name)/V(Pier 4)/F 4/Rect[0 0 30 90]/AP<</N 8 0 R>>/P 3 0 R>>',
        '<</Type/Annot/Subtype/Widget/FT/Tx/T(empty)/V()/F 4/Rect[30 0 60 90]/AP<</N 9 0 R>>/P 3 0 R>>',
        '<</Type/Annot/Subtype/Stamp/F 4/Rect[60 0 90 90]/AP<</N 10 0 R>>/P 3 0 R>>',
        look('1 0 0'),
        look('0 1 0'),
        look('0 0 1')
      ],
      '/AcroForm<</Fields[5 0 R 6 0 R]>>'
    );
    const artwork = await taken(bytes);
    expect(artwork.facts?.pages[0]?.fields).toBe(2);
    near(await seen(artwork.id, 0.15), [255, 0, 0], 12);
    expect(await seen(artwork.id, 0.5)).toEqual([255, 255, 255]);
    near(await seen(artwork.id, 0.85), [0, 0, 255], 12);
    const docket = shop.dockets.add(artwork.id, 0, {});
    shop.docketEditing.change(docket.id, docket.version, { choices: { ...docket.choices, fieldsOff: true } });
    const { data } = await sharp(await shop.pictures.docket(docket.id, 90))
      .raw()
      .toBuffer({ resolveWithObject: true });
    expect(data.every((v) => v === 255)).toBe(true);
  });

  it('a table of objects that points to itself', async () => {
    const whole = page('1 0 0 rg 0 0 90 90 re f').toString('latin1');
    const start = /startxref\n(\d+)/.exec(whole)?.[1];
    near(
      await seen((await taken(Buffer.from(whole.replace('/Root 1 0 R', `/Root 1 0 R/Prev ${start}`), 'latin1'))).id),
      [255, 0, 0],
      12
    );
  });

  it('made for a condition has its plain colours read with that, unless the docket says otherwise', async () => {
    const made = (intent: string) =>
      rawPdf([
        `<</Type/Catalog/Pages 2 0 R${intent}>>`,
        '<</Type/Pages/Kids[3 0 R]/Count 1>>',
        '<</Type/Page/Parent 2 0 R/MediaBox[0 0 90 60]/Contents 4 0 R/Resources<<>>>>',
        rawStream('', '0.2 0.7 0.3 rg 0 0 90 60 re f'),
        rawStream('/N 3/Filter/ASCIIHexDecode', `${Buffer.from(wideRgbProfile()).toString('hex')}>`),
        rawStream('/N 4', 'no profile')
      ]);
    const plain = await taken(made(''));
    const intents =
      '/OutputIntents[<</S/Own/DestOutputProfile 6 0 R>><</S/GTS_PDFX/OutputConditionIdentifier(Custom)/Info(Quay, wide)/DestOutputProfile 5 0 R>>]';
    const wide = await taken(made(intents));
    expect(plain.facts?.outputIntent).toBeNull();
    expect(wide.facts?.outputIntent).toMatchObject({ name: 'Quay, wide', space: 'rgb' });
    const asSaid = await seen(wide.id);
    expect(asSaid).not.toEqual(await seen(plain.id));
    const docket = shop.dockets.add(wide.id, 0);
    const { outputIntent } = docket.artwork;
    expect(shop.sources.chosen(docket.choices.sources, outputIntent)).toMatchObject({ rgb: outputIntent?.hash, cmyk: 'offset' });
    expect(shop.sources.chosen({ rgb: SHOPS_OWN, cmyk: '', grey: '' }, outputIntent).rgb).toBe('srgb');
    expect(shop.sources.chosen({ rgb: 'wide', cmyk: '', grey: '' }, outputIntent).rgb).toBe('wide');
    // The picture of a docket follows what it says.
    const pixel = async (rgb: string) => {
      const { widthMm, heightMm } = docket.choices;
      const piece = {
        widthMm,
        heightMm,
        bleedMm: 0,
        sources: { rgb, cmyk: '', grey: '' },
        colours: [],
        prepare: wholePage({ widthMm, heightMm })
      };
      const { data } = await sharp(await shop.pictures.piece(wide.id, 0, 60, piece))
        .removeAlpha()
        .raw()
        .toBuffer({ resolveWithObject: true });
      return [...data.subarray(0, 3)];
    };
    expect(await pixel(SHOPS_OWN)).toEqual(await seen(plain.id, 0.5, 0.5, 60));
    near(await pixel(''), asSaid, 1);
    near(await pixel('wide'), asSaid, 1);
  });

  it('is read with a profile of the shop’s own, which cannot be removed while anything is', async () => {
    const bytes = Uint8Array.from(greyProfile());
    const { id, name } = await shop.sources.take(bytes);
    const own = () => shop.sources.list().filter((one) => one.own);
    expect(own()).toEqual([{ id, name, space: 'grey', own: true }]);
    const docket = shop.dockets.add((await taken(page('0.5 g 0 0 90 60 re f'))).id, 0, {
      sources: { ...SHOPS_SOURCES, grey: id }
    });
    expect(shop.sources.chosen(docket.choices.sources).grey).toBe(id);
    expect(() => shop.sources.remove(id)).toThrow(`Colours of docket ${docket.id} are read with ${name}. Choose another`);
    shop.docketShelf.remove([docket.id]);
    expect(() => shop.sources.remove(id)).toThrow(`Colours of deleted docket ${docket.id} are read with`);
    shop.docketShelf.restore([docket.id]);
    const { version, choices } = shop.dockets.get(docket.id);
    shop.docketEditing.change(docket.id, version, { choices: { ...choices, sources: SHOPS_SOURCES } });
    const { sources } = shop.settings.current;
    shop.settings.change({ sources: { ...sources, grey: id } });
    expect(() => shop.sources.remove(id)).toThrow('Colours of the shop are read with');
    shop.settings.change({ sources });
    shop.sources.remove(id);
    expect(own()).toEqual([]);
    expect(() => shop.sources.remove(id)).toThrow('no such profile');
    expect(() => shop.sources.remove('srgb')).toThrow('no such profile');
    expect(shop.sources.chosen({ ...SHOPS_SOURCES, grey: id }).grey).toBe('grey');
    expect((await shop.sources.take(bytes)).id).toBe(id);
    shop.sources.remove(id);
  });

  it('that overprints is seen as it prints: what lies beneath shows through', async () => {
    const made = (state: string) =>
      rawPdf([
        '<</Type/Catalog/Pages 2 0 R>>',
        '<</Type/Pages/Kids[3 0 R]/Count 1>>',
        `<</Type/Page/Parent 2 0 R/MediaBox[0 0 90 60]/Contents 4 0 R/Resources<</ExtGState<</O <<${state}>>>>>>>>`,
        rawStream('', '1 0 0 0 k 0 0 90 60 re f /O gs 0 0 0.9 0 k 20 10 50 40 re f')
      ]);
    const [through, over] = [await taken(made('/op true/OPM 1')), await taken(made('/op false'))];
    expect(through.facts?.pages[0]?.overprint).toBe(true);
    const [r = 0, g = 0, b = 0] = await seen(through.id);
    // Yellow over cyan is green; yellow that covers is yellow.
    expect(g - r).toBeGreaterThan(60);
    expect(g - b).toBeGreaterThan(20);
    expect((await seen(over.id))[0]).toBeGreaterThan(220);
    near(await seen(through.id, 0.05, 0.05), await seen(over.id, 0.05, 0.05), 3);
  });

  it('no technical word reaches the operator, whatever is wrong', async () => {
    const whole = page('1 0 0 rg 0 0 90 90 re f').toString('latin1');
    for (const broken of [
      whole.slice(0, 60),
      `${whole.slice(0, 20)}${'<<'.repeat(3000)}`,
      whole.replace('/Type/Pages', '/Type/Cargo'),
      whole.replace('/Kids[3 0 R]', '/Kids[2 0 R]')
    ]) {
      const { reason } = await take(Buffer.from(broken, 'latin1'));
      if (reason !== null) expect(reason).toMatch(/^(The|Page) [^_{}]*\.( Ask for [^_{}]*\.)?$/);
    }
  });
});

describe.skipIf(!existsSync('/usr/bin/gs'))('PostScript', () => {
  const eps = (program: string) => `%!PS-Adobe-3.0 EPSF-3.0\n%%BoundingBox: 0 0 90 90\n${program}\nshowpage\n%%EOF\n`;

  it('reads, writes and deletes nothing but in a folder of its own', async () => {
    const others = join(tmpdir(), `zing-test-other-${process.pid}`);
    writeFileSync(others, 'a neighbour’s file');
    const beside = join(shop.files.folder, '..', 'incoming', 'beside');
    writeFileSync(beside, 'another upload');
    const spy = (path: string) => `
      {(${path}) (r) file dup 100 string readstring pop /seen exch def closefile 1 0 0 setrgbcolor 0 0 45 90 rectfill} stopped pop
      {(${path}) deletefile} stopped pop
      {(${path}) (w) file dup (spoiled) writestring closefile} stopped pop`;
    const artwork = await take(
      eps(`0 0 1 setrgbcolor 45 0 45 90 rectfill ${spy(others)} ${spy(beside)} ${spy('/etc/hostname')}`),
      'spy.eps'
    );
    expect(readFileSync(others, 'utf8')).toBe('a neighbour’s file');
    expect(readFileSync(beside, 'utf8')).toBe('another upload');
    if (artwork.state === 'ready') expect(await seen(artwork.id, 0.25)).toEqual([255, 255, 255]);
    expect(readdirSync(join(shop.files.folder, '..', 'incoming'))).toEqual(['beside']);
    execFileSync('rm', [others, beside]);
  });

  it('that never ends is ended, with all that it started', async () => {
    shop.settings.change({ ...shop.settings.current, intake: { seconds: 5, megabytes: 1000 } });
    const { state, reason } = await take(eps('{ 1 pop } loop'), 'loop.eps');
    expect(state).toBe('unread');
    expect(reason).toMatch(/longer than \d+ s/);
    await until(() => !execFileSync('ps', ['-eo', 'args']).toString().includes('-sDEVICE=pdfwrite'));
  });
});

describe('SVG as drawing programs write it', () => {
  const svg = (body: string, attributes = 'width="100" height="50" viewBox="0 0 100 50"') =>
    `<svg xmlns="http://www.w3.org/2000/svg" ${attributes}>${body}</svg>`;
  const red = '<rect width="100" height="50" fill="#f00"/>';

  it('packed, in UTF-16, with a prefix, with a long comment before it, without an end of patience', async () => {
    const wide = Buffer.from(`\ufeff<?xml version="1.0" encoding="UTF-16"?>${svg(red)}`, 'utf16le');
    const prefixed =
      '<v:svg xmlns:v="http://www.w3.org/2000/svg" width="100" height="50"><v:rect width="100" height="50" fill="#f00"/></v:svg>';
    for (const bytes of [
      gzipSync(svg(red)),
      wide,
      wide.swap16(),
      prefixed,
      `<?xml version="1.0"?><!--${'tide '.repeat(3000)}-->${svg(red)}`
    ]) {
      const artwork = await taken(Buffer.from(bytes));
      expect(artwork.facts?.format).toBe('SVG');
      near(await seen(artwork.id), [255, 0, 0], 8);
      expect(artwork.facts?.pages[0]?.widthMm).toBeCloseTo(26.458, 2);
    }
    expect((await take(gzipSync('no drawing at all'))).reason).toMatch(/packed file.*no SVG/);
  });

  it('inside a switch; its size by the view box where one side is told; its proportion kept', async () => {
    const artwork = await taken(
      svg(
        `<switch><foreignObject requiredExtensions="urn:x"><p/></foreignObject><g>${red}</g></switch>`,
        'width="200mm" viewBox="0 0 100 50"'
      )
    );
    expect(artwork.facts?.pages[0]).toMatchObject({ widthMm: expect.closeTo(200, 1), heightMm: expect.closeTo(100, 1) });
    const square = await taken(svg(red, 'width="100" height="100" viewBox="0 0 100 50"'));
    expect(await seen(square.id, 0.5, 0.1)).toEqual([255, 255, 255]);
    near(await seen(square.id, 0.5, 0.5), [255, 0, 0], 8);
  });

  it('reads nothing from the disk of the server', async () => {
    const secret = join(folder.path, 'secret.png');
    await sharp({ create: { width: 100, height: 50, channels: 3, background: '#00f' } }).toFile(secret);
    const inside = `<svg xmlns="http://www.w3.org/2000/svg" width="100" height="50"><image href="${secret}" width="100" height="50"/></svg>`;
    const hidden = `data:text/plain;base64,${Buffer.from(inside).toString('base64')}`;
    const linked = [secret, `file://${secret}`, hidden].map((path) => `<image href="${path}" width="100" height="50"/>`).join('');
    const artwork = await taken(
      svg(
        `${linked}<rect width="2" height="2"/><filter id="f"><feImage href="${secret}"/></filter><g filter="url(#f)"><rect width="100" height="50" fill="#fff"/></g>`
      )
    );
    expect(await seen(artwork.id)).toEqual([255, 255, 255]);
    const told = artwork.facts?.findings.filter(({ kind }) => kind === 'svg-picture') ?? [];
    expect(told.map(({ what }) => what)).toEqual(['secret.png']);
    expect(told[0]?.place).toMatchObject({
      x: expect.closeTo(0, 3),
      width: expect.closeTo(26.458, 2),
      height: expect.closeTo(13.229, 2)
    });
  });

  it('pictures in it, of every kind that is decoded', async () => {
    for (const format of ['png', 'jpeg', 'webp', 'gif'] as const) {
      const bytes = await sharp({ create: { width: 20, height: 10, channels: 3, background: { r: 230, g: 120, b: 30 } } })
        .toFormat(format)
        .toBuffer();
      const artwork = await taken(
        svg(`<image width="100" height="50" href="data:image/${format};base64,${bytes.toString('base64')}"/>`)
      );
      near(await seen(artwork.id), ORANGE, 8);
    }
  });

  it('lettering in fonts of the file, of the shop, and in those that ship', async () => {
    const inter = readFileSync('node_modules/@fontsource/inter/files/inter-latin-400-normal.woff2').toString('base64');
    const text = (family: string, words: string) => `<text x="2" y="40" font-size="40" font-family="${family}">${words}</text>`;
    const held = await taken(
      svg(`<style>@font-face{font-family:House;src:url(data:font/woff2;base64,${inter})}</style>${text('House', 'Il')}`)
    );
    expect(held.facts?.findings).toEqual([]);
    const missing = await taken(svg(text('Harbour Script', 'Il')));
    expect(missing.facts?.findings).toMatchObject([{ kind: 'svg-font', what: 'Harbour Script', instead: 'Arimo' }]);
    expect(missing.facts?.findings[0]?.place?.height).toBeGreaterThan(4);
    const picture = async (id: number) =>
      (
        await sharp(await shop.pictures.page(id, 0, 300))
          .raw()
          .toBuffer()
      ).toString('latin1');
    expect(await picture(held.id)).not.toBe(await picture(missing.id));

    // A font of that name comes to the shop: drawings are looked at anew.
    const before = await picture(missing.id);
    const own = renamed(
      readFileSync('node_modules/@expo-google-fonts/cousine/700Bold/Cousine_700Bold.ttf'),
      'Cousine',
      'Harbour'
    );
    const font = await shop.fonts.take(own);
    expect(font.family).toBe('Harbour');
    const asked = await taken(svg(text('Harbour', 'Il')));
    expect(asked.facts?.findings).toEqual([]);
    expect(await picture(asked.id)).not.toBe(before);
    await shop.fonts.remove(font.id);
    await until(() => shop.artworks.get(asked.id).facts?.findings.length === 1);
    await expect(shop.fonts.take(Buffer.from('no font'))).rejects.toThrow(/TTF, OTF/);

    // Packed fonts are unpacked; fields are lettered in them by family and style.
    const packed = readFileSync('node_modules/@fontsource/inter/files/inter-latin-700-normal.woff');
    const bold = await shop.fonts.take(packed);
    expect(bold).toMatchObject({ family: 'Inter', style: 'Bold' });
    expect(bold.licence).toMatch(/licen[cs]e/i);
    const face = shop.fonts.faces().find(({ name }) => name === 'Inter Bold')!;
    expect(new TextFace(readFileSync(face.path)).line('Harbour', 0).missing).toEqual([]);
    await expect(shop.fonts.take(packed.subarray(0, packed.length / 2))).rejects.toThrow(
      /no font that can be used|breaks the program/
    );
    shop.fonts.remove(bold.id);
    expect(shop.fonts.faces().map(({ name }) => name)).not.toContain('Inter Bold');

    // “Łódź” whole, and what no font has is told.
    const wide = await taken(svg(text('Arial', 'Łódź Ж ✓ 港')));
    expect(wide.facts?.findings).toMatchObject([{ kind: 'svg-glyphs', what: '港' }]);
    expect(wide.facts?.findings[0]?.place?.height).toBeGreaterThan(4);
    // A font named by a style sheet is told where it counts.
    const styled = await taken(
      svg(
        `<style>.name{font-family:Berth}</style>${text('Arial', 'Il')}<text class="name" x="60" y="20" font-size="20">Il</text>`
      )
    );
    expect(styled.facts?.findings).toMatchObject([{ kind: 'svg-font', what: 'Berth' }]);
    expect(styled.facts?.findings[0]?.place?.x).toBeGreaterThan(10);
  });

  it('cut lines by name, in pictures and plates alike; effects become pixels, the lines stay lines', async () => {
    const artwork = await taken(
      svg(
        `<defs><filter id="soft"><feGaussianBlur stdDeviation="2"/></filter></defs>${red}<g filter="url(#soft)"><rect x="20" y="10" width="30" height="30" fill="#00f"/><path id="CutContour" d="M10 10H90V40H10Z" fill="none" stroke="#0f0" stroke-width="9"/></g>`
      )
    );
    const { facts } = artwork;
    expect(facts?.pages[0]?.spots).toMatchObject([{ name: 'CutContour', outlines: 1 }]);
    expect(facts?.findings).toMatchObject([{ kind: 'svg-filter', what: '1' }]);
    expect(shop.artworks.lines(artwork.id, 0)).toHaveLength(1);
    near(await seen(artwork.id, 0.9, 0.5), [255, 0, 0], 8);
    expect((await seen(artwork.id, 0.35, 0.5))[2]).toBeGreaterThan(200);
  });

  it.skipIf(!existsSync('/usr/bin/rsvg-convert'))('looks as another renderer shows it', async () => {
    const mixed = svg(
      `<defs><linearGradient id="g" gradientTransform="rotate(30)"><stop stop-color="#036"/><stop offset="1" stop-color="#fc0" stop-opacity=".3"/></linearGradient><clipPath id="c"><circle r="20" cx="50" cy="25"/></clipPath><mask id="m"><rect width="60" height="50" fill="#888"/></mask></defs><rect width="100" height="50" fill="url(#g)"/><g clip-path="url(#c)"><rect width="100" height="50" fill="#c06"/></g><path mask="url(#m)" d="M5 45C30 0 70 90 95 5" stroke="#000" stroke-width="6" fill="none" stroke-dasharray="8 3"/>`
    );
    const artwork = await taken(mixed);
    const file = join(folder.path, 'mixed.svg');
    writeFileSync(file, mixed);
    execFileSync('rsvg-convert', ['-w', '900', '-h', '450', '-b', 'white', '-o', join(folder.path, 'mixed.png'), file]);
    const shrunk = async (path: string): Promise<number[]> => [
      ...(await sharp(path).toColourspace('srgb').removeAlpha().resize(300, 150).raw().toBuffer())
    ];
    const ours = await shrunk(await shop.pictures.page(artwork.id, 0, 900));
    const theirs = await shrunk(join(folder.path, 'mixed.png'));
    const difference = ours.reduce((sum, v, i) => sum + Math.abs(v - (theirs[i] ?? 0)), 0) / ours.length;
    expect(difference).toBeLessThan(1);
  });
});

/** A font under another family of the same length, wherever its name stands. */
function renamed(font: Buffer, from: string, to: string): Buffer {
  const wide = (text: string) => Buffer.from(text, 'utf16le').swap16();
  const out = Buffer.from(font);
  for (const write of [(text: string) => Buffer.from(text, 'latin1'), wide])
    for (let at = out.indexOf(write(from)); at >= 0; at = out.indexOf(write(from), at + 1)) write(to).copy(out, at);
  return out;
}

describe('one file spoils nothing for the next', () => {
  it('two hundred drawings of gradients at full speed, each with its picture', async () => {
    const body = (i: number) =>
      `<svg xmlns="http://www.w3.org/2000/svg" width="40" height="40"><linearGradient id="a"><stop stop-color="#c0ff${(i % 90) + 10}"/><stop offset="1" stop-opacity=".2"/></linearGradient><radialGradient id="b" href="#a"/><rect width="40" height="40" fill="url(#a)"/><circle r="18" cx="20" cy="20" fill="url(#b)" stroke="url(#a)"/></svg>`;
    const all = await Promise.all(Array.from({ length: 200 }, (_, i) => take(body(i) + `<!--${i}-->`)));
    expect(all.filter(({ state }) => state !== 'ready').map(({ reason }) => reason)).toEqual([]);
    for (const { id } of all.slice(0, 40)) await shop.pictures.page(id, 0, 60);
  });

  it('damaged files between good ones: the good are taken, the others get a sentence', async () => {
    const good = (i: number) =>
      `<svg xmlns="http://www.w3.org/2000/svg" width="40" height="40"><rect width="${i + 5}" height="30" fill="#06c"/></svg>`;
    const sound = [
      Buffer.from(good(1)),
      rawPdf([
        '<</Type/Catalog/Pages 2 0 R>>',
        '<</Type/Pages/Kids[3 0 R]/Count 1>>',
        '<</Type/Page/Parent 2 0 R/MediaBox[0 0 9 9]/Contents 4 0 R>>',
        rawStream('', '0 0 5 5 re f')
      ]),
      await sharp({ create: { width: 30, height: 30, channels: 3, background: '#06c' } })
        .png()
        .toBuffer(),
      madeTiff({ width: 20, height: 20, photometric: 5, bits: 8, channels: 4, pixel: [0, 99, 99, 0] })
    ];
    const hurt = (bytes: Buffer, i: number) => {
      const out = Buffer.from(bytes);
      for (let k = 0; k < 4; k++) out[(i * 7919 + k * 104_729) % out.length] = (i * 31 + k * 17) & 255;
      return i % 5 === 0 ? out.subarray(0, out.length * 0.7) : out;
    };
    const work = Array.from({ length: 60 }, (_, i) => ({
      bytes: i % 2 ? hurt(sound[i % 4] as Buffer, i) : Buffer.from(good(i)),
      isGood: i % 2 === 0
    }));
    const all = await Promise.all(work.map(async ({ bytes, isGood }) => ({ isGood, artwork: await take(bytes) })));
    for (const { isGood, artwork } of all) {
      if (isGood) expect(artwork.reason).toBeNull();
      if (artwork.state === 'refused') expect(artwork.reason).toMatch(/^(The|Page|This) [^_{}]*\.$/);
    }
  });

  it('a file that takes for ever or all memory is refused, and holds nobody up', async () => {
    shop.settings.change({ ...shop.settings.current, intake: { seconds: 6, megabytes: 700 } });
    // Forms that draw the next ten times each, with clips, which are not counted as objects.
    const bomb = (i: number) =>
      rawPdf([
        '<</Type/Catalog/Pages 2 0 R>>',
        '<</Type/Pages/Kids[3 0 R]/Count 1>>',
        '<</Type/Page/Parent 2 0 R/MediaBox[0 0 99 99]/Contents 4 0 R/Resources<</XObject<</X 5 0 R>>>>>>',
        rawStream('', `0 0 ${i + 1} 9 re f /X Do`),
        ...Array.from({ length: 11 }, (_, k) =>
          rawStream(
            `/Type/XObject/Subtype/Form/BBox[0 0 99 99]${k < 10 ? `/Resources<</XObject<</X ${6 + k} 0 R>>>>` : ''}`,
            k < 10 ? '/X Do '.repeat(10) : '0 0 9 9 re W n'
          )
        )
      ]);
    let ended = 0;
    const bombs = Array.from({ length: 3 }, (_, i) => take(bomb(i)).finally(() => ended++));
    // They are at work already.
    await new Promise((resolve) => setTimeout(resolve, 300));
    const good = await Promise.all(
      Array.from({ length: 10 }, (_, i) =>
        take(`<svg xmlns="http://www.w3.org/2000/svg" width="40" height="4${i}"><rect width="9" height="9"/></svg>`)
      )
    );
    expect(good.every(({ state }) => state === 'ready')).toBe(true);
    expect(ended).toBeLessThan(bombs.length);
    for (const { state, reason } of await Promise.all(bombs)) {
      expect(state).toBe('unread');
      expect(reason).toMatch(/longer than 6 s|more than 700 MB/);
    }
    shop.settings.change({ ...shop.settings.current, intake: { seconds: 20, megabytes: 1000 } });
  });
});
