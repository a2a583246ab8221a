import { execFileSync } from 'node:child_process';
import { existsSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { crc32, deflateSync } from 'node:zlib';
import sharp from 'sharp';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { openEngine } from '$core/colour/lcms';
import { D50, deltaE00, srgbToXyz, xyzToLab, type Triple } from '$core/colour/lab';
import { distanceTo } from '$core/geometry/path';
import { Shop } from '$lib/server/shop';
import { berthMarker, buoyTagSvg, harbourPicture, menuBoard, pdf } from '../../demo/artwork';
import { oneChunk, startStandIn, temporaryFolder, until, type StandIn } from '../harness';

let printer: StandIn;
let cutter: StandIn;
let shop: Shop;
let conditionId: number;
const folder = temporaryFolder();

beforeAll(async () => {
  [printer, cutter] = await Promise.all([startStandIn('printer'), startStandIn('cutter', { SEED: '5' })]);
  shop = new Shop(folder.path);
  const machine = shop.machines.add('printer', 'Petrel 13', printer.url);
  shop.machines.add('cutter', 'Tern 130', cutter.url);
  conditionId = shop.conditions.add(machine, shop.conditions.addMedia('Gloss white film', 'gloss', 6), {
    name: '720 × 720, 8 passes',
    dpi: 720,
    passes: 8
  });
  shop.start();
  await until(() => shop.conditions.get(conditionId).hasProfile && shop.machines.list().every((m) => m.online));
}, 120_000);

afterAll(async () => {
  await shop.close();
  printer.stop();
  cutter.stop();
  folder.remove();
});

async function take(name: string, bytes: Uint8Array | string) {
  const { id } = await shop.artworks.take(name, oneChunk(bytes));
  await until(() => shop.artworks.get(id).state !== 'reading');
  return shop.artworks.get(id);
}

describe('artwork', () => {
  it('finds size, boxes, cut paths and spot colours of a PDF', async () => {
    const { facts } = await take('berth.pdf', await berthMarker());
    const page = facts?.pages[0];
    expect(page?.widthMm).toBeCloseTo(90, 2);
    expect(page?.bleedMm).toBeCloseTo(3, 1);
    expect(page?.spots).toEqual(['CutContour']);
    expect(page?.cutPaths).toHaveLength(1);
    expect(facts?.fontsNotEmbedded).toEqual(['Helvetica-Bold']);
  });

  it('makes cut paths of an SVG’s layers', async () => {
    const { facts } = await take('tag.svg', buoyTagSvg());
    const page = facts?.pages[0];
    expect(page?.widthMm).toBeCloseTo(60, 1);
    expect(page?.cutPaths.map((cut) => cut.spot)).toEqual(['Through Cut', 'Through Cut']);
  });

  it('takes pictures, with alpha, as CMYK, and turned upright', async () => {
    const jpeg = await harbourPicture(300, 200);
    const size = async (name: string, bytes: Buffer) => {
      const artwork = await take(name, bytes);
      expect(artwork.reason).toBeNull();
      return artwork.facts?.pages[0]?.images[0];
    };
    expect(await size('a.jpg', jpeg)).toMatchObject({ widthPx: 300, heightPx: 200, colourSpace: 'RGB' });
    expect(await size('b.png', await sharp(jpeg).ensureAlpha(0.5).png().toBuffer())).toMatchObject({
      widthPx: 300,
      heightPx: 200
    });
    expect(await size('c.tif', await sharp(jpeg).toColourspace('cmyk').tiff().toBuffer())).toMatchObject({
      widthPx: 300,
      colourSpace: 'CMYK'
    });
    expect(await size('d.jpg', await sharp(jpeg).withMetadata({ orientation: 6 }).jpeg().toBuffer())).toMatchObject({
      widthPx: 200,
      heightPx: 300
    });
  });

  it.each([
    ['no format', Buffer.from('hello there'), /format is not known/],
    ['empty', Buffer.alloc(0), /empty/],
    ['broken PDF', Buffer.from('%PDF-1.7 rubbish'), /broken|no pages/],
    ['broken PNG', Buffer.from('\x89PNG\r\n\x1a\nxxxxxxxx', 'latin1'), /broken/],
    ['PostScript', Buffer.from('%!PS-Adobe-3.0 EPSF-3.0'), /as PDF/],
    ['SVG without a size', Buffer.from('<svg xmlns="http://www.w3.org/2000/svg"><rect/></svg>'), /no size/]
  ])('refuses %s with a sentence, and keeps no file', async (_what, bytes, sentence) => {
    const before = readdirSync(join(folder.path, 'files'), { recursive: true }).length;
    const artwork = await take('bad', bytes);
    expect(artwork.state).toBe('refused');
    expect(artwork.reason).toMatch(sentence);
    await until(
      () =>
        readdirSync(join(folder.path, 'files'), { recursive: true, withFileTypes: true }).filter((f) => f.isFile()).length <=
        before
    );
  });

  it('refuses a locked PDF and a picture bomb', async () => {
    if (existsSync('/usr/bin/gs')) {
      const open = join(folder.path, 'open.pdf');
      writeFileSync(open, await berthMarker());
      execFileSync('gs', [
        '-q',
        '-dBATCH',
        '-dNOPAUSE',
        '-sDEVICE=pdfwrite',
        '-sOwnerPassword=a',
        '-sUserPassword=b',
        '-dEncryptionR=3',
        '-dKeyLength=128',
        '-dPermissions=-4',
        `-sOutputFile=${open}.locked`,
        open
      ]);
      expect((await take('locked.pdf', readFileSync(`${open}.locked`))).reason).toMatch(/password/);
    }
    // A head that promises 900 megapixels, and next to nothing behind it.
    const chunk = (type: string, data: Buffer) => {
      const body = Buffer.concat([Buffer.from(type, 'latin1'), data]);
      const frame = Buffer.alloc(8);
      frame.writeUInt32BE(data.length, 0);
      frame.writeUInt32BE(crc32(body), 4);
      return Buffer.concat([frame.subarray(0, 4), body, frame.subarray(4)]);
    };
    const head = Buffer.alloc(13);
    head.writeUInt32BE(30_000, 0);
    head.writeUInt32BE(30_000, 4);
    head.set([8, 2], 8);
    const bomb = Buffer.concat([
      Buffer.from('\x89PNG\r\n\x1a\n', 'latin1'),
      chunk('IHDR', head),
      chunk('IDAT', deflateSync(Buffer.alloc(1e6))),
      chunk('IEND', Buffer.alloc(0))
    ]);
    expect((await take('bomb.png', bomb)).reason).toMatch(/900 megapixels/);
  }, 60_000);
});

/** RIPs dockets in a run of their own and gives its number. */
async function ripped(artworkId: number, over: Parameters<Shop['dockets']['add']>[2] = {}): Promise<number> {
  const docket = shop.dockets.add(artworkId, 0, { conditionId, ...over });
  const runId = shop.runs.add([docket.id]);
  const task = await shop.tasks.ended(shop.runs.rip(runId).id);
  expect(task.error).toBeNull();
  return runId;
}

async function printed(runId: number): Promise<number> {
  const [print] = shop.printing.start(runId, 1, 1);
  await until(() => shop.printing.get(print!.id).endedAt !== null);
  expect(shop.printing.get(print!.id)).toMatchObject({ state: 'done', reason: null });
  return print!.id;
}

describe('from a file to a cut roll', () => {
  it('prints the right colours at the right place, cuts along the print, and uses up the roll', async () => {
    // Four flat patches that sRGB can show, and a cut line around.
    const patches: [number, number, number, number][] = [
      [45, 10, 0, 0],
      [0, 80, 60, 0],
      [40, 10, 70, 10],
      [0, 0, 0, 100]
    ];
    const artwork = await take(
      'patches.pdf',
      await pdf({ width: 100, height: 80, bleed: 2, cut: (doc) => doc.rect(5, 5, 90, 70) }, (doc) => {
        patches.forEach((colour, i) => doc.rect(10 + i * 20, 20, 20, 30).fill(colour));
      })
    );
    const left = shop.machines.get(1).printer!.media.lengthMm;
    const runId = await ripped(artwork.id, { copies: 3, bleedMm: 2 });
    const frozen = shop.runs.frozen(runId);

    // Another reader takes the plates for what they are.
    if (existsSync('/usr/bin/tiffinfo')) {
      const info = execFileSync('tiffinfo', [shop.runs.plates(runId).plates], {
        encoding: 'utf8',
        stdio: ['ignore', 'pipe', 'pipe']
      });
      const { result } = shop.runs.get(runId);
      expect(info).toContain(`Image Width: ${result?.widthPx} Image Length: ${result?.heightPx}`);
      expect(info).toContain('Bits/Sample: 2');
      expect(info).toContain('Planar Configuration: separate image planes');
      expect(info).toMatch(/Ink Names: Cyan, Magenta, Yellow, Black/);
      const raw = join(folder.path, 'raw.tif');
      execFileSync('tiffcp', ['-c', 'none', shop.runs.plates(runId).plates, raw], { stdio: 'ignore' });
      expect(existsSync(raw)).toBe(true);
    }

    const printId = await printed(runId);
    await shop.machines.lookNow();
    expect(left - shop.machines.get(1).printer!.media.lengthMm).toBeCloseTo(frozen.plan.lengthMm, 1);

    const png = await shop.printing.output(printId);
    const { data, info } = await sharp(png).raw().toBuffer({ resolveWithObject: true });
    const light = (xMm: number, yMm: number): Triple => {
      const sum: Triple = [0, 0, 0];
      const cx = Math.round((xMm / 25.4) * 90);
      const cy = Math.round((yMm / 25.4) * 90);
      for (let y = cy - 12; y < cy + 12; y++) {
        for (let x = cx - 12; x < cx + 12; x++) {
          const at = (y * info.width + x) * 3;
          srgbToXyz([data[at]! / 255, data[at + 1]! / 255, data[at + 2]! / 255]).forEach(
            (v, i) => (sum[i as 0 | 1 | 2] += v / 576)
          );
        }
      }
      return sum;
    };
    const bare = light(frozen.plan.widthMm - 20, 20);
    /** The colour at a place as seen against the bare paper, as the profile holds it. */
    const lab = (xMm: number, yMm: number): Triple => {
      const seen = light(xMm, yMm);
      return xyzToLab([0, 1, 2].map((i) => (seen[i]! / bare[i]!) * D50[i]!) as Triple);
    };
    // What the profiles say: customer's CMYK → L*a*b* → the condition's inks → L*a*b*, relative to the paper.
    const engine = await openEngine();
    const profile = Uint8Array.from(readFileSync(shop.conditions.profilePath(conditionId)));
    const toInks = engine.deviceToCmyk(Uint8Array.from(readFileSync((await shop.conditions.sources()).cmyk)), 'CMYK', profile);
    const toLab = engine.deviceToLab(profile, 'CMYK', 'relative');
    for (const piece of frozen.plan.pieces) {
      expect(piece.turned).toBe(false);
      for (const [i, colour] of patches.entries()) {
        const inks = i === 3 ? [0, 0, 0, 1] : [...toInks(Float32Array.from(colour.map((v) => v / 100)))];
        const seen = lab(piece.x + 2 + 10 + i * 20 + 10, piece.y + 2 + 20 + 15);
        expect(deltaE00(seen, toLab(inks))).toBeLessThan(3);
      }
      // Between the patches and the cut there is bare paper: the cut line itself does not print.
      expect(deltaE00(lab(piece.x + 2 + 50, piece.y + 2 + 5), [100, 0, 0])).toBeLessThan(0.5);
    }

    const cut = shop.cutting.list().find((task) => task.printId === printId);
    await shop.cutting.load(cut!.id);
    const fit = await shop.cutting.findMarks(cut!.id);
    expect(fit.worst).toBeLessThan(0.1);
    await shop.cutting.cut(cut!.id);
    const lines = await shop.cutting.asCut(cut!.id);
    expect(lines).toHaveLength(3);
    // Every point that the knife went to lies on the rectangle as it was printed.
    for (const piece of frozen.plan.pieces) {
      const [x, y] = [piece.x + 2 + 5, piece.y + 2 + 5];
      const truth = {
        closed: true,
        points: [
          { x, y },
          { x: x + 90, y },
          { x: x + 90, y: y + 70 },
          { x, y: y + 70 }
        ]
      };
      const own = lines.filter((line) => line.every((p) => distanceTo(truth, p) < 5));
      expect(own).toHaveLength(1);
      expect(Math.max(...own[0]!.map((p) => distanceTo(truth, p)))).toBeLessThan(0.2);
    }
  }, 120_000);

  it('keeps pure black pure, and repeats a RIP to the byte', async () => {
    const artwork = await take('menu.pdf', await menuBoard());
    const black = await take(
      'black.pdf',
      await pdf({ width: 60, height: 40, bleed: 0 }, (doc) =>
        doc.font('Helvetica').fontSize(9).fillColor([0, 0, 0, 100]).text('Only black here', 5, 10, { lineBreak: false })
      )
    );
    const runId = await ripped(black.id);
    const { result } = shop.runs.get(runId);
    expect(
      result?.drops
        .slice(0, 3)
        .flat()
        .every((count) => count === 0)
    ).toBe(true);
    expect(result?.drops[3]?.[2]).toBeGreaterThan(1000);
    await printed(runId);

    const first = await ripped(artwork.id, { widthMm: 200, heightMm: 300, copies: 2 });
    const bytes = readFileSync(shop.runs.plates(first).overview);
    await shop.tasks.ended(shop.runs.rip(first).id);
    expect(readFileSync(shop.runs.plates(first).overview).equals(bytes)).toBe(true);
    await printed(first);
  }, 120_000);
});

describe('when something goes wrong', () => {
  it('cancels a RIP within a second and leaves nothing behind', async () => {
    const artwork = await take('menu2.pdf', await menuBoard());
    const docket = shop.dockets.add(artwork.id, 0, { conditionId, copies: 6 });
    const runId = shop.runs.add([docket.id]);
    const { id } = shop.runs.rip(runId);
    await until(() => (shop.tasks.latest('rip', runId)?.share ?? 0) > 0);
    const start = performance.now();
    shop.tasks.cancel(id);
    expect((await shop.tasks.ended(id)).state).toBe('cancelled');
    expect(performance.now() - start).toBeLessThan(1000);
    expect(shop.runs.get(runId).state).toBe('laying out');
    expect(readdirSync(join(folder.path, 'plates')).filter((name) => name.includes(`run-${runId}-`))).toEqual([]);
    await shop.runs.remove(runId);
  }, 60_000);

  const control = (path: string, body: unknown) => fetch(`${printer.url}${path}`, { method: 'POST', body: JSON.stringify(body) });

  it('says why a machine cannot print, stops for a fault and goes on', async () => {
    const artwork = await take('b2.pdf', await berthMarker(2));
    const runId = await ripped(artwork.id, { copies: 4 });
    await control('/media', { name: 'Matt banner', surface: 'matt', widthMm: 1300, lengthMm: 20_000 });
    await shop.machines.lookNow();
    expect(() => shop.printing.start(runId, 1, 1)).toThrow(/Matt banner loaded; the run is for Gloss/);
    await control('/media', { name: 'Gloss white film', surface: 'gloss', widthMm: 1000, lengthMm: 20_000 });
    await shop.machines.lookNow();
    expect(() => shop.printing.start(runId, 1, 1)).toThrow(/1000 mm wide|changed since/);
    await control('/media', { name: 'Gloss white film', surface: 'gloss', widthMm: 1300, lengthMm: 50 });
    await shop.machines.lookNow();
    expect(() => shop.printing.start(runId, 1, 1)).toThrow(/0.05 m are left/);
    await control('/media', { name: 'Gloss white film', surface: 'gloss', widthMm: 1300, lengthMm: 20_000 });
    await shop.machines.lookNow();

    const [print] = shop.printing.start(runId, 1, 1);
    await control('/faults', { coverOpen: true });
    await until(() => shop.printing.get(print!.id).state === 'stopped');
    await control('/faults', { coverOpen: false });
    await until(() => shop.printing.get(print!.id).state === 'done');
  }, 60_000);

  it('says where a lost print stopped', async () => {
    const artwork = await take('b3.pdf', await berthMarker(3));
    const runId = await ripped(artwork.id, { copies: 4 });
    await control('/faults', { lostForSeconds: 1 });
    const [print] = shop.printing.start(runId, 1, 1);
    await until(() => shop.printing.get(print!.id).endedAt !== null);
    const lost = shop.printing.get(print!.id);
    expect(lost.state).toBe('failed');
    expect(lost.reason).toMatch(/0\.\d\d m of 0\.\d\d m/);
    expect(lost.printedMm).toBeGreaterThan(0);
    expect(lost.printedMm).toBeLessThan(lost.lengthMm);
    await shop.machines.lookNow();
    await printed(runId);
  }, 60_000);
});
