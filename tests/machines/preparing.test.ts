import { execFileSync } from 'node:child_process';
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import sharp, { type Sharp } from 'sharp';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { pageLine } from '$core/checks/cut-lines';
import { textFlats } from '$core/marks/lettering';
import { wideRgbProfile } from '$core/colour/icc-write';
import { bounds, flatten } from '$core/geometry/path';
import type { DocketChoices } from '$lib/docket-choices';
import { Shop } from '$lib/server/app/shop';
import { DocketEditing } from '$lib/server/dockets/docket-editing';
import { Dockets } from '$lib/server/dockets/dockets';
import { openDatabase } from '$lib/server/platform/db/open';
import { Events } from '$lib/server/platform/events';
import { cmykBox, lettering, madePdf, spotStroke } from '../made/pdf';
import { ALL, oneChunk, startStandIn, temporaryFolder, until, USUAL_MODE, type StandIn } from '../harness';

let printer: StandIn;
let shop: Shop;
let conditionId: number;
const folder = temporaryFolder();

beforeAll(async () => {
  printer = await startStandIn('printer');
  shop = new Shop(folder.path);
  const machine = shop.machines.add('printer', 'Petrel 13', printer.url);
  conditionId = shop.conditionEditing.add(machine, shop.media.addNew({ name: 'Gloss white film', costPerM2: 6 }).id, USUAL_MODE);
  shop.start();
  await until(() => shop.conditions.get(conditionId).hasProfile);
});
afterAll(async () => {
  await shop.close();
  printer.stop();
  folder.remove();
});

async function take(name: string, bytes: Uint8Array | string) {
  const { id } = await shop.artworks.take(name, oneChunk(bytes));
  await until(() => shop.artworks.get(id).state !== 'reading');
  return shop.artworks.get(id);
}
async function docketOf(bytes: Uint8Array | string, over: Partial<DocketChoices> = {}, name = 'made.pdf') {
  const artwork = await take(name, bytes);
  expect(artwork.reason).toBeNull();
  return shop.dockets.add(artwork.id, 0, { conditionId, ...over });
}
const smallPage = madePdf({ width: 40, height: 30, content: cmykBox('0.4 0 0 0', 0, 0, 40, 30) });
/** Mean colour of a part of a picture, shares of its size. */
async function seen(path: string, x = 0.25, y = 0.25, part = 0.1): Promise<number[]> {
  const { width, height } = await sharp(path).metadata();
  const area = {
    left: Math.floor(x * width),
    top: Math.floor(y * height),
    width: Math.max(1, Math.floor(part * width)),
    height: Math.max(1, Math.floor(part * height))
  };
  const { channels } = await sharp(await sharp(path).removeAlpha().extract(area).png().toBuffer()).stats();
  return channels.map((channel) => channel.mean);
}
const near = (a: readonly number[], b: readonly number[], by = 12) =>
  a.forEach((v, i) => expect(Math.abs(v - (b[i] ?? 0))).toBeLessThan(by));

describe('pictures come in right way round and in the right colour', () => {
  // Upper left quarter orange, the rest blue.
  const ORANGE = [230, 120, 30];
  const BLUE = [40, 70, 160];
  const raw = Uint8Array.from({ length: 80 * 60 * 3 }, (_, i) => {
    const [x, y] = [Math.floor(i / 3) % 80, Math.floor(i / 240)];
    return (x < 40 && y < 30 ? ORANGE : BLUE)[i % 3] ?? 0;
  });
  const picture = (): Sharp => sharp(raw, { raw: { width: 80, height: 60, channels: 3 } });
  const cases: [string, () => Promise<Buffer>, number][] = [
    ['JPEG', () => picture().jpeg({ quality: 98, chromaSubsampling: '4:4:4' }).toBuffer(), 12],
    ['CMYK JPEG, which is stored inverted', () => picture().toColourspace('cmyk').jpeg({ quality: 98 }).toBuffer(), 45],
    ['CMYK TIFF', () => picture().toColourspace('cmyk').tiff().toBuffer(), 45],
    ['PNG of 16 bits', () => picture().toColourspace('rgb16').png().toBuffer(), 12],
    ['TIFF of 16 bits', () => picture().toColourspace('rgb16').tiff().toBuffer(), 12],
    ['PNG with a palette', () => picture().png({ palette: true }).toBuffer(), 12],
    ['TIFF, compressed', () => picture().tiff({ compression: 'lzw' }).toBuffer(), 12]
  ];
  it.each(cases)('%s', async (_name, bytes, by) => {
    const artwork = await take('picture', await bytes());
    expect(artwork.reason).toBeNull();
    const path = await shop.pictures.page(artwork.id, 0, 240);
    near(await seen(path), ORANGE, by);
    near(await seen(path, 0.7, 0.7), BLUE, by);
  });

  it('turned by its EXIF mark', async () => {
    // Mark 6: to be turned a quarter clockwise, so that the orange corner comes to the upper right.
    const artwork = await take('turned.jpg', await picture().withMetadata({ orientation: 6 }).jpeg({ quality: 98 }).toBuffer());
    const path = await shop.pictures.page(artwork.id, 0, 240);
    near(await seen(path, 0.7, 0.2), ORANGE);
    near(await seen(path, 0.2, 0.2), BLUE);
  });

  it('grey and 1-bit', async () => {
    const grey = sharp(
      Uint8Array.from({ length: 40 * 40 }, (_, i) => (i % 40 < 20 ? 60 : 200)),
      { raw: { width: 40, height: 40, channels: 1 } }
    );
    for (const bytes of [
      await grey.clone().toColourspace('b-w').png().toBuffer(),
      await grey.clone().toColourspace('b-w').jpeg({ quality: 98 }).toBuffer()
    ]) {
      const path = await shop.pictures.page((await take('grey', bytes)).id, 0, 240);
      near(await seen(path), [60, 60, 60]);
      near(await seen(path, 0.7, 0.7), [200, 200, 200]);
    }
    const bit = await grey.clone().threshold(128).toColourspace('b-w').tiff({ bitdepth: 1, compression: 'ccittfax4' }).toBuffer();
    const path = await shop.pictures.page((await take('bit.tif', bit)).id, 0, 240);
    near(await seen(path), [0, 0, 0]);
    near(await seen(path, 0.7, 0.7), [255, 255, 255]);
  });

  it('with its own profile: the same figures mean another colour', async () => {
    const icc = join(folder.path, 'wide.icc');
    writeFileSync(icc, wideRgbProfile());
    const plain = sharp(
      Uint8Array.from({ length: 300 }, (_, i) => [150, 110, 90][i % 3] ?? 0),
      { raw: { width: 10, height: 10, channels: 3 } }
    );
    const tagged = join(folder.path, 'wide.png');
    await plain.withIccProfile(icc).png().toFile(tagged);
    // What an independent engine makes of it.
    const want = (await sharp(tagged).toColourspace('srgb').raw().toBuffer()).subarray(0, 3);
    const path = await shop.pictures.page((await take('wide.png', readFileSync(tagged))).id, 0, 240);
    near(await seen(path), [...want], 4);
  });

  it('of several pages in a TIFF, each a page', async () => {
    // Two pictures one below the other, which the coder keeps as pages.
    const tall = sharp(
      Uint8Array.from({ length: 20 * 40 * 3 }, (_, i) => (i < 20 * 20 * 3 ? ORANGE : BLUE)[i % 3] ?? 0),
      {
        raw: { width: 20, height: 40, channels: 3, pageHeight: 20 }
      } as Parameters<typeof sharp>[1]
    );
    const bytes = await tall.tiff().toBuffer();
    const pages = (await sharp(bytes).metadata()).pages ?? 1;
    const artwork = await take('pages.tif', bytes);
    expect(artwork.facts?.pages).toHaveLength(pages);
    expect(pages).toBe(2);
    near(await seen(await shop.pictures.page(artwork.id, 0, 240), 0.4, 0.4), ORANGE);
    near(await seen(await shop.pictures.page(artwork.id, 1, 240), 0.4, 0.4), BLUE);
  });
});

describe('PostScript', () => {
  const eps = `%!PS-Adobe-3.0 EPSF-3.0\n%%BoundingBox: 100 100 300 200\n%%EndComments\n1 0 0 setrgbcolor 100 100 100 100 rectfill\n0 1 0 0 setcmykcolor 200 100 100 100 rectfill\nshowpage\n%%EOF\n`;
  it.runIf(existsSync('/usr/bin/gs'))('is read through Ghostscript, cropped to its box, colours as they are', async () => {
    const artwork = await take('harbour.eps', eps);
    expect(artwork.reason).toBeNull();
    expect(artwork.facts).toMatchObject({
      format: 'PostScript',
      pages: [{ widthMm: expect.closeTo(70.56, 1), heightMm: expect.closeTo(35.28, 1) }]
    });
    expect(artwork.facts?.pages[0]?.colourSpaces).toEqual(['CMYK', 'RGB']);
    near(await seen(await shop.pictures.page(artwork.id, 0, 240)), [255, 0, 0]);
    const endless = await take('broken.eps', '%!PS-Adobe-3.0 EPSF-3.0\n(x) nosuchoperator\n');
    expect(endless.reason).toMatch(/PostScript is broken/);
  });
  it('says what to install where it is missing', async () => {
    process.env.ZING_GHOSTSCRIPT = 'no-such-ghostscript';
    try {
      expect((await take('harbour.eps', `${eps}% again`)).reason).toMatch(/Install the package “ghostscript”/);
    } finally {
      delete process.env.ZING_GHOSTSCRIPT;
    }
  });
});

describe('a docket', () => {
  const made = () =>
    madePdf({
      width: 100,
      height: 60,
      content: cmykBox('0.3 0.1 0 0', 0, 0, 100, 60) + spotStroke('20 20 m 60 20 l 60 40 l h'),
      spots: { 'Cut line': [0, 1, 0, 0] }
    });

  it('goes back and forward over everything, also after the shop was closed', async () => {
    let docket = await docketOf(made());
    const change = (part: Partial<DocketChoices>, joins = false) =>
      (docket = shop.docketEditing.change(docket.id, docket.version, { choices: { ...docket.choices, ...part } }, joins));
    expect(docket).toMatchObject({ canUndo: false, canRedo: false });
    change({ copies: 2 });
    change({ copies: 25 }, true);
    change({ turn: 90, widthMm: 60, heightMm: 100 });
    docket = shop.docketEditing.change(docket.id, docket.version, { note: 'Gloss side up', dueOn: '2027-08-28' });
    // As the next start of the server has it.
    const db = openDatabase(folder.path);
    const { settings, machines, conditions, artworks, tables } = shop;
    const events = new Events();
    const again = new Dockets({ db, events, settings, machines, conditions, artworks });
    const editing = new DocketEditing({ db, events, artworks, dockets: again, tables });
    docket = editing.go(docket.id, again.get(docket.id).version, -1);
    db.close();
    expect(docket).toMatchObject({ note: '', dueOn: '', choices: { turn: 90, copies: 25 }, canRedo: true });
    docket = shop.docketEditing.go(docket.id, docket.version, -1);
    docket = shop.docketEditing.go(docket.id, docket.version, -1);
    // The two typed together went back together.
    expect(docket).toMatchObject({ choices: { turn: 0, copies: 1 }, canUndo: false });
    expect(() => shop.docketEditing.go(docket.id, docket.version, -1)).toThrow(/nothing to take back/);
    docket = shop.docketEditing.go(docket.id, docket.version, 1);
    expect(docket.choices.copies).toBe(25);
    docket = shop.docketEditing.change(docket.id, docket.version, { note: 'another way' });
    expect(docket.canRedo).toBe(false);
  });

  it('is made of many pages in one go, changed with others, and gives its choices on', async () => {
    const artwork = await take(
      'many.pdf',
      madePdf(...[1, 2, 3].map((i) => ({ width: 50 * i, height: 40, content: cmykBox('0.5 0 0 0', 5, 5, 20, 20) })))
    );
    const ids = shop.dockets.addMany([0, 2].map((page) => ({ artworkId: artwork.id, page })));
    expect(ids.map((id) => shop.dockets.get(id).choices.widthMm)).toEqual([expect.closeTo(50, 3), expect.closeTo(150, 3)]);
    expect(() =>
      shop.dockets.addMany([
        { artworkId: artwork.id, page: 1 },
        { artworkId: artwork.id, page: 9 }
      ])
    ).toThrow(/no page 10/);
    expect(
      shop.artworks
        .list(ALL, 0)
        .rows.filter((line) => line.artworkId === artwork.id)
        .map(({ ofFile }) => ofFile)
    ).toContain(2);
    shop.docketEditing.changeMany(ids, { customer: 'Ferry company', priority: 'high', choices: { copies: 3 } });
    for (const id of ids)
      expect(shop.dockets.get(id)).toMatchObject({
        customer: 'Ferry company',
        priority: 'high',
        choices: { copies: 3 },
        canUndo: true
      });
    const [from = 0, to = 0] = ids;
    const source = shop.dockets.get(from);
    shop.docketEditing.change(from, source.version, {
      choices: {
        ...source.choices,
        bleedMm: 4,
        bleedFrom: 'mirror',
        cut: true,
        lines: { ...source.choices.lines, made: [pageLine()] }
      }
    });
    shop.docketEditing.copyChoices(from, [to], ['bleed', 'cut']);
    expect(shop.dockets.get(to).choices).toMatchObject({
      bleedMm: 4,
      bleedFrom: 'mirror',
      cut: true,
      widthMm: expect.closeTo(150, 3)
    });
  });

  it('keeps everything when a newer version of its artwork takes the place, and shows what changed', async () => {
    const docket = await docketOf(made(), { copies: 7, bleedMm: 2, bleedFrom: 'stretch' });
    const newer = await take(
      'newer.pdf',
      madePdf({
        width: 100,
        height: 60,
        content: cmykBox('0.3 0.1 0 0', 0, 0, 100, 60) + cmykBox('0 1 1 0', 70, 10, 10, 30),
        spots: {}
      })
    );
    const after = shop.docketEditing.replaceArtwork(docket.id, docket.version, newer.id, 0);
    expect(after).toMatchObject({
      artworkId: newer.id,
      choices: { copies: 7, bleedMm: 2, bleedFrom: 'stretch' },
      previous: { name: 'made.pdf' }
    });
    const { share, picture } = await shop.pictures.compare(docket.id);
    // The red box alone is 5 % of the page; the cut line is drawn in neither.
    expect(share).toBeGreaterThan(0.045);
    expect(share).toBeLessThan(0.075);
    const marked = await sharp(picture).metadata();
    expect(marked.width / marked.height).toBeCloseTo(100 / 60, 1);
    expect(() => shop.artworks.remove(docket.artworkId)).toThrow(/used by/);
    expect(shop.docketEditing.go(docket.id, after.version, -1).artworkId).toBe(docket.artworkId);
  });

  it('is measured in its inks: total ink, reach of colours, and what lies on the cut line', async () => {
    // A quarter in a green that no four inks reach; the cut line runs through the edge of it.
    const content = `0 1 0 rg 0 0 50 60 re f ${cmykBox('0.2 0.1 0.1 0', 50, 0, 50, 60)}${spotStroke('30 20 m 90 20 l 90 40 l 30 40 l h')}`;
    const docket = await docketOf(madePdf({ width: 100, height: 60, content, spots: { 'Cut line': [0, 1, 0, 0] } }), {
      cut: true
    });
    const measured = await shop.pictures.measured(docket.id);
    expect(measured.inked).toBeCloseTo(1, 2);
    expect(measured.gamut.share).toBeGreaterThan(0.45);
    expect(measured.gamut.share).toBeLessThan(0.55);
    expect(measured.gamut.worst).toBeGreaterThan(8);
    expect(measured.totalInk.most).toBeLessThan(2.65);
    expect(measured.cutInk?.changes).toBe(0);
    const proof = await shop.pictures.map(docket.id, 'proof');
    const [r = 0, g = 0, b = 0] = await seen(proof);
    expect(g).toBeGreaterThan(r + 40);
    expect(g).toBeLessThan(230);
    expect(b).toBeLessThan(160);
    const white = await docketOf(
      madePdf({
        width: 100,
        height: 60,
        content: cmykBox('1 0.5 0 0', 0, 0, 50, 60) + spotStroke('30 20 m 90 20 l 90 40 l 30 40 l h'),
        spots: { 'Cut line': [0, 1, 0, 0] }
      }),
      { cut: true }
    );
    const half = (await shop.pictures.measured(white.id)).cutInk;
    expect(half?.changes).toBe(2);
    expect(half?.share).toBeCloseTo((20 + 20 + 20) / 160, 1);
  });

  it('finds its cut line: what is opaque, what differs from the background, and the shapes drawn', async () => {
    const rgb = new Uint8Array(400 * 300 * 3).fill(255);
    const alpha = Uint8Array.from({ length: 400 * 300 }, (_, i) =>
      Math.hypot((i % 400) - 200, Math.floor(i / 400) - 150) < 100 ? 255 : 0
    );
    const clear = await docketOf(
      madePdf({ width: 80, height: 60, content: '80 0 0 60 0 0 cm /P Do', picture: { width: 400, height: 300, rgb, alpha } })
    );
    const box = async (id: number, how: 'opaque' | 'background' | 'shapes', threshold: number) => {
      const outline = await shop.pictures.trace(id, how, threshold, null);
      const docket = shop.dockets.get(id);
      const line = { ...pageLine(), from: { kind: 'found' as const, how, threshold, background: null, outline } };
      const kept = shop.docketEditing.change(id, docket.version, {
        choices: {
          ...docket.choices,
          cut: true,
          lines: { ...docket.choices.lines, customer: { ...docket.choices.lines.customer, use: false }, made: [line] }
        }
      });
      return bounds(flatten(shop.preparedDockets.get(kept).finished[0]?.outline ?? [], 0.05));
    };
    const around = await box(clear.id, 'opaque', 0.5);
    expect(around?.x).toBeCloseTo(20, 0);
    expect(around?.width).toBeCloseTo(40, 0);
    const art = await docketOf(
      madePdf({
        width: 80,
        height: 60,
        content: `0.9 0.9 1 rg 0 0 80 60 re f ${cmykBox('1 0.2 0 0.1', 20, 15, 40, 20)}${lettering('0 0 0 1 k', 22, 40, 8, 'Tea')}`
      })
    );
    // Half a difference of colour is not quite half of a pixel: each edge is found to 0.06 mm.
    const differs = await box(art.id, 'background', 15);
    expect(Math.abs(differs!.x - 20)).toBeLessThan(0.06);
    expect(Math.abs(differs!.x + differs!.width - 60)).toBeLessThan(0.06);
    const shapes = await docketOf(
      madePdf({
        width: 80,
        height: 60,
        content: `${cmykBox('1 0.2 0 0.1', 20, 15, 40, 20)}${cmykBox('0 1 0 0', 50, 5, 20, 20)}1 0 0 RG 4 w 10 50 m 30 50 l S`
      })
    );
    const found = await box(shapes.id, 'shapes', 0);
    expect(found?.x).toBeCloseTo(8, 1);
    expect((found?.x ?? 0) + (found?.width ?? 0)).toBeCloseTo(70, 2);
    await expect(shop.pictures.trace(shapes.id, 'background', 120, null)).rejects.toThrow(/Nothing is found/);
  });
});

describe('roles', () => {
  it('decide what prints, at once, by rule or by docket', async () => {
    const content = `/S0 cs 1 scn 0 0 50 60 re f /S1 cs 1 scn 50 0 50 60 re f`;
    const docket = await docketOf(
      madePdf({ width: 100, height: 60, content, spots: { 'Harbour blue': [1, 0.6, 0, 0], White: [0.3, 0, 0, 0] } })
    );
    const colours = async () => {
      const path = await shop.pictures.docket(docket.id, 240);
      return [await seen(path, 0.2), await seen(path, 0.7)].map(([r = 0]) => (r > 250 ? 'paper' : 'ink'));
    };
    expect(await colours()).toEqual(['ink', 'paper']);
    const { version, choices } = shop.dockets.get(docket.id);
    shop.docketEditing.change(docket.id, version, {
      choices: { ...choices, roles: { 'Harbour blue': 'guide', White: 'prints' } }
    });
    expect(await colours()).toEqual(['paper', 'ink']);
  });
});

describe('plates', () => {
  it('hold the made bleed and the lines as chosen, turned and mirrored', async () => {
    const docket = await docketOf(madePdf({ width: 60, height: 40, content: cmykBox('0 0 0 1', 0, 0, 60, 40) }), {
      bleedMm: 5,
      bleedFrom: 'mirror',
      turn: 90,
      mirror: true,
      widthMm: 40,
      heightMm: 60,
      mayTurn: false
    });
    const { choices } = docket;
    const line = { ...pageLine(), tool: 'through cut' as const, offsetMm: -1 };
    shop.docketEditing.change(docket.id, docket.version, {
      choices: { ...choices, cut: true, lines: { ...choices.lines, made: [line], tabs: { count: 3, lengthMm: 1 } } }
    });
    const run = shop.layingOut.add([docket.id])[0]!;
    await shop.tasks.ended((await shop.ripping.rip(run)).id);
    const { cuts, plan } = shop.runs.frozen(run);
    expect(cuts.map((cut) => cut.tool)).toEqual(['through cut']);
    expect(flatten(cuts[0]?.path ?? [], 0.01)).toHaveLength(3);
    const box = bounds(flatten(cuts[0]?.path ?? [], 0.01));
    expect(box?.width).toBeCloseTo(38, 1);
    expect(box?.height).toBeCloseTo(58, 1);
    const [piece] = plan.pieces;
    expect((box?.x ?? 0) - (piece?.x ?? 0)).toBeCloseTo(6, 1);
    // Black over all of 50 × 70 mm, bleed and all, with no seam: the plate's own coverage says so.
    const { result } = shop.runs.get(run);
    const drops = result?.drops[3] ?? [0, 0, 0];
    const pixels = (50 / 25.4) * 720 * ((70 / 25.4) * 720);
    const marks = plan.marks.length * Math.PI * 9 * (720 / 25.4) ** 2;
    const letters = (plan.letters ?? []).flatMap(({ text, heightMm }) => textFlats(text, heightMm).flats);
    const code = [...(plan.flats ?? []), ...letters].reduce((sum, flat) => sum + flat.width * flat.height, 0) * (720 / 25.4) ** 2;
    expect((drops[0] + drops[1] + drops[2]) / (pixels + marks + code)).toBeCloseTo(1, 2);
    if (existsSync('/usr/bin/tiffinfo'))
      expect(execFileSync('tiffinfo', [shop.runs.plates(run).plates]).toString()).toContain('Samples/Pixel: 4');
  });
});

describe('steps of a docket', () => {
  it('say nothing of a condition that was deleted, and never another in its place', async () => {
    const { id } = await docketOf(smallPage);
    const { machineId } = shop.conditions.get(conditionId);
    const addTo = (name: string) => shop.conditionEditing.add(machineId, shop.media.addNew({ name }).id, USUAL_MODE);
    const turnTo = (to: number) => {
      const { version, choices } = shop.dockets.get(id);
      return shop.docketEditing.change(id, version, { choices: { ...choices, conditionId: to } });
    };
    const other = addTo('Ebb banner');
    turnTo(other);
    const { version } = turnTo(conditionId);
    await until(() => shop.conditions.get(other).hasProfile);
    shop.conditionEditing.remove(other);
    expect(addTo('Ebb cloth')).toBeGreaterThan(other);
    const back = shop.docketEditing.go(id, version, -1);
    expect(back.choices.conditionId).toBeNull();
    expect(shop.docketChecking.worst(id)).toBeDefined();
    expect(shop.docketEditing.go(id, back.version, -1).choices.conditionId).toBe(conditionId);
  });

  it('say nothing of another artwork under the number of one that was deleted', async () => {
    const first = await take('first.pdf', smallPage);
    shop.artworks.remove(first.id);
    expect((await take('second.pdf', smallPage)).id).toBeGreaterThan(first.id);
  });
});
