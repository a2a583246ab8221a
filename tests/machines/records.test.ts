import { existsSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { zipSync } from 'fflate';
import sharp from 'sharp';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { RecordChoices } from '$core/records/choices';
import { NO_RECORDS } from '$core/records/choices';
import { newPicture, newText } from '$core/records/new-field';
import { mendsOf } from '$core/records/risks';
import { bounds, flatten } from '$core/geometry/path';
import { Jig, NEW_JIG } from '$core/layout/jig';
import { pieceOf } from '$core/layout/pieces';
import { pieceRect, planesOf, type RipPlan } from '$core/rip/plan';
import { USUAL_IN_POCKET } from '$lib/in-jig';
import { Shop } from '$lib/server/app/shop';
import { plateInks } from '$lib/server/production/plates';
import type { DocketRecords } from '$lib/server/dockets/docket-records';
import { Tables } from '$lib/server/records/tables';
import { codeField, nameField } from '../made/fields';
import { cmykBox, madePdf } from '../made/pdf';
import { readCodes } from '$protocol/code-reader';
import { modeOf, oneChunk, startStandIn, temporaryFolder, until, type StandIn } from '../harness';

/** Crew passes: a design, and a table whose columns are spelled otherwise than its fields ask. */

const folder = temporaryFolder();
let standIns: StandIn[];
let shop: Shop;
let artworkId: number;
const condition = { film: 0, board: 0 };

const PEOPLE = ['Ada Vik', 'Bartholomäus von der See', 'Zoë Ng', 'Þóra Hafsteinsdóttir', 'Li Quay', 'Ove Ærø', 'José Peña'];
const CSV = `NAME_;No.\n${PEOPLE.map((person, i) => `"${person}";${100 + i}`).join('\n')}\n`;
const take = (docket: { id: number; version: number }, text: string, name = 'crew.csv', key?: string) =>
  shop.docketRecords.take(docket.id, docket.version, { bytes: new TextEncoder().encode(text), name, how: {}, key });

beforeAll(async () => {
  standIns = await Promise.all([
    startStandIn('printer', { MEDIA: JSON.stringify({ name: 'Film', surface: 'gloss', widthMm: 600, lengthMm: 20_000 }) }),
    startStandIn('printer', {
      MODEL: 'Skua 25',
      MEDIA: JSON.stringify({ name: 'Board', surface: 'matt', widthMm: 400, lengthMm: 0, sheetMm: 120, sheets: 9 })
    })
  ]);
  shop = new Shop(folder.path);
  const petrel = shop.machines.add('printer', 'Petrel 13', standIns[0]!.url);
  const skua = shop.machines.add('printer', 'Skua 25', standIns[1]!.url);
  shop.start();
  await shop.machines.lookNow();
  const film = shop.media.addNew({ name: 'Film', widthMm: 600 }).id;
  const board = shop.media.addNew({ name: 'Board', family: 'rigid', surface: 'matt', widthMm: 400, thicknessMm: 5 }).id;
  condition.film = shop.conditionEditing.add(petrel, film, modeOf('Petrel 13/Harbour/calendered/360/4/both ways/draft'));
  condition.board = shop.conditionEditing.add(skua, board, modeOf('Skua 25/Skerry/rigid/360/4/both ways/draft'));
  await shop.machines.lookNow();
  await until(() => shop.conditions.list().every(({ hasProfile }) => hasProfile));
  const { id } = await shop.artworks.take(
    'pass.pdf',
    oneChunk(madePdf({ width: 90, height: 50, content: cmykBox('.1 0 .05 0', 0, 0, 90, 50) }))
  );
  await until(() => shop.artworks.get(id).state !== 'reading');
  artworkId = id;
});
afterAll(async () => {
  await shop.close();
  for (const one of standIns) one.stop();
  folder.remove();
});

/** A docket of passes with a table. */
async function passes(conditionId: number, over: Partial<RecordChoices> = {}) {
  const records = { ...NO_RECORDS, fields: [nameField, codeField], chosen: { number: 'No.' }, ...over };
  const docket = shop.dockets.add(artworkId, 0, { conditionId, records, mayTurn: false });
  return (await take(docket, CSV)).docket;
}

async function ripped(runId: number): Promise<number> {
  expect((await shop.tasks.ended((await shop.ripping.rip(runId)).id)).error).toBeNull();
  return runId;
}

/** What another program reads in the black plate of each piece of a run, in the order of its pieces. */
async function codesOf(runId: number): Promise<string[]> {
  const { plan } = shop.runs.frozen(runId);
  const read: string[] = [];
  for (const piece of plan.pieces) read.push((await codesAt(runId, plan, piece))[0] ?? '');
  return read;
}
async function codesAt(runId: number, plan: RipPlan, piece: RipPlan['pieces'][number]): Promise<string[]> {
  const rect = pieceRect(plan, piece);
  // The right half of it: where the code is.
  const width = rect.width >> 1;
  const { x, y, height } = { ...rect, x: rect.x + rect.width - width };
  const inks = await plateInks(shop.runs.plates(runId).plates, 1, { x, y, width, height }, plan.inks);
  const black = plan.inks.findIndex(({ name }) => name === 'Black');
  const grey = Uint8Array.from({ length: width * height }, (_, i) => 255 - inks[i * plan.inks.length + black]!);
  return (await readCodes(grey, width, height)).map(({ text }) => text);
}
const code = (record: number) => `PASS/${99 + record}/${PEOPLE[record - 1]}`;

/** Of a run's copies, which are of a docket. */
const copiesOf = (runId: number, docketId: number): boolean[] =>
  shop.runs.get(runId).layout.parts[0]!.copies.map((copy) => pieceOf(copy.id).docket === String(docketId));

/** Mean ink in the middle of each piece of a run, 0…255, in the order of its pieces. */
async function inkOf(runId: number, ink: string): Promise<number[]> {
  const { plan } = shop.runs.frozen(runId);
  const which = plan.inks.findIndex(({ name }) => name === ink);
  return Promise.all(
    plan.pieces.map(async (piece) => {
      const { x, y, width, height } = pieceRect(plan, piece);
      const window = { x: x + (width >> 1), y: y + (height >> 1), width: 64, height: 64 };
      const amounts = await plateInks(shop.runs.plates(runId).plates, 1, window, plan.inks);
      let sum = 0;
      for (let i = which; i < amounts.length; i += plan.inks.length) sum += amounts[i]!;
      return sum / 64 ** 2;
    })
  );
}

describe('a docket with records', () => {
  it('is printed with each of them, in rows, every code as another reader reads it', async () => {
    const docket = await passes(condition.film);
    expect(docket.choices.records.table).toMatchObject({ name: 'crew.csv', columns: ['NAME_', 'No.'], count: 7 });
    expect(docket.choices.copies).toBe(7);
    const runId = await ripped(shop.layingOut.add([docket.id])[0]!);
    const run = shop.runs.get(runId);
    expect(run.stale).toBe(false);
    expect(run.layout.parts[0]!.copies.map(({ record }) => record)).toEqual([1, 2, 3, 4, 5, 6, 7]);
    expect(await codesOf(runId)).toEqual([1, 2, 3, 4, 5, 6, 7].map(code));
    // The artwork is one for all of them, and the file of their pages stays as long as the run.
    const { plan } = shop.runs.frozen(runId);
    expect(plan.sources).toHaveLength(1);
    const overlays = plan.sources[0]!.overlays!;
    shop.db.prepare('DELETE FROM kept_file').run();
    for (const file of overlays.files) shop.files.drop(file);
    expect(overlays.files.map((file) => existsSync(shop.files.path(file)))).toEqual([true]);

    // Something else on one of them makes the plates old; taken back, they are right again.
    const edited = await shop.docketRecords.edit(docket.id, docket.version, {
      is: 'cell',
      record: 3,
      column: 'NAME_',
      value: 'Zoë Pier'
    });
    expect(shop.runs.get(runId).stale).toBe(true);
    shop.docketEditing.go(docket.id, edited.version, -1);
    expect(shop.runs.get(runId).stale).toBe(false);
  });

  it('lies on sheets so that a stack of them is cut into piles in order; each sheet keeps its records', async () => {
    const docket = await passes(condition.board, { order: 'stack', only: '1-6', each: 2 });
    expect(docket.choices.copies).toBe(12);
    const first = shop.layingOut.add([docket.id])[0]!;
    const { layout } = shop.runs.get(first);
    const sheets = layout.parts.map(({ copies }) => copies.map(({ record }) => record));
    expect(sheets.length).toBeGreaterThan(1);
    const piles = sheets[0]!.flatMap((_, place) => sheets.flatMap((sheet) => sheet[place] ?? []));
    expect(piles).toEqual([1, 1, 2, 2, 3, 3, 4, 4, 5, 5, 6, 6]);
    await shop.ripping.rip(first);
    const runs = [first, ...sheets.slice(1).map((_, i) => shop.dockets.get(docket.id).runId! - i)].sort((p, q) => p - q);
    for (const [i, run] of runs.entries()) {
      await until(() => shop.runs.get(run).state === 'ripped');
      expect(await codesOf(run)).toEqual(sheets[i]!.map((record) => code(record!)));
      // RIPped again it is the same sheet.
      expect(shop.runs.get(run)).toMatchObject({ stale: false });
      expect(shop.runs.get(run).laid[0]!.records).toEqual(sheets[i]);
    }
  });

  it('in pockets that it is made smaller for is held against what it prints at, codes of whole drops there', async () => {
    const half = Jig.parse({ ...NEW_JIG, name: 'Half passes', bed: { widthMm: 400, lengthMm: 120 }, thing: { widthMm: 45, heightMm: 25, outline: { kind: 'rectangle', radiusMm: 0 } }, columns: 4, rows: 2, gapX: 6.3, gapY: 6.1, startX: 10.3, startY: 12.7 }); // prettier-ignore
    const small: RecordChoices['fields'] = [{ ...nameField, size: { is: 'fixed', pt: 10 } }, codeField];
    const docket = await passes(condition.board, { fields: small });
    expect((await shop.docketRecords.looked(docket.id)).counts.small).toBe(0);
    const lies = { ...USUAL_IN_POCKET, size: 'fit' as const };
    shop.docketEditing.change(docket.id, docket.version, { choices: { ...docket.choices, jig: { id: shop.jigs.add(half).id, lies } } }); // prettier-ignore
    const { counts, risks } = await shop.docketRecords.looked(docket.id);
    expect(counts.small).toBe(7);
    expect(risks.find(({ kind }) => kind === 'small')!.sentence).toContain('fits at 5.0 pt in its pocket, less than 6 pt.');
    const runId = await ripped(shop.layingOut.add([docket.id])[0]!);
    expect(await codesOf(runId)).toEqual([1, 2, 3, 4, 5, 6, 7].map(code));
    // All edges of a code are so many whole modules apart, and these are whole drops.
    const { plan } = shop.runs.frozen(runId);
    const { x, y, width, height } = pieceRect(plan, plan.pieces[0]!);
    const inks = await plateInks(shop.runs.plates(runId).plates, 1, { x, y, width, height }, plan.inks);
    const black = plan.inks.findIndex(({ name }) => name === 'Black');
    const isDark = (px: number, py: number) => inks[(py * width + px) * plan.inks.length + black]! > 127;
    const edges: number[] = [];
    for (let px = Math.round(width * 0.72); px < width; px++)
      if (Array.from({ length: height }, (_, py) => isDark(px, py) !== isDark(px - 1, py)).filter(Boolean).length > 12)
        edges.push(px);
    // A column that an edge goes through is halftone: it has two.
    const clear = edges.filter((at, i) => i > 0 && at - edges[i - 1]! > 1);
    const steps = clear.slice(1).map((at, i) => at - clear[i]!);
    expect(steps.length).toBeGreaterThan(8);
    expect(steps.filter((step) => step % Math.min(...steps) !== 0)).toEqual([]);
    expect(Math.min(...steps)).toBeGreaterThan(3);
  });

  it('takes a newer table in the place of the one before: records in both keep their numbers', async () => {
    const docket = await passes(condition.film, { only: '2-20' });
    const newer = `No.,Name,Club\n103,Þóra Hafsteinsdóttir,Slip\n200,Anna Featherstonehaugh,Quay\n101,Bartholomäus von der See,Pier\n`;
    const { docket: after, news, read } = await take(docket, newer, 'crew 2.csv', 'No.');
    expect(read).toMatchObject({ kind: 'text', delimiter: ',', heading: true });
    expect(news).toEqual({ added: [8], gone: [1, 3, 5, 6, 7], changed: [] });
    expect(await shop.docketRecords.rows(after.id, 0, {})).toEqual({
      total: 3,
      rows: [
        { record: 4, place: 0, cells: ['103', 'Þóra Hafsteinsdóttir', 'Slip'] },
        { record: 8, place: 1, cells: ['200', 'Anna Featherstonehaugh', 'Quay'] },
        { record: 2, place: 2, cells: ['101', 'Bartholomäus von der See', 'Pier'] }
      ]
    });
    const found = async (...of: Parameters<DocketRecords['rows']>) =>
      (await shop.docketRecords.rows(...of)).rows.map(({ record }) => record);
    expect(await found(after.id, 0, { words: 'pier BARTH' })).toEqual([2]);
    expect(await found(after.id, 1, { records: [2, 4] })).toEqual([2]);
    expect(await shop.docketRecords.matching(after.id, 'quay')).toEqual([8]);
    expect(after.choices).toMatchObject({ copies: 3, records: { only: '2-20' } });
    // What cannot be said of a table changes nothing.
    await expect(
      shop.docketRecords.edit(after.id, after.version, { is: 'cell', record: 9, column: 'Name', value: '' })
    ).rejects.toThrow('no record 9');
    expect(() =>
      shop.docketEditing.change(after.id, after.version, {
        choices: { ...after.choices, records: { ...after.choices.records, only: '70-90' } }
      })
    ).toThrow('No record is chosen');
    // A docket whose table is lost is said so where it is asked for, and can still be changed.
    const path = shop.files.path(after.choices.records.table!.hash);
    const kept = readFileSync(path);
    const cold = new Tables({ db: shop.db, files: shop.files, intakePool: shop.intakePool, tablePool: shop.tablePool });
    rmSync(path);
    expect(() => cold.series(after.choices.records)).toThrow('cannot be read any more');
    writeFileSync(path, kept);
    expect(shop.docketEditing.change(after.id, after.version, { choices: { ...after.choices, copies: 99 } }).choices.copies).toBe(
      3
    );
    await expect(take(after, 'a,b\n"never closed')).rejects.toThrow('quotation mark that is never closed');
    await expect(take(docket, newer)).rejects.toThrow('in another window');
    expect(shop.dockets.get(after.id)).toEqual(after);
  });

  it('is looked at beforehand: what is at risk, and its pictures', async () => {
    const docket = await passes(condition.film, { fields: [{ ...nameField, size: { is: 'fixed', pt: 30 } }, codeField] });
    const looked = await shop.docketRecords.looked(docket.id);
    expect(looked.count).toBe(7);
    expect(looked.risks.filter(({ kind }) => kind === 'does not fit').map(({ record }) => record)).toEqual([2, 4]);
    expect(looked.fields[0]).toMatchObject({ id: 1, longest: { record: 2, text: PEOPLE[1] } });
    const png = await shop.docketRecords.pictures(docket.id, [1, 4, 2], 300);
    const { default: sharp } = await import('sharp');
    const { data, info } = await sharp(png).raw().toBuffer({ resolveWithObject: true });
    expect([info.width, info.height, info.channels]).toEqual([300, 3 * 167, 4]);
    const inked = [0, 1, 2].map((i) =>
      data
        .subarray(i * 300 * 167 * 4, (i + 1) * 300 * 167 * 4)
        .filter((_, at) => at % 4 === 3)
        .reduce((sum, alpha) => sum + alpha, 0)
    );
    // More letters are more ink; where there are none it is clear.
    expect(inked[1]!).toBeGreaterThan(inked[0]!);
    expect(data[3]).toBe(0);
    await expect(shop.docketRecords.pictures(docket.id, [99], 300)).rejects.toThrow('no record 99');
    // One that nobody waits for any more is ended; how far a look is, is told while it goes on.
    const many = `NAME_;No.\n${Array.from({ length: 4000 }, (_, i) => `Name ${i};${i}`).join('\n')}\n`;
    const long = (await take(docket, many, 'many.csv')).docket;
    const given = new AbortController();
    const looking = shop.docketRecords.looked(long.id, given.signal);
    await until(() => shop.docketRecords.lookedShare(long.id) > 0.1);
    expect(shop.docketRecords.lookedShare(long.id)).toBeLessThan(1);
    given.abort();
    await expect(looking).rejects.toThrow(/abort/i);
    expect(shop.docketRecords.lookedShare(long.id)).toBe(0);
  });

  it('has one record otherwise than the others, and one that has no code is not printed without a word', async () => {
    const docket = await passes(condition.film, {
      only: '1, 5',
      overrides: [{ record: 5, field: 2, text: 'SKIPPER', size: null, place: { ...codeField.place, x: 60 } }]
    });
    const runId = await ripped(shop.layingOut.add([docket.id])[0]!);
    // It lies in the run with the passes of the first docket.
    expect((await codesOf(runId)).slice(-2)).toEqual([code(1), 'SKIPPER']);
    const bad = await passes(condition.film, { fields: [{ ...codeField, kind: 'EAN-13', content: '{number}' }] });
    const run = shop.layingOut.add([bad.id])[0]!;
    const task = await shop.ripping.rip(run);
    expect((await shop.tasks.ended(task.id)).error).toMatch(/^Record 1: EAN-13 has/);
    expect(shop.runs.get(run).state).toBe('laying out');
    await shop.runEditing.remove(run);
  });

  it('prints the picture that each of them names, of a zip or among the artwork, and says which it does not have', async () => {
    const picture = (background: string) => sharp({ create: { width: 60, height: 40, channels: 3, background } });
    const zip = zipSync({
      'crew/ada.png': await picture('#ffff00').png().toBuffer(),
      'crew/LI Quay.jpg': await picture('#000000').jpeg().toBuffer()
    });
    const { id } = await shop.artworks.take('Zoë.png', oneChunk(await picture('#ffffff').png().toBuffer()));
    await until(() => shop.artworks.get(id).state !== 'reading');
    const field = newPicture([], { x: 30, y: 10, width: 30, height: 30, turn: 0 }, '{photo}');
    const records = { ...NO_RECORDS, fields: [field] };
    const docket = shop.dockets.add(artworkId, 0, { conditionId: condition.film, records, mayTurn: false });
    const taken = await take(docket, 'name,photo\nAda,Ada.jpg\nLi,li_quay\nZoë,zoe\nOve,ove.jpg\nKim,\n');
    const withPictures = await shop.docketRecords.takePictures(taken.docket.id, taken.docket.version, oneChunk(zip), 'crew.zip');
    expect(withPictures).toMatchObject({ leftOutCount: 0, docket: { choices: { records: { pictures: { count: 2 } } } } });
    const { risks, counts } = await shop.docketRecords.looked(docket.id);
    expect(counts).toMatchObject({ 'no picture': 1, empty: 1, 'coarse picture': 3 });
    const missing = risks.find(({ kind }) => kind === 'no picture')!;
    expect(missing).toMatchObject({ record: 4, sentence: 'Picture: there is no picture called “ove.jpg”.' });

    const [runId] = shop.layingOut.add([docket.id]);
    const refused = await shop.tasks.ended((await shop.ripping.rip(runId!)).id);
    expect(refused.error).toContain('Record 4: Picture: there is no picture called “ove.jpg”');
    const [without] = mendsOf(missing, risks, shop.dockets.get(docket.id).choices.records, []);
    const { version, choices } = shop.dockets.get(docket.id);
    shop.docketEditing.change(docket.id, version, {
      choices: { ...choices, ...(without!.change as { records: RecordChoices }) }
    });
    await ripped(runId!);
    const [yellow, black] = [await inkOf(runId!, 'Yellow'), await inkOf(runId!, 'Black')];
    const base = yellow[3]!;
    // Ada’s is yellow, Li’s black, Zoë’s as white as the film; the last two are bare artwork.
    expect(yellow[0]!).toBeGreaterThan(base + 120);
    expect(black[1]!).toBeGreaterThan(black[0]! + 100);
    expect(yellow[2]!).toBeLessThan(base);
    expect(yellow[4]!).toBeCloseTo(base, -1);
    expect(shop.runs.get(runId!).stale).toBe(false);
  });

  it('prints pages among the artwork in its fields as pictures: sharp, in their own colours, and nothing that does not print', async () => {
    // A burgee as wide as high: yellow, a band of black within, and a cut line around it that is as thick as can be seen.
    const spots = { 'Through cut': [0, 1, 0, 0] } as const;
    const content = `${cmykBox('0 0 1 0', 0, 0, 40, 40)}${cmykBox('0 0 0 1', 0, 15, 40, 10)}/S0 CS 1 SCN 9 w 0 0 40 40 re S`;
    const pages: [string, Buffer][] = [
      ['Gannet.pdf', madePdf({ width: 40, height: 40, spots, content })],
      ['Layered.pdf', madePdf({ width: 40, height: 40, layers: { Ground: true }, content: cmykBox('0 0 1 0', 0, 0, 40, 40) })]
    ];
    for (const [name, bytes] of pages) {
      const { id } = await shop.artworks.take(name, oneChunk(bytes));
      await until(() => shop.artworks.get(id).state === 'ready');
    }
    const field = { ...newPicture([], { x: 25, y: 5, width: 40, height: 40, turn: 0 }, '{photo}'), without: true };
    const docket = shop.dockets.add(artworkId, 0, {
      conditionId: condition.film,
      records: { ...NO_RECORDS, fields: [field] },
      mayTurn: false
    });
    await take(docket, 'name,photo\nAda,gannet\nLi,layered\nZoë,GANNET.pdf\n');
    expect((await shop.docketRecords.looked(docket.id)).counts).toMatchObject({ 'no picture': 0, 'coarse picture': 0 });
    const { data, info } = await sharp(await shop.docketRecords.pictures(docket.id, [1], 180))
      .raw()
      .toBuffer({ resolveWithObject: true });
    const at = (x: number, y: number) => [
      ...data.subarray((y * 2 * info.width + x * 2) * 4, (y * 2 * info.width + x * 2) * 4 + 4)
    ];
    // In the corner no cut line is seen; the band is where it was drawn.
    const [corner, band, beside] = [at(26, 6), at(45, 25), at(20, 25)];
    expect(corner[0]! > 200 && corner[1]! > 180 && corner[2]! < 120 && corner[3] === 255, String(corner)).toBe(true);
    expect(Math.max(...band.slice(0, 3))).toBeLessThan(80);
    expect(beside[3]).toBe(0);

    const [runId] = shop.layingOut.add([docket.id]);
    await ripped(runId!);
    const { plan } = shop.runs.frozen(runId!);
    const own = plan.pieces.filter((_, i) => copiesOf(runId!, docket.id)[i]);
    const mean = async (piece: RipPlan['pieces'][number], x: number, y: number) => {
      const rect = pieceRect(plan, piece);
      const px = (mm: number) => Math.round((mm / 25.4) * plan.dpi.x);
      const window = { x: rect.x + px(x), y: rect.y + px(y), width: 32, height: 32 };
      const drops = await plateInks(shop.runs.plates(runId!).plates, 1, window, plan.inks);
      return Object.fromEntries(
        plan.inks.map(({ name }, ink) => [
          name,
          drops.reduce((sum, v, i) => (i % plan.inks.length === ink ? sum + v : sum), 0) / 1024
        ])
      );
    };
    for (const piece of [own[0]!, own[2]!]) {
      const [ground, black] = [await mean(piece, 28, 7), await mean(piece, 44, 23)];
      expect(ground['Yellow']!).toBeGreaterThan(150);
      expect(ground['Magenta']!).toBeLessThan(30);
      expect(black['Black']!).toBeGreaterThan(150);
    }
    expect((await mean(own[1]!, 28, 7))['Yellow']!).toBeLessThan(60);
  });

  it('is cut along the letters of each, mirrored where its artwork is', async () => {
    const name = newText([], { x: 5, y: 10, width: 60, height: 20, turn: 0 }, '{name}', 'Name');
    const field = { ...name, along: 'left' as const, cut: { tool: 'kiss cut' as const, mm: 0, holes: true } };
    const records = { ...NO_RECORDS, fields: [field] };
    const linesOf = async (mirror: boolean) => {
      const docket = shop.dockets.add(artworkId, 0, { conditionId: condition.film, records, mayTurn: false, cut: true, mirror });
      await take(docket, 'name\nO\nHH\n');
      const runId = await ripped(shop.layingOut.add([docket.id])[0]!);
      const { plan, cuts } = shop.runs.frozen(runId);
      const { copies } = shop.runs.get(runId).layout.parts[0]!;
      const isOwn = (id: string) => id === String(docket.id);
      // From the left edge of its piece.
      const leftOf = (record: number) => copies.findIndex((copy) => isOwn(pieceOf(copy.id).docket) && copy.record === record);
      return cuts
        .filter((cut) => isOwn(cut.docket))
        .map(({ piece, tool, path }) => {
          const { x, width } = bounds(flatten(path, 0.05))!;
          return { piece, tool, from: x - pieceRect(plan, plan.pieces[leftOf(piece)]!).x / (plan.dpi.x / 25.4), width };
        });
    };
    const reads = await linesOf(false);
    // The O has a hole; both letters of the other have none.
    expect(reads.map(({ piece, tool }) => [piece, tool])).toEqual([
      [1, 'kiss cut'],
      [1, 'kiss cut'],
      [2, 'kiss cut'],
      [2, 'kiss cut']
    ]);
    expect(Math.min(...reads.map(({ from }) => from))).toBeGreaterThan(4.5);
    expect(Math.min(...reads.map(({ from }) => from))).toBeLessThan(8);
    const mirrored = await linesOf(true);
    // What began 5 mm from the left ends 5 mm from the right.
    const ends = Math.max(...mirrored.map(({ from, width }) => from + width));
    expect(ends).toBeGreaterThan(90 - 8);
    expect(ends).toBeLessThan(90 - 4.5);
  });

  it('prints a field in a named colour of the shop where it is in a spot colour that the shop knows, and shows it so', async () => {
    // Said to be all magenta where nothing is known of it; the shop’s is a yellow.
    const spot = { is: 'spot' as const, name: 'LANTERN-YELLOW Coated', inks: [0, 1, 0, 0] as [number, number, number, number] };
    const field = { ...newText([], { x: 10, y: 5, width: 60, height: 40, turn: 0 }, '{name}', 'Name'), colour: spot };
    const records = { ...NO_RECORDS, fields: [{ ...field, font: 'DejaVu Sans' }] };
    const docket = shop.dockets.add(artworkId, 0, { conditionId: condition.film, records, mayTurn: false });
    const taken = await take(docket, 'name,no\n█████,1\n');
    const picture = async () => {
      const { data, info } = await sharp(await shop.docketRecords.pictures(docket.id, [1], 90))
        .removeAlpha()
        .raw()
        .toBuffer({ resolveWithObject: true });
      const middle = (25 * info.width + 40) * 3;
      return [...data.subarray(middle, middle + 3)];
    };
    const [red, green, blue] = await picture();
    expect(red! > 150 && green! < 90 && blue! > 80, 'magenta').toBe(true);
    const [runId] = shop.layingOut.add([docket.id]);
    const own = async (ink: string) => (await inkOf(runId!, ink)).filter((_, i) => copiesOf(runId!, docket.id)[i])[0]!;
    await ripped(runId!);
    const unknown = { magenta: await own('Magenta'), yellow: await own('Yellow') };

    const { id } = shop.colours.add({
      name: 'Lantern Yellow',
      lab: [86, 2, 82],
      from: '',
      note: '',
      collection: '',
      others: []
    });
    expect((await shop.docketColours.of(docket.id)).spots).toMatchObject([
      { name: spot.name, prints: { id, name: 'Lantern Yellow' }, made: { isInReach: true } }
    ]);
    const [r, g, b] = await picture();
    expect(r! > 200 && g! > 170 && b! < 90, 'yellow').toBe(true);
    expect(shop.runs.get(runId!).stale).toBe(true);
    await ripped(runId!);
    expect(await own('Magenta')).toBeLessThan(unknown.magenta / 4);
    expect(await own('Yellow')).toBeGreaterThan(unknown.yellow + 100);
    // Said on the docket otherwise, it is again what its field says.
    const { version, choices } = shop.dockets.get(taken.docket.id);
    shop.docketEditing.change(docket.id, version, {
      choices: { ...choices, colours: [{ what: { spot: spot.name }, to: null }] }
    });
    expect((await shop.docketColours.of(docket.id)).spots).toMatchObject([{ name: spot.name, prints: null }]);
    expect((await picture())[2]).toBe(blue);
  });

  it('takes as much ink as its ticket says beforehand, fields and all', async () => {
    const field = { ...newText([], { x: 10, y: 5, width: 60, height: 40, turn: 0 }, '{name}', 'Name'), font: 'DejaVu Sans' };
    const records = { ...NO_RECORDS, fields: [field] };
    const docket = shop.dockets.add(artworkId, 0, { conditionId: condition.film, records, mayTurn: false });
    const bare = await shop.pictures.measured(docket.id);
    await take(docket, 'name,no\n████,1\n.,2\n');
    const foretold = await shop.pictures.measured(docket.id);
    expect(foretold.layers[0]!.m2).toBeGreaterThan(bare.layers[0]!.m2 * 2);
    const runId = await ripped(shop.layingOut.add([docket.id])[0]!);
    const { plan } = shop.runs.frozen(runId);
    const piece = plan.pieces[copiesOf(runId, docket.id).indexOf(true)]!;
    const rect = pieceRect(plan, piece);
    const amounts = await plateInks(shop.runs.plates(runId).plates, 1, rect, plan.inks);
    const printed = (amounts.reduce((sum, v) => sum + v, 0) / 255) * (25.4 / plan.dpi.x) * (25.4 / plan.dpi.y) * 1e-6;
    expect(foretold.layers[0]!.m2 / printed).toBeGreaterThan(0.96);
    expect(foretold.layers[0]!.m2 / printed).toBeLessThan(1.04);
    // One that cannot be printed is told with its record: the ticket goes without.
    const { version, choices } = shop.dockets.get(docket.id);
    const code = { ...codeField, content: 'WRONG{name}', kind: 'EAN-13' as const };
    shop.docketEditing.change(docket.id, version, { choices: { ...choices, records: { ...choices.records, fields: [code] } } });
    expect((await shop.pictures.measured(docket.id)).layers[0]!.m2).toBeCloseTo(bare.layers[0]!.m2, 8);
  });

  it('has lettering in varnish where a field is in a spot colour of that role, and none of it in its colours', async () => {
    const spot = { is: 'spot' as const, name: 'Varnish', inks: [0, 1, 0, 0] as [number, number, number, number] };
    // A block that fills its place nearly.
    const field = { ...newText([], { x: 10, y: 10, width: 30, height: 30, turn: 0 }, '{name}', 'Name'), colour: spot };
    const records = { ...NO_RECORDS, fields: [{ ...field, font: 'DejaVu Sans' }] };
    const docket = shop.dockets.add(artworkId, 0, { conditionId: condition.board, records, mayTurn: false });
    await take(docket, 'name,no\n█,1\n,2\n');
    // Its ticket counts the varnish of the first, which is all that there is.
    const varnished = (await shop.pictures.measured(docket.id)).layers.find(({ ink }) => ink === 'varnish')!;
    expect(varnished.m2 * 1e6).toBeGreaterThan(200);
    expect(varnished.m2 * 1e6).toBeLessThan(900);
    const runId = await ripped(shop.layingOut.add([docket.id])[0]!);
    const { plan } = shop.runs.frozen(runId);
    const inks = planesOf(plan).map(({ ink }) => plan.inks[ink]!);
    const [varnish, magenta] = ['Varnish', 'Magenta'].map((one) => inks.findIndex(({ name }) => name === one));
    const own = copiesOf(runId, docket.id);
    const amounts = await Promise.all(
      plan.pieces
        .filter((_, i) => own[i])
        .map(async (piece) => {
          const { x, y } = pieceRect(plan, piece);
          const at = (mm: number) => Math.round((mm / 25.4) * plan.dpi.x);
          const window = { x: x + at(23), y: y + at(23), width: 16, height: 16 };
          const drops = await plateInks(shop.runs.plates(runId).plates, 1, window, inks);
          const mean = (ink: number) => drops.reduce((sum, v, i) => (i % inks.length === ink ? sum + v : sum), 0) / 256;
          return { varnish: mean(varnish!), magenta: mean(magenta!) };
        })
    );
    const [written, bare] = amounts as [(typeof amounts)[0], (typeof amounts)[0]];
    expect(written.varnish).toBeGreaterThan(150);
    expect(bare.varnish).toBe(0);
    expect(Math.abs(written.magenta - bare.magenta)).toBeLessThan(5);
  });
});
