import { execFileSync } from 'node:child_process';
import { existsSync, mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { crc32, deflateSync } from 'node:zlib';
import sharp from 'sharp';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { openEngine } from '$core/colour/lcms';
import { D50, deltaE00, srgbToXyz, xyzToLab, type Triple } from '$core/colour/lab';
import { bounds, distanceTo, flatten } from '$core/geometry/path';
import { FileStore, isDiskFull } from '$lib/server/platform/files';
import { inkAt } from '$lib/server/production/plates';
import { Shop } from '$lib/server/app/shop';
import { ripToFile } from '$lib/server/production/rip';
import { berthMarker, buoyTagSvg, harbourPicture, menuBoard, pdf } from '../../demo/artwork';
import { ALL, oneChunk, startStandIn, temporaryFolder, until, USUAL_MODE, type StandIn } from '../harness';

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
  conditionId = shop.conditionEditing.add(machine, shop.media.addNew({ name: 'Gloss white film', costPerM2: 6 }).id, USUAL_MODE);
  shop.start();
  await until(() => shop.conditions.get(conditionId).hasProfile && shop.machines.list().every((m) => m.online));
});

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
    const { id, facts } = await take('berth.pdf', await berthMarker());
    const page = facts?.pages[0];
    expect(page?.widthMm).toBeCloseTo(90, 2);
    expect(page?.bleedMm).toBeCloseTo(3, 1);
    expect(page?.spots.map((spot) => spot.name)).toEqual(['Cut line']);
    expect(shop.artworks.lines(id, 0)).toHaveLength(1);
    expect(facts?.fontsNotEmbedded).toEqual([]);
  });

  it('makes cut paths of an SVG’s layers', async () => {
    const { id, facts } = await take('tag.svg', buoyTagSvg());
    const page = facts?.pages[0];
    expect(page?.widthMm).toBeCloseTo(60, 1);
    expect(shop.artworks.lines(id, 0).map((line) => line.spot)).toEqual(['Through Cut', 'Through Cut']);
  });

  it('draws an SVG with filters as pixels, says so, and keeps its cut lines as lines', async () => {
    const svg = `<svg xmlns="http://www.w3.org/2000/svg" width="40mm" height="30mm" viewBox="0 0 40 30">
      <filter id="soft"><feGaussianBlur stdDeviation="2"/></filter>
      <rect x="8" y="8" width="24" height="14" fill="#c03020" filter="url(#soft)"/>
      <path class="line cutline" d="M4 4H36V26H4Z" fill="none" stroke="#00f"/>
    </svg>`;
    const { id, facts } = await take('soft.svg', svg);
    expect(facts?.findings).toMatchObject([{ kind: 'svg-filter', what: '1', instead: '300' }]);
    expect(facts?.pages[0]?.images[0]?.ppi).toBeGreaterThan(290);
    const lines = shop.artworks.lines(id, 0);
    expect(lines).toHaveLength(1);
    const corner = lines[0]?.path[0];
    expect(corner).toMatchObject({ kind: 'move' });
    if (corner?.kind === 'move') {
      expect(corner.to.x).toBeCloseTo(4, 1);
      expect(corner.to.y).toBeCloseTo(4, 1);
    }
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
    ['broken PNG', Buffer.from('\x89PNG\r\n\x1a\nxxxxxxxx', 'latin1'), /damaged.*new copy/],
    ['empty PostScript', Buffer.from('%!PS-Adobe-3.0 EPSF-3.0'), /empty|broken|no pages|ghostscript/],
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
  });
});

/** RIPs dockets in a run of their own and gives its number. */
async function ripped(artworkId: number, over: Parameters<Shop['dockets']['add']>[2] = {}): Promise<number> {
  const docket = shop.dockets.add(artworkId, 0, { conditionId, ...over });
  const runId = shop.layingOut.add([docket.id])[0]!;
  const task = await shop.tasks.ended((await shop.ripping.rip(runId)).id);
  expect(task.error).toBeNull();
  return runId;
}

async function printed(runId: number): Promise<number> {
  const [print] = await shop.printing.start(runId, 1, 1);
  await until(() => shop.prints.get(print!.id).endedAt !== null);
  expect(shop.prints.get(print!.id)).toMatchObject({ state: 'done', reason: null });
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
    const toInks = engine.deviceToCmyk(Uint8Array.from(readFileSync((await shop.sources.paths()).cmyk)), 'CMYK', profile);
    const toLab = engine.deviceToLab(profile, 'CMYK', 'relative');
    for (const piece of frozen.plan.pieces) {
      expect(piece.turn).toBe(0);
      for (const [i, colour] of patches.entries()) {
        const inks = i === 3 ? [0, 0, 0, 1] : [...toInks(Float32Array.from(colour.map((v) => v / 100)))];
        const seen = lab(piece.x + 2 + 10 + i * 20 + 10, piece.y + 2 + 20 + 15);
        expect(deltaE00(seen, toLab(inks))).toBeLessThan(3);
      }
      // Between the patches and the cut there is bare paper: the cut line itself does not print.
      expect(deltaE00(lab(piece.x + 2 + 50, piece.y + 2 + 5), [100, 0, 0])).toBeLessThan(0.5);
    }

    const cut = shop.cuts.ofRun(shop.prints.get(printId).runId).find((task) => task.printId === printId);
    await shop.cutting.load(cut!.id);
    const fit = await shop.cutting.findMarks(cut!.id);
    expect(fit.worst).toBeLessThan(0.1);
    await shop.cutting.cut(cut!.id);
    await until(() => shop.cuts.get(cut!.id).state === 'cut');
    // The first stroke turns the knife, in the waste.
    const [, ...lines] = await shop.cutting.asCut(cut!.id);
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
  });

  it('turns artwork and its cut line together', async () => {
    // A black square in one corner, with a cut line close around it: only one way of turning has them meet.
    const artwork = await take(
      'corner.pdf',
      await pdf({ width: 1400, height: 200, bleed: 0, cut: (doc) => doc.rect(1290, 10, 100, 60) }, (doc) =>
        doc.rect(1300, 20, 80, 40).fill([0, 0, 0, 100])
      )
    );
    const runId = await ripped(artwork.id, { copies: 1 });
    const { plan, cuts } = shop.runs.frozen(runId);
    expect(plan.pieces[0]?.turn).toBe(90);
    const box = bounds(flatten(cuts[0]!.path, 0.1))!;
    expect([box.width, box.height].map(Math.round)).toEqual([60, 100]);
    const { result } = shop.runs.get(runId);
    const black = async (xMm: number, yMm: number) =>
      (
        await inkAt(shop.runs.plates(runId).overview, result!, 4, Math.round((xMm / 25.4) * 720), Math.round((yMm / 25.4) * 720))
      )[3];
    // Full black is as much ink as the condition takes.
    const full = shop.conditions.colour(conditionId).curves[3]![255]!;
    // Just inside the square's edges, 10 mm within the line, and just outside of them.
    for (const [dx, dy, ink] of [
      [11, 11, 1],
      [49, 89, 1],
      [9, 50, 0],
      [30, 9, 0],
      [51, 50, 0],
      [30, 91, 0]
    ] as const) {
      expect(await black(box.x + dx, box.y + dy), `${dx}, ${dy}`).toBeCloseTo(ink * full, 1);
    }
    await shop.runEditing.remove(runId);
  });

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

    const first = await ripped(artwork.id, { widthMm: 120, heightMm: 180, copies: 2 });
    const bytes = readFileSync(shop.runs.plates(first).overview);
    await shop.tasks.ended((await shop.ripping.rip(first)).id);
    expect(readFileSync(shop.runs.plates(first).overview).equals(bytes)).toBe(true);
    await printed(first);
  });
});

describe('when something goes wrong', () => {
  it('cancels a RIP in its midst and leaves nothing behind', async () => {
    const artwork = await take('menu2.pdf', await menuBoard());
    const docket = shop.dockets.add(artwork.id, 0, { conditionId, copies: 6 });
    const runId = shop.layingOut.add([docket.id])[0]!;
    const { id } = await shop.ripping.rip(runId);
    await until(() => (shop.tasks.latest('rip', runId)?.share ?? 0) > 0);
    shop.tasks.cancel(id);
    expect((await shop.tasks.ended(id)).state).toBe('cancelled');
    expect(shop.runs.get(runId).state).toBe('laying out');
    expect(readdirSync(join(folder.path, 'plates')).filter((name) => name.includes(`run-${runId}-`))).toEqual([]);
    await shop.runEditing.remove(runId);
  });

  const control = (path: string, body: unknown) => fetch(`${printer.url}${path}`, { method: 'POST', body: JSON.stringify(body) });

  it('says why a machine cannot print, stops for a fault and goes on', async () => {
    const artwork = await take('b2.pdf', await berthMarker(2));
    const runId = await ripped(artwork.id, { copies: 4 });
    await control('/media', { name: 'Matt banner', surface: 'matt', widthMm: 1300, lengthMm: 20_000 });
    await expect(shop.printing.start(runId, 1, 1)).rejects.toThrow(/Matt banner loaded; the run is for Gloss/);
    await control('/media', { name: 'Gloss white film', surface: 'gloss', widthMm: 1000, lengthMm: 20_000 });
    await expect(shop.printing.start(runId, 1, 1)).rejects.toThrow(/The roll is 1000 mm wide; the run needs 1300 mm/);
    await control('/media', { name: 'Gloss white film', surface: 'gloss', widthMm: 1300, lengthMm: 50 });
    await expect(shop.printing.start(runId, 1, 1)).rejects.toThrow(/0.05 m are left/);
    await control('/media', { name: 'Gloss white film', surface: 'gloss', widthMm: 1300, lengthMm: 20_000 });

    const [print] = await shop.printing.start(runId, 1, 1);
    await control('/faults', { coverOpen: true });
    await until(() => shop.prints.get(print!.id).state === 'stopped');
    await control('/faults', { coverOpen: false });
    await until(() => shop.prints.get(print!.id).state === 'done');
  });

  it('is queried by an ordinary IPP program', () => {
    if (!existsSync('/usr/bin/ipptool')) return;
    const query = join(folder.path, 'query.test');
    writeFileSync(
      query,
      `{ NAME "State" OPERATION Get-Printer-Attributes GROUP operation-attributes-tag
        ATTR charset attributes-charset utf-8 ATTR language attributes-natural-language en ATTR uri printer-uri $uri
        STATUS successful-ok EXPECT printer-state OF-TYPE enum EXPECT marker-levels OF-TYPE integer COUNT 4 }`
    );
    const answer = execFileSync('ipptool', ['-tv', `${printer.url.replace('http', 'ipp')}/ipp/print`, query], {
      encoding: 'utf8'
    });
    expect(answer).toContain('[PASS]');
    expect(answer).toMatch(/printer-state \(enum\) = idle/);
  });

  it('ends a file that hangs the interpreter, and goes on', async () => {
    // Ten forms, each drawing the next ten times: ten thousand million squares from two kilobytes.
    const objects = [
      '<</Type/Catalog/Pages 2 0 R>>',
      '<</Type/Pages/Kids[3 0 R]/Count 1>>',
      '<</Type/Page/Parent 2 0 R/MediaBox[0 0 99 99]/Contents 4 0 R/Resources<</XObject<</X 5 0 R>>>>>>'
    ];
    const stream = (dictionary: string, text: string) => `<<${dictionary}/Length ${text.length}>>\nstream\n${text}\nendstream`;
    objects.push(stream('', '/X Do'));
    for (let i = 0; i < 10; i++) {
      const next = i < 9 ? `/Resources<</XObject<</X ${6 + i} 0 R>>>>` : '';
      objects.push(stream(`/Type/XObject/Subtype/Form/BBox[0 0 99 99]${next}`, i < 9 ? '/X Do '.repeat(10) : '0 0 9 9 re f'));
    }
    const bomb = `%PDF-1.4\n${objects.map((text, i) => `${i + 1} 0 obj\n${text}\nendobj\n`).join('')}trailer\n<</Size ${objects.length + 1}/Root 1 0 R>>\n%%EOF`;
    const settings = shop.settings.current;
    shop.settings.change({ ...settings, intake: { ...settings.intake, seconds: 6 } });
    const artwork = await take('hang.pdf', bomb);
    shop.settings.change(settings);
    expect(artwork.state).toMatch(/unread|refused/);
    expect(artwork.reason).toMatch(/longer than \d+ s|more than 2 million objects/);
    expect((await take('after.pdf', await berthMarker(4))).state).toBe('ready');
  });

  it('tells a second window that it is late', () => {
    const docket = shop.dockets.get(shop.dockets.list(ALL, 0).rows[0]!.id);
    shop.docketEditing.change(docket.id, docket.version, { name: 'First' });
    expect(() => shop.docketEditing.change(docket.id, docket.version, { name: 'Second' })).toThrow(/another window/);
    expect(shop.dockets.get(docket.id).name).toBe('First');
  });

  it('says that the disk is full, and leaves no half file', async () => {
    const small = join(folder.path, 'small');
    mkdirSync(small);
    try {
      execFileSync('mount', ['-t', 'tmpfs', '-o', 'size=3m', 'tmpfs', small], { stdio: 'ignore' });
    } catch {
      return; // Not allowed to mount here.
    }
    try {
      const store = new FileStore(small);
      async function* much() {
        for (let i = 0; i < 50; i++) yield await Promise.resolve(new Uint8Array(100_000).fill(i));
      }
      await expect(store.take(much(), 1e9)).rejects.toThrow(/disk is full/);
      expect(readdirSync(small, { recursive: true, withFileTypes: true }).filter((entry) => entry.isFile())).toEqual([]);

      const artwork = await take('b5.pdf', await berthMarker(5));
      const docket = shop.dockets.add(artwork.id, 0, { conditionId, copies: 30 });
      const runId = shop.layingOut.add([docket.id])[0]!;
      const run = shop.runs.get(runId);
      const frozen = shop.freezing.freeze(run, run.layout.parts[0]!, new Map());
      const job = await shop.ripping.jobOf('full', { ...frozen, method: 'error-diffusion' });
      const output = { plates: join(small, 'run.tif'), overview: join(small, 'run.overview'), coarse: join(small, 'run.coarse') };
      const failure = await ripToFile(shop.ripPool, job, output, new AbortController().signal, () => undefined).catch(
        (error: unknown) => error
      );
      expect(isDiskFull(failure)).toBe(true);
      await until(() => readdirSync(small).filter((name) => name.startsWith('run')).length === 0);
      await shop.runEditing.remove(runId);
    } finally {
      execFileSync('umount', ['-l', small]);
    }
  });

  it('cancels a print in the middle, and says how far it came', async () => {
    const artwork = await take('b7.pdf', await berthMarker(7));
    const runId = await ripped(artwork.id, { copies: 30 });
    await control('/speed', { speed: 5 });
    const [print] = await shop.printing.start(runId, 1, 2);
    await until(() => shop.prints.get(print!.id).printedMm > 0);
    shop.printing.cancel(print!.id);
    await until(() => shop.prints.get(print!.id).endedAt !== null);
    await control('/speed', { speed: 1e6 });
    const cancelled = shop.prints.get(print!.id);
    expect(cancelled.state).toBe('cancelled');
    expect(cancelled.reason).toMatch(/cancelled when 0\.\d\d m of 0\.\d\d m were printed/);
    // The second one, that waited for it, is not printed either, and the run can be printed again.
    await until(() => shop.runs.get(runId).state === 'ripped');
    expect(shop.prints.list(runId).map(({ state }) => state)).toEqual(['cancelled', 'cancelled']);
    await printed(runId);
  });

  it('says where a lost print stopped', async () => {
    const artwork = await take('b3.pdf', await berthMarker(3));
    const runId = await ripped(artwork.id, { copies: 4 });
    await control('/faults', { lostForSeconds: 1 });
    const [print] = await shop.printing.start(runId, 1, 1);
    await until(() => shop.prints.get(print!.id).endedAt !== null);
    const lost = shop.prints.get(print!.id);
    expect(lost.state).toBe('failed');
    expect(lost.reason).toMatch(/0\.\d\d m of 0\.\d\d m/);
    expect(lost.printedMm).toBeGreaterThan(0);
    expect(lost.printedMm).toBeLessThan(lost.lengthMm);
    await shop.machines.lookNow();
    // Its copies are to be cut, with marks around all of them: it is printed again as a whole.
    expect(shop.printing.restFrom(lost)).toBeUndefined();
    await printed(runId);
  });

  it('goes on where a lost print broke off, with the first row that is not whole', async () => {
    const artwork = await take('b6.pdf', await berthMarker(6));
    const runId = await ripped(artwork.id, { copies: 40, cut: false, bleedMm: 0 });
    await control('/faults', { lostForSeconds: 1 });
    const [print] = await shop.printing.start(runId, 1, 1);
    await until(() => shop.prints.get(print!.id).endedAt !== null);
    const lost = shop.prints.get(print!.id);
    const from = shop.printing.restFrom(lost)!;
    expect(from).toBeGreaterThan(90);
    expect(from).toBeLessThan(lost.printedMm);
    await shop.machines.lookNow();
    const rest = await shop.printing.goOn(lost.id);
    await until(() => shop.prints.get(rest.id).endedAt !== null);
    expect(shop.prints.get(rest.id).state).toBe('done');
    const { height } = await sharp(await shop.printing.output(rest.id)).metadata();
    const { plan } = shop.runs.frozen(runId);
    expect(Math.abs((height / 90) * 25.4 - (plan.lengthMm - from))).toBeLessThan(3);
  });

  it('begins a RIP again that a stopped server left, and no half file is taken for whole', async () => {
    const artwork = await take('menu3.pdf', await menuBoard());
    const docket = shop.dockets.add(artwork.id, 0, { conditionId, widthMm: 160, heightMm: 240, copies: 4 });
    const runId = shop.layingOut.add([docket.id])[0]!;
    await shop.ripping.rip(runId);
    await until(() => (shop.tasks.latest('rip', runId)?.share ?? 0) > 0);
    await shop.close();
    writeFileSync(join(folder.path, 'plates', 'run-99-1.tif.part'), 'half');

    shop = new Shop(folder.path);
    expect(shop.runs.get(runId).state).toBe('ripping');
    expect(readdirSync(join(folder.path, 'plates')).filter((name) => name.endsWith('.part'))).toEqual([]);
    shop.start();
    await until(() => shop.runs.get(runId).state === 'ripped');
    expect(shop.runs.get(runId).result?.drops[0]?.[2]).toBeGreaterThan(0);
  });
});
