import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { deltaE00, labOfRgb, type Triple } from '$core/colour/lab';
import { newWall, type Wall } from '$core/panels/wall';
import * as mupdf from '$core/interpreter/interpreter';
import { pieceOf } from '$core/layout/pieces';
import { newText } from '$core/records/new-field';
import { Shop } from '$lib/server/app/shop';
import type { RunLine } from '$lib/server/production/run-list';
import { waitsFor } from '$lib/server/printing/releasing';
import { oneChunk, startStandIn, temporaryFolder, until, modeOf, type StandIn } from '../harness';
import { colourAt, colourOn, middleOfDark, panelsOf, pictureFrom } from '../made/hung-wall';
import { cmykBox, madePdf } from '../made/pdf';

/** A wall of 900 × 260 mm on a film of 300 mm: printed, and put together again from what came out. */

const folder = temporaryFolder();
const FILM = { name: 'Film', surface: 'gloss', widthMm: 300, lengthMm: 90_000 };
let printer: StandIn;
let shop: Shop;
let printerId: number;
let conditionId: number;
let artwork: number;

/** Discs of black in two rows, one every 30 mm of the wall; the page is a tenth of it, and y goes up there. */
const DISCS = Array.from({ length: 29 }, (_, i) => ({ x: 30 + i * 30, y: i % 2 === 0 ? 60 : 200 }));
const disc = ({ x, y }: { x: number; y: number }) => {
  const [cx, cy, r, k] = [x / 10, 26 - y / 10, 0.4, 0.4 * 0.5523];
  return `0 0 0 1 k ${cx - r} ${cy} m ${cx - r} ${cy + k} ${cx - k} ${cy + r} ${cx} ${cy + r} c ${cx + k} ${cy + r} ${cx + r} ${cy + k} ${cx + r} ${cy} c ${cx + r} ${cy - k} ${cx + k} ${cy - r} ${cx} ${cy - r} c ${cx - k} ${cy - r} ${cx - r} ${cy - k} ${cx - r} ${cy} c f`;
};
const content = [
  cmykBox('0.1 0.05 0 0', -2, -2, 94, 30),
  ...Array.from({ length: 9 }, (_, i) => cmykBox(`${0.1 * i} 0.2 ${0.8 - 0.08 * i} 0`, i * 10, 9, 10, 8)),
  ...DISCS.map(disc)
].join(' ');

beforeAll(async () => {
  printer = await startStandIn('printer', { MEDIA: JSON.stringify(FILM) });
  shop = new Shop(folder.path);
  printerId = shop.machines.add('printer', 'Petrel 13', printer.url);
  shop.start();
  await shop.machines.lookNow();
  const media = shop.media.addNew({ name: 'Film', family: 'cast', widthMm: 300, rolls: [{ widthMm: 250, lengthMm: 3000 }] }).id;
  conditionId = shop.conditionEditing.add(printerId, media, modeOf('Petrel 13/Harbour/calendered/360/4/both ways/draft'));
  await until(() => shop.conditions.get(conditionId).hasProfile);
  const { id } = await shop.artworks.take('wall.pdf', oneChunk(madePdf({ width: 90, height: 26, content })));
  await until(() => shop.artworks.get(id).state === 'ready');
  artwork = id;
});
afterAll(async () => {
  await shop.close();
  printer.stop();
  folder.remove();
});

const wallDocket = (over: Partial<Wall> = {}, choices = {}) =>
  shop.dockets.add(artwork, 0, {
    conditionId,
    widthMm: 900,
    heightMm: 260,
    bleedMm: 13,
    bleedFrom: 'mirror',
    wall: { ...newWall(13), ...over },
    ...choices
  }).id;

async function ripped(dockets: number[]): Promise<number> {
  const [run] = shop.layingOut.add(dockets);
  const task = await shop.tasks.ended((await shop.ripping.rip(run!)).id);
  expect(task.error).toBeNull();
  return run!;
}
async function printed(run: number): Promise<string> {
  const [print] = await shop.printing.start(run, printerId, 1);
  await until(() => shop.prints.get(print!.id).endedAt !== null);
  return `${printer.url}/output/${shop.prints.row(print!.id).job}.png`;
}

describe('a wall in panels', () => {
  it('is printed, and its panels put together are the artwork: colours alike, and nothing shifted at the seams', async () => {
    const door = {
      name: 'Door',
      x: 630,
      y: 110,
      width: 90,
      height: 150,
      shape: 'rectangle' as const,
      outline: [],
      leftOut: true
    };
    const id = wallDocket({ openings: [door], alternate: true });
    const run = await ripped([id]);
    const { layout, laid } = shop.runs.get(run);
    // The first that is hung is printed last.
    const inOrder = layout.parts.flatMap(({ copies }) => copies).sort((p, q) => p.y - q.y || p.x - q.x);
    expect(inOrder.map((copy) => laid.find((piece) => piece.id === copy.id)!.panel!.number)).toEqual([4, 3, 2, 1]);
    expect(inOrder.map(({ id: key }) => pieceOf(key).piece)).toEqual([3, 2, 1, 0]);
    const { plan } = shop.runs.frozen(run);
    const address = await printed(run);
    const picture = await pictureFrom(new Uint8Array(await (await fetch(address)).arrayBuffer()), plan.dpi.x);
    const panels = panelsOf(plan);
    const proof = await pictureFrom(await shop.pictures.map(id, 'proof'), 72);
    const perMm = proof.width / (900 + 2 * 13);

    // Every disc is where it is in the artwork, on each of the panels that has all of it.
    let [seen, twice] = [0, 0];
    for (const at of DISCS) {
      if (at.x > door.x - 8 && at.x < door.x + door.width + 8 && at.y > door.y - 8) continue;
      const on = panels.filter(({ part }) => at.x > part.x + 7 && at.x < part.x + part.width - 7);
      for (const panel of on) {
        const middle = middleOfDark(picture, panel, at, 6);
        expect(Math.hypot(middle.x - at.x, middle.y - at.y)).toBeLessThan(0.3);
        seen++;
      }
      if (on.length > 1) twice++;
    }
    expect(seen).toBeGreaterThan(20);
    expect(twice).toBe(0);

    // Colours, averaged over 5 mm, in the middle of the fields and on both sides of the seams.
    const patch = (of: (x: number, y: number) => number[], x: number, y: number): Triple => {
      const sum = [0, 0, 0];
      for (let dy = -2; dy <= 2; dy++) for (let dx = -2; dx <= 2; dx++) of(x + dx, y + dy).forEach((v, k) => (sum[k]! += v / 25));
      return labOfRgb(sum[0]!, sum[1]!, sum[2]!);
    };
    const differences: number[] = [];
    for (const panel of panels)
      for (let x = 15; x < 900; x += 20) {
        if (x % 100 < 6 || x % 100 > 94 || x < panel.part.x + 5 || x > panel.part.x + panel.part.width - 5) continue;
        if (x > door.x - 8 && x < door.x + door.width + 8) continue;
        const y = 260 - 130;
        const came = patch((px, py) => colourOn(picture, panel, { x: px, y: py }), x, y);
        const wanted = patch((px, py) => colourAt(proof, (px + 13) * perMm, (py + 13) * perMm), x, y);
        differences.push(deltaE00(came, wanted));
      }
    expect(differences.length).toBeGreaterThan(30);
    // The machine's own profile is no nearer than this.
    expect(differences.reduce((sum, one) => sum + one, 0) / differences.length).toBeLessThan(3.5);
    // On both sides of a seam a field is one colour.
    const fieldAt = (x: number) => {
      const panel = panels.find(({ part }) => x > part.x + 3 && x < part.x + part.width - 3)!;
      return patch((px, py) => colourOn(picture, panel, { x: px, y: py }), x, 130);
    };
    for (const seam of [225, 450]) expect(deltaE00(fieldAt(seam - 15), fieldAt(seam + 15))).toBeLessThan(1);
    // The door is bare, but for the bleed that reaches into it.
    const bare = panels.filter(({ part }) => 675 > part.x + 5 && 675 < part.x + part.width - 5);
    expect(bare.length).toBeGreaterThan(0);
    for (const panel of bare) {
      expect(Math.min(...colourOn(picture, panel, { x: 675, y: 200 }))).toBeGreaterThan(225);
      expect(Math.min(...colourOn(picture, panel, { x: 675, y: 118 }))).toBeLessThan(225);
    }
  });

  it('has one panel again when it is spoiled, in a run of its own', async () => {
    const id = wallDocket({}, { copies: 2 });
    const run = await ripped([id]);
    const { layout } = shop.runs.get(run);
    const all = layout.parts.flatMap(({ copies }) => copies);
    expect(all).toHaveLength(8);
    const again = shop.runCopies.again(run, [all.find((copy) => copy.id === `${id}/2` && copy.copy === 1)!]);
    const only = shop.runs.get(again);
    expect(only.laid.map((piece) => [piece.piece, piece.copies, piece.first])).toEqual([[2, 1, 1]]);
    expect(only.entries[0]!.pieces).toEqual([[2, 1]]);
    expect((await shop.tasks.ended((await shop.ripping.rip(again)).id)).error).toBeNull();
    const { plan } = shop.runs.frozen(again);
    expect(plan.sources).toHaveLength(1);
    // As in the run before, to the place on the wall.
    const before = shop.runs.frozen(run).plan.sources.find(({ from }) => from!.x === plan.sources[0]!.from!.x)!;
    expect(plan.sources[0]!.prepare.region).toEqual(before.prepare.region);
    expect(plan.letters!.some(({ text }) => text.startsWith('3 of 4'))).toBe(true);
  });

  it('is a run of its own, of which panels are taken out to be printed apart', () => {
    const plain = shop.dockets.add(artwork, 0, { conditionId, widthMm: 90, heightMm: 26 }).id;
    const [first, second] = [wallDocket(), wallDocket()];
    const runs = shop.layingOut.add([first, plain, second]);
    expect(new Set(runs).size).toBe(3);
    const run = shop.runs.get(shop.dockets.get(first).runId!);
    expect(run.rule.placing).toBe('rows');
    // Asked for twice, it is laid out once.
    expect(shop.layingOut.add([first])).toEqual([run.id]);
    run.version = shop.runs.get(run.id).version;
    expect(shop.layingOut.add([shop.dockets.add(artwork, 0, { conditionId, widthMm: 80, heightMm: 20 }).id])).not.toContain(
      run.id
    );
    const panels = (id: number) => shop.runs.get(id).laid.map(({ piece }) => piece);
    expect(panels(run.id)).toEqual([3, 2, 1, 0]);
    const apart = shop.runCopies.apart(run.id, run.version, [
      { id: `${first}/1`, copy: 0 },
      { id: `${first}/2`, copy: 0 }
    ]);
    expect([panels(apart), panels(run.id)]).toEqual([
      [2, 1],
      [3, 0]
    ]);
    const left = shop.runs.get(run.id);
    expect(() => shop.runCopies.apart(run.id, run.version, [{ id: `${first}/3`, copy: 0 }])).toThrow('in another window');
    const names = (shop.lists.page('runs', new URLSearchParams()).rows as RunLine[]).find(({ id }) => id === apart)!.names;
    expect(names).toMatch(/^2 of the panels of /);
    expect(() => shop.runCopies.apart(run.id, left.version, [{ id: `${first}/1`, copy: 0 }])).toThrow('None of these');
    const both = [`${first}`, `${first}/3`].map((id) => ({ id, copy: 0 }));
    expect(() => shop.runCopies.apart(run.id, left.version, both)).toThrow('nothing left');
    // No place is offered for one more panel.
    expect(left.layout.parts.flatMap(({ ghosts }) => ghosts)).toEqual([]);
  });

  it('is cut along its own edges where the cutter trims it, and its plates are old when a seam moves', async () => {
    const seams = [200, 380, 560, 730].map((at, i) => ({ at, course: i === 0 ? [0, 6, -4, 0] : [] }));
    const id = wallDocket({ columns: { ...newWall().columns, seams } }, { cut: true });
    const run = await ripped([id]);
    const { cuts } = shop.runs.frozen(run);
    expect(cuts.map(({ piece, tool }) => [piece, tool])).toEqual([4, 3, 2, 1, 0].map((piece) => [piece, 'through cut']));
    // The second lies on the first along the curve, the others are rectangles.
    const nodes = (piece: number) => cuts.find((cut) => cut.piece === piece)!.path.length;
    expect(nodes(1)).toBeGreaterThan(nodes(3));
    expect(shop.runs.get(run).stale).toBe(false);
    const docket = shop.dockets.get(id);
    const wall = docket.choices.wall!;
    const moved = wall.columns.seams!.map((seam, i) => (i === 1 ? { ...seam, at: 385 } : seam));
    shop.docketEditing.change(id, docket.version, { choices: { ...docket.choices, wall: { ...wall, columns: { ...wall.columns, seams: moved } } } }); // prettier-ignore
    expect(shop.runs.get(run).stale).toBe(true);
    expect(shop.runs.isCutOtherwise(run)).toBe(true);
  });

  it('has a map that another reader of PDFs opens, and a small print of it in the run’s waste', async () => {
    const id = wallDocket();
    const { name, bytes } = await shop.panelMaps.pdf(id);
    expect(name).toMatch(/panel map\.pdf$/);
    const document = mupdf.Document.openDocument(bytes, 'application/pdf');
    expect(document.countPages()).toBe(2);
    document.destroy();
    await expect(shop.panelMaps.print(id)).rejects.toThrow('in no run yet');
    const [run] = shop.layingOut.add([id]);
    const made = await shop.panelMaps.print(id);
    expect(made.run).toBe(run);
    const after = shop.runs.get(run!);
    expect(after.dockets.map((docket) => docket.id)).toContain(made.docket);
    const copy = after.layout.parts.flatMap(({ copies }) => copies).find(({ id: key }) => key === String(made.docket));
    expect(copy).toBeDefined();
    await expect(shop.panelMaps.pdf(made.docket)).rejects.toThrow('is no wall');
  });

  it('is not printed in part once it is divided otherwise: its panels would not meet', async () => {
    const id = wallDocket();
    const [run] = shop.layingOut.add([id]);
    const apart = shop.runCopies.apart(run!, shop.runs.get(run!).version, [{ id: `${id}`, copy: 0 }]);
    expect(shop.runs.get(run!).hindrance).toBeNull();
    const moved = (at: number) => {
      const docket = shop.dockets.get(id);
      const columns = { ...newWall().columns, seams: [200, at, 650].map((mm) => ({ at: mm, course: [] })) };
      shop.docketEditing.change(id, docket.version, {
        choices: { ...docket.choices, wall: { ...docket.choices.wall!, columns } }
      });
    };
    moved(400);
    for (const one of [run!, apart]) {
      expect(shop.runs.get(one).hindrance).toContain('divided otherwise');
      await expect(shop.ripping.rip(one)).rejects.toThrow('they would not meet');
      expect(() => shop.runCopies.apart(one, shop.runs.get(one).version, [{ id: `${id}/1`, copy: 0 }])).toThrow('divided otherwise'); // prettier-ignore
    }
    // Laid out anew it is whole again.
    for (const one of [run!, apart]) shop.runEditing.change(one, shop.runs.get(one).version, { docketIds: [] });
    const whole = await ripped([id]);
    expect(shop.runs.get(whole).laid).toHaveLength(4);
    // One that was spoiled must meet those that hang.
    const spoiled = [{ id: `${id}/2`, copy: 0 }];
    const again = shop.runCopies.again(whole, spoiled);
    expect(shop.runs.get(again).hindrance).toBeNull();
    moved(420);
    expect(() => shop.runCopies.again(whole, spoiled)).toThrow('a panel would not meet the others');
    expect(shop.runs.get(again).hindrance).toContain('divided otherwise');
    moved(400);
    expect(shop.runs.get(again).hindrance).toBeNull();
    expect(shop.runs.get(shop.runCopies.again(whole, spoiled)).laid).toHaveLength(1);
    // Seams that cannot be are said, in place of an empty run.
    moved(100);
    await expect(shop.ripping.rip(whole)).rejects.toThrow('is in no panels: Seam 2');
  });

  it('that broke off keeps the panels that came out; the others are of the same wall, in the same order', async () => {
    const speed = (speed: number) => fetch(`${printer.url}/speed`, { method: 'POST', body: JSON.stringify({ speed }) });
    const id = wallDocket();
    const run = await ripped([id]);
    const before = shop.runs.frozen(run).plan;
    const { copies } = shop.runs.get(run).layout.parts[0]!;
    const ends = copies.map(({ y, height }) => y + height).sort((p, q) => p - q);
    await speed(6);
    const [started] = await shop.printing.start(run, printerId, 1);
    await until(() => shop.prints.get(started!.id).printedMm > ends[0]!);
    // However late the cancelling comes, it comes before the last panel.
    await speed(2);
    await until(() => shop.prints.get(started!.id).printedMm > ends[1]!);
    shop.printing.cancel(started!.id);
    await until(() => shop.prints.get(started!.id).endedAt !== null);
    await speed(1e6);
    const print = shop.prints.get(started!.id);
    const came = ends.filter((end) => end <= print.printedMm).length;
    expect(shop.partPrints.look(print)).toMatchObject({ whole: { length: came }, missing: { length: 4 - came } });

    const rest = await shop.partPrints.keep(print.id);
    const panels = (one: number) => shop.runs.get(one).laid.map(({ piece }) => piece);
    expect(panels(run)).toEqual([3, 2, 1, 0].slice(0, came));
    expect(panels(rest)).toEqual([3, 2, 1, 0].slice(came));
    expect(shop.docketParts.divided(id)).toMatchObject({ missing: 0, over: 0 });
    expect(shop.runs.get(rest).hindrance).toBeNull();
    expect((await shop.tasks.ended((await shop.ripping.rip(rest)).id)).error).toBeNull();
    // The same places of the artwork, so that they meet.
    const froms = (plan: typeof before) => plan.sources.map(({ from, prepare }) => JSON.stringify([from, prepare.region]));
    const of = froms(shop.runs.frozen(rest).plan);
    expect(of).toHaveLength(4 - came);
    expect(froms(before)).toEqual(expect.arrayContaining(of));
    await printed(rest);
    expect(shop.docketParts.divided(id)).toMatchObject({ missing: 0, isPrinted: true });
    // A panel of those that were kept is printed again as one of the others is.
    const spoiled = shop.runs.get(run).layout.parts[0]!.copies[0]!;
    const again = shop.runCopies.again(run, [spoiled]);
    expect(panels(again)).toEqual([3]);
  });

  it('prints no panel that lies in an opening', async () => {
    const gate = { name: 'Gate', x: 200, y: 0, width: 275, height: 260, shape: 'rectangle' as const, outline: [], leftOut: true };
    const run = await ripped([wallDocket({ openings: [gate] })]);
    expect(shop.runs.get(run).laid.map(({ piece }) => piece)).toEqual([3, 2, 0]);
  });

  it('has no records beside it, and its checks are told in the list', async () => {
    const id = wallDocket({ bleed: { left: 13, top: 5, right: 13, bottom: 13 } });
    const docket = shop.dockets.get(id);
    await until(() => shop.dockets.lines([id])[0]!.worst !== null);
    expect(shop.dockets.lines([id])[0]!.worst).toBe(1);
    const table = { hash: 'a'.repeat(64), name: 'list.csv', columns: ['a'], count: 2 };
    expect(() =>
      shop.docketEditing.change(id, docket.version, {
        choices: { ...docket.choices, records: { ...docket.choices.records, table, fields: [newText([], { x: 0, y: 0, width: 10, height: 5, turn: 0 }, 'a', 'a')] } } // prettier-ignore
      })
    ).toThrow('in panels and not in records');
  });

  it('waits for film of the batch that its other panels were printed from; a person may print it from another', async () => {
    const media = shop.media.named('Film')!;
    const { rolls, sheets } = media.card;
    const fresh = ['H27', 'K11'].map((batch) => ({ widthMm: 300, lengthMm: 60_000, batch }));
    shop.media.stock(media.id, { rolls: [...rolls, ...fresh], sheets });
    const batchesInStock = () => shop.media.named('Film')!.card.rolls.map(({ batch }) => batch);
    const load = async (batch: string) => {
      const { id, version } = shop.media.named('Film')!;
      await shop.loading.load(printerId, { mediaId: id, version, which: batchesInStock().indexOf(batch) });
    };
    await load('H27');
    expect(shop.machines.get(printerId).printer!.media).toMatchObject({ name: 'Film', batch: 'H27' });
    // What was on it before came without one.
    expect(batchesInStock()).toEqual([undefined, 'K11', undefined]);

    const id = wallDocket();
    const [first] = shop.layingOut.add([id]);
    const { version } = shop.runs.get(first!);
    const rest = shop.runCopies.apart(first!, version, [{ id: `${id}/1`, copy: 0 }]);
    const of = (run: number) => shop.printing.batches(shop.runs.get(run), shop.machines.get(printerId));
    const waits = (run: number) => waitsFor(shop.printing, shop.runs.get(run), shop.machines.get(printerId));
    for (const run of [first!, rest]) expect((await shop.tasks.ended((await shop.ripping.rip(run)).id)).error).toBeNull();
    expect(of(rest)).toEqual({ before: [], now: 'H27' });
    await printed(first!);
    expect(of(rest)).toEqual({ before: ['H27'], now: 'H27' });
    expect(waits(rest)).toBeUndefined();

    await load('K11');
    expect(batchesInStock()).toEqual([undefined, undefined, 'H27']);
    // All of a wall once more has nothing to meet but itself.
    const [whole] = shop.layingOut.add([wallDocket()]);
    shop.db
      .prepare(
        "INSERT INTO print (run_id, machine_id, state, length_mm, printed_mm, batch, started_at, ended_at) VALUES (?, ?, 'done', 9, 9, 'H27', 0, 1)"
      )
      .run(whole, printerId);
    expect(of(whole!)).toEqual({ before: [], now: 'K11' });
    expect(waits(rest)).toMatch(/from batch H27, and batch K11 is on the machine.*by hand\.$/);
    await shop.ripping.release(rest);
    // Another run of the lane goes by meanwhile: the wall's was looked at, and left.
    const plain = shop.dockets.add(artwork, 0, { conditionId, widthMm: 90, heightMm: 26 }).id;
    const [other] = shop.layingOut.add([plain]);
    await shop.ripping.release(other!);
    await until(() => shop.runs.get(other!).state === 'printed');
    expect(shop.runs.get(rest).state).toBe('ripped');
    await load('H27');
    await until(() => shop.runs.get(rest).state === 'printed');
    expect(of(rest)).toEqual({ before: ['H27'], now: 'H27' });
    // A person prints it from another all the same, and that is known too.
    await load('K11');
    await printed(rest);
    expect(of(rest)).toEqual({ before: ['H27', 'K11'], now: 'K11' });
    expect(shop.printing.batches(shop.runs.get(other!), shop.machines.get(printerId))).toBeUndefined();
  });
});
