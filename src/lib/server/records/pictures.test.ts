import { mkdirSync, readdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { strToU8, zipSync } from 'fflate';
import sharp from 'sharp';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { newPicture, newText } from '$core/records/new-field';
import { oneChunk, temporaryFolder, until } from '../../../../tests/harness';
import { isFileUsed, openDatabase, type Db } from '../platform/db/open';
import { FileStore } from '../platform/files';
import type { ProcessPool } from '../platform/tasks/process-pool';
import { FieldPictureSets, type KeptPicture } from './pictures';
import { FieldPictures, PictureError } from './workers/field-pictures';
import { readPictures, type ReadPicturesRequest } from './workers/read-pictures';

let folder: ReturnType<typeof temporaryFolder>;
let db: Db;
let files: FileStore;
const artwork = new Map<string, KeptPicture>();
/** Artwork 2 has layers. */
const leftOutOf = (id: number) => (id === 2 ? undefined : ['Cut line']);
/** What the process does, here. */
const intakePool = { run: (_name: string, request: ReadPicturesRequest) => readPictures(request) } as unknown as ProcessPool;
const open = () => new FieldPictureSets({ db, files, intakePool, artworkPictures: () => artwork, leftOutOf });

beforeEach(() => {
  folder = temporaryFolder();
  db = openDatabase(folder.path);
  files = new FileStore(folder.path, (hash) => isFileUsed(db, hash));
  artwork.clear();
});
afterEach(() => {
  db.close();
  folder.remove();
});

const flat = (width: number, height: number, colour: string) =>
  sharp({ create: { width, height, channels: 3, background: colour } });
const jpeg = async (width: number, height: number, colour = '#336699') => flat(width, height, colour).jpeg().toBuffer();

describe('pictures for fields', () => {
  it('come from a zip, each by its name; what is none is left out and said', async () => {
    const onItsSide = await flat(30, 60, '#ff0000').withMetadata({ orientation: 6 }).jpeg().toBuffer();
    const broken = (await jpeg(400, 300)).subarray(0, 700);
    const zip = zipSync({
      'portraits/Ada Vik.jpg': await jpeg(60, 80),
      'portraits/zoë.png': await flat(10, 10, '#00ff00').png().toBuffer(),
      'side.jpeg': onItsSide,
      '__MACOSX/portraits/._Ada Vik.jpg': strToU8('beside'),
      '.DS_Store': strToU8('beside'),
      'list.txt': strToU8('Ada, Zoë'),
      'drawing.svg': strToU8('<svg xmlns="http://www.w3.org/2000/svg" width="9" height="9"/>'),
      'broken.jpg': broken
    });
    const sets = open();
    const { pictures, leftOut, leftOutCount } = await sets.take(oneChunk(zip), 'crew.zip');
    expect(pictures).toMatchObject({ name: 'crew.zip', count: 3 });
    expect(leftOutCount).toBe(3);
    expect(leftOut.map(({ name }) => name).sort()).toEqual(['broken.jpg', 'drawing.svg', 'list.txt']);
    artwork.set('logo', { hash: 'f'.repeat(64), width: 5, height: 5 });
    artwork.set('adavik', { hash: 'f'.repeat(64), width: 5, height: 5 });
    const found = await sets.find({ pictures }, ['ADA_VIK', 'Zoe.png', 'side', 'Logo.tif', 'nobody', '']);
    // A docket's own go before the artwork; a picture on its side is upright.
    expect(Object.entries(found).map(([name, { width, height }]) => [name, width, height])).toEqual([
      ['ADA_VIK', 60, 80],
      ['Zoe.png', 10, 10],
      ['side', 60, 30],
      ['Logo.tif', 5, 5]
    ]);
    expect(await sets.find({ pictures: null }, ['side'])).toEqual({});
    // Pages too: with what of them does not print, and none that has layers.
    artwork.set('burgee', { hash: 'b'.repeat(64), width: 900, height: 600, artwork: 1 });
    artwork.set('flag', { hash: 'f'.repeat(64), width: 900, height: 600, artwork: 2 });
    expect(await sets.find({ pictures: null }, ['Burgee.pdf', 'flag', 'BURGEE.svg'])).toEqual(
      Object.fromEntries(
        ['Burgee.pdf', 'BURGEE.svg'].map((name) => [
          name,
          { path: files.path('b'.repeat(64)), width: 900, height: 600, leftOut: ['Cut line'] }
        ])
      )
    );
    // The zip itself is not kept, nor what was unpacked of it.
    await until(() => readdirSync(join(folder.path, 'incoming')).length === 0);
    expect(readdirSync(files.folder, { recursive: true, withFileTypes: true }).filter((one) => one.isFile())).toHaveLength(3);
    // The same again is the same set.
    expect((await sets.take(oneChunk(zip), 'again.zip')).pictures.hash).toBe(pictures.hash);
  });

  it('go when nothing names them, after a day', async () => {
    const sets = open();
    const { pictures } = await sets.take(oneChunk(zipSync({ 'a.jpg': await jpeg(8, 8) })), 'a.zip');
    const left = () => db.prepare('SELECT count(*) AS n FROM record_picture').get();
    open();
    expect(left()).toEqual({ n: 1 });
    db.prepare('UPDATE picture_set SET added_at = 0').run();
    db.exec(`INSERT INTO docket_bin (id, docket, steps, binned_at) VALUES (1, '{"in":"${pictures.hash}"}', '[]', 0)`);
    open();
    expect(left()).toEqual({ n: 1 });
    db.exec('DELETE FROM docket_bin');
    open();
    expect(left()).toEqual({ n: 0 });
  });

  it('are refused with a sentence where the zip is none, cut off, damaged or without any', async () => {
    const sets = open();
    const whole = zipSync({ 'a.jpg': await jpeg(80, 80) }, { level: 0 });
    await expect(sets.take(oneChunk(strToU8('PK no zip')), 'a.zip')).rejects.toThrow(/no zip file/);
    await expect(sets.take(oneChunk(whole.subarray(0, whole.length - 30)), 'a.zip')).rejects.toThrow(/cut off/);
    await expect(sets.take(oneChunk(zipSync({ 'a.txt': strToU8('a') })), 'a.zip')).rejects.toThrow(/no picture in a\.zip/);
    // One bit in the middle of the picture.
    const flipped = Uint8Array.from(whole);
    flipped[Math.floor(whole.length / 2)]! ^= 16;
    await expect(sets.take(oneChunk(flipped), 'a.zip')).rejects.toThrow(/no picture/);
    // A list of files that ends too early.
    const list = Uint8Array.from(whole);
    const end = list.length - 22;
    list[end + 8] = list[end + 10] = 2;
    await expect(sets.take(oneChunk(list), 'a.zip')).rejects.toThrow(/broken|cut off/);
    expect(db.prepare('SELECT count(*) AS n FROM picture_set').get()).toEqual({ n: 0 });
  });

  it('are made as fine as their place needs, once for records that share one, in their own colours', async () => {
    mkdirSync(join(folder.path, 'p'));
    const path = (name: string) => join(folder.path, 'p', name);
    writeFileSync(path('large'), await jpeg(4000, 3000));
    writeFileSync(
      path('clear'),
      await sharp({ create: { width: 20, height: 10, channels: 4, background: '#ff000080' } })
        .png()
        .toBuffer()
    );
    const inks = await flat(20, 20, '#0000ff').pipelineColourspace('cmyk').toColourspace('cmyk').tiff().toBuffer();
    writeFileSync(path('inks'), inks);
    writeFileSync(path('broken'), strToU8('no picture'));
    const pictures = new FieldPictures(
      {
        large: { path: path('large'), width: 4000, height: 3000 },
        clear: { path: path('clear'), width: 20, height: 10 },
        inks: { path: path('inks'), width: 20, height: 20 },
        broken: { path: path('broken'), width: 9, height: 9 }
      },
      360
    );
    const field = newPicture([], { x: 0, y: 0, width: 25.4, height: 25.4, turn: 0 });
    const of = async (text: string, forgiving = false, more = {}) =>
      (
        await pictures.of(
          [
            { field: newText([], field.place), text: 'x' },
            { field: { ...field, ...more }, text }
          ],
          forgiving
        )
      ).get(field.id);
    // An inch high at 360 pixels, and as wide as that asks for: it fills its place.
    const large = await of(' large ');
    expect(large).toMatchObject({ width: 480, height: 360, filter: 'DCTDecode', channels: 3 });
    expect(await of('large')).toBe(large);
    expect((await of('large', false, { fit: 'whole' }))?.width).toBe(360);
    expect(await of('clear')).toMatchObject({
      width: 20,
      height: 10,
      filter: 'FlateDecode',
      channels: 3,
      alpha: expect.any(Uint8Array) as unknown
    });
    expect(await of('inks')).toMatchObject({ channels: 4, filter: 'FlateDecode' });
    await expect(of('broken')).rejects.toThrow(PictureError);
    await expect(of('nobody')).rejects.toThrow('there is no picture called “nobody”');
    expect([
      await of('broken', true),
      await of('nobody', true),
      await of('nobody', false, { without: true }),
      await of('')
    ]).toEqual(Array(4).fill(undefined));
  });
});
