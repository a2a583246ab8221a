import { mkdirSync, mkdtempSync, readdirSync, readFileSync, symlinkSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, describe, expect, it } from 'vitest';
import { temporaryFolder } from '../../../../tests/harness';
import { Elsewhere, identityAt, isWithin, lookAt, moveAside, NoFile, openFound, whyUnwatched } from './folder-files';
import { isLeft, placesIn } from './folder-places';

const root = temporaryFolder();
afterAll(root.remove);
const fresh = () => mkdtempSync(join(root.path, 'in-'));

describe('a folder that is watched', () => {
  const shop = { own: ['/srv/zing', '/home/ann'], dataFolder: '/data/shop', others: ['/jobs/in'] };

  it('lies in another or not, also at the root', () => {
    const cases: [string, string, boolean][] = [
      ['/a/b', '/a', true],
      ['/a', '/a', true],
      ['/ab', '/a', false],
      ['/a', '/a/b', false],
      ['/a', '/', true],
      ['/..b', '/', true],
      ['/', '/a', false]
    ];
    for (const [path, folder, is] of cases) expect(isWithin(path, folder), `${path} in ${folder}`).toBe(is);
  });

  it('is none of the system’s, of the program’s, of somebody’s whole home, nor one that holds them', () => {
    for (const path of ['/', '/etc', '/usr/share/fonts', '/proc', '/dev/shm', '/bin'])
      expect(whyUnwatched(path, shop), path).toMatch(/system/);
    for (const path of ['/srv', '/srv/zing', '/home', '/home/ann', '/data', '/data/shop'])
      expect(whyUnwatched(path, shop), path).toMatch(/own files or all of somebody/);
    for (const path of ['/data/shop/files', '/data/shop/watched'])
      expect(whyUnwatched(path, shop), path).toMatch(/keeps its own files/);
    for (const path of ['/jobs/in', '/jobs/in/taken', '/jobs']) expect(whyUnwatched(path, shop), path).toMatch(/go round/);
    for (const path of ['/home/ann/print', '/data/shop/watched/Counter', '/jobs/in2', '/mnt/share', '/srv/zing/in'])
      expect(whyUnwatched(path, shop), path).toBeUndefined();
  });
});

describe('a file in a watched folder', () => {
  it('is told from the next of its name, and is never a link, a folder or empty', async () => {
    const folder = fresh();
    writeFileSync(join(folder, 'a.pdf'), 'one');
    const one = await lookAt(folder, 'a.pdf');
    expect(one.bytes).toBe(3);
    expect(await identityAt(folder, 'a.pdf')).toBe(one.identity);
    writeFileSync(join(folder, 'a.pdf'), 'other');
    expect((await lookAt(folder, 'a.pdf')).identity).not.toBe(one.identity);
    mkdirSync(join(folder, 'sub'));
    symlinkSync(join(folder, 'a.pdf'), join(folder, 'link.pdf'));
    writeFileSync(join(folder, 'empty.pdf'), '');
    for (const place of ['sub', 'link.pdf', 'empty.pdf']) await expect(lookAt(folder, place)).rejects.toThrow(NoFile);
    await expect(openFound(folder, 'link.pdf')).rejects.toThrow();
    await expect(lookAt(folder, 'none.pdf')).rejects.toThrow(/ENOENT/);
    expect(await identityAt(folder, 'none.pdf')).toBeUndefined();
  });

  it('behind a linked folder is neither opened nor moved', async () => {
    const [folder, other] = [fresh(), fresh()];
    writeFileSync(join(other, 'diary.pdf'), 'mine');
    symlinkSync(other, join(folder, 'linked'));
    await expect(openFound(folder, 'linked/diary.pdf')).rejects.toThrow(Elsewhere);
    await expect(moveAside(folder, 'linked/diary.pdf', 'No.')).rejects.toThrow(Elsewhere);
    expect(readdirSync(other)).toEqual(['diary.pdf']);
  });

  it('is found wherever it lies in the folder, but not behind links, too deep, or where things are left alone', async () => {
    const [folder, other] = [fresh(), fresh()];
    for (const place of ['a/b/c', 'taken']) mkdirSync(join(folder, place), { recursive: true });
    for (const place of ['one.pdf', 'a/two.pdf', 'a/b/three.pdf', 'a/b/c/deep.pdf', 'taken/four.pdf'])
      writeFileSync(join(folder, place), 'x');
    writeFileSync(join(other, 'five.pdf'), 'x');
    symlinkSync(other, join(folder, 'linked'));
    const found: string[] = [];
    for await (const place of placesIn(folder, 2)) found.push(place);
    expect(found.sort()).toEqual(['a/b/three.pdf', 'a/two.pdf', 'linked', 'one.pdf'].map((one) => join(one)));
    const none: string[] = [];
    for await (const place of placesIn(join(folder, 'gone'))) none.push(place);
    expect(none).toEqual([]);
  });

  it('is left alone where it was moved aside, is hidden, or is half written', () => {
    for (const place of [
      'taken/a.pdf',
      'refused/a.pdf.txt',
      '.a.pdf',
      'b/.c/a.pdf',
      'a.pdf.part',
      'a.TMP',
      'a.crdownload',
      'a.pdf~'
    ])
      expect([place, isLeft(join(place))]).toEqual([place, true]);
    for (const place of ['a.pdf', 'b/taken/a.pdf', 'part.pdf', 'a.part.pdf', 'taken.pdf'])
      expect([place, isLeft(join(place))]).toEqual([place, false]);
  });

  it('goes aside under a free name, and a reason never takes the place of another file', async () => {
    const folder = fresh();
    const put = (name: string, text: string) => writeFileSync(join(folder, name), text);
    put('a.pdf', '1');
    expect(await moveAside(folder, 'a.pdf')).toBe(join('taken', 'a.pdf'));
    put('a.pdf', '2');
    expect(await moveAside(folder, 'a.pdf')).toBe(join('taken', 'a (2).pdf'));
    // A text that was refused itself has the name that a reason would have.
    put('b.pdf.txt', 'a letter');
    await moveAside(folder, 'b.pdf.txt', 'No artwork.');
    put('b.pdf', 'x');
    expect(await moveAside(folder, 'b.pdf', 'Broken.')).toBe(join('refused', 'b (2).pdf'));
    const refused = (name: string) => readFileSync(join(folder, 'refused', name), 'utf8');
    expect(refused('b.pdf.txt')).toBe('a letter');
    expect(refused('b.pdf.txt.txt')).toBe('No artwork.\n');
    expect(refused('b (2).pdf.txt')).toBe('Broken.\n');
  });
});
