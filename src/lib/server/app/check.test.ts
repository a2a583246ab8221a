import { fork } from 'node:child_process';
import { once } from 'node:events';
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { ALL, oneChunk, temporaryFolder } from '../../../../tests/harness';
import { lockFolder } from '../platform/db/lock';
import { openDatabase, type Db } from '../platform/db/open';
import { FileStore } from '../platform/files';
import { checkFolder } from './check';
import { Shop } from './shop';

let folder: ReturnType<typeof temporaryFolder>;
beforeEach(() => (folder = temporaryFolder()));
afterEach(() => folder.remove());

describe('a data folder', () => {
  it('is one server’s; a second one is told so, and leaves the first alone', async () => {
    const first = new Shop(folder.path);
    expect(() => new Shop(folder.path)).toThrow(/Another Zing Mast works on .*choose another folder/);
    expect(first.artworks.list(ALL, 0).count).toBe(0);
    await first.close();
    await new Shop(folder.path).close();
  });

  it('whose server was killed is free at once', async () => {
    const script = join(folder.path, 'holds.mjs');
    // Another process takes the lock as SQLite has it.
    writeFileSync(
      script,
      `import Database from ${JSON.stringify(import.meta.resolve('better-sqlite3'))};
       const db = new Database(${JSON.stringify(join(folder.path, 'lock.sqlite'))});
       db.exec('BEGIN EXCLUSIVE'); process.send('held'); setInterval(() => undefined, 1000);`
    );
    const other = fork(script);
    await once(other, 'message');
    expect(() => lockFolder(folder.path)).toThrow(/Another Zing Mast/);
    other.kill('SIGKILL');
    await once(other, 'exit');
    lockFolder(folder.path)();
  });
});

describe('a check of a data folder', () => {
  const options = { mend: false, contents: true, youngerMs: 0 };
  let db: Db;
  let files: FileStore;
  const check = async (over: Partial<typeof options> = {}) =>
    (await checkFolder(folder.path, { ...options, ...over })).map(({ what, mended }) => `${mended ? 'mended: ' : ''}${what}`);

  beforeEach(() => {
    db = openDatabase(folder.path);
    files = new FileStore(folder.path);
    mkdirSync(join(folder.path, 'plates'), { recursive: true });
    db.exec(`
      INSERT INTO machine (id, kind, name, url) VALUES (1, 'printer', 'P', 'http://p');
      INSERT INTO media (id, name, card) VALUES (1, 'Film', '{}');
      INSERT INTO condition (id, machine_id, media_id, mode_code, mode) VALUES (1, 1, 1, 'm', '{}');
    `);
  });
  afterEach(() => db.close());
  const artwork = (id: number, hash: string, state = 'ready') =>
    db
      .prepare("INSERT INTO artwork (id, name, file_hash, bytes, state, added_at) VALUES (?, 'a', ?, 1, ?, 0)")
      .run(id, hash, state);
  const run = (id: number, state: string, plates: string | null = null) =>
    db
      .prepare("INSERT INTO run (id, condition_id, rule, state, plates_name, added_at) VALUES (?, 1, '{}', ?, ?, 0)")
      .run(id, state, plates);
  const platesNamed = (name: string) =>
    ['tif', 'overview', 'coarse'].forEach((ending) => writeFileSync(join(folder.path, 'plates', `${name}.${ending}`), 'p'));

  it('finds nothing in a sound one', async () => {
    artwork(1, (await files.take(oneChunk('a'), 9)).hash);
    run(1, 'ripped', 'run-1-a');
    platesNamed('run-1-a');
    expect(await check({ mend: true })).toEqual([]);
  });

  it('finds files that are missing, damaged, or needed by nothing; the latter go', async () => {
    const { hash } = await files.take(oneChunk('sound'), 9);
    const { hash: hurt } = await files.take(oneChunk('hurt'), 9);
    const { hash: loose } = await files.take(oneChunk('loose'), 9);
    artwork(1, hash);
    artwork(2, hurt);
    artwork(3, 'f'.repeat(64));
    db.prepare("INSERT INTO kept_file (key, hash) VALUES ('piece/x', ?)").run('e'.repeat(64));
    writeFileSync(files.path(hurt), 'HURT');
    const wanted = [
      expect.stringMatching(/f{12}… of artwork 3 is missing/),
      expect.stringMatching(/^mended: The file e{12}… of kept piece\/x is missing/),
      expect.stringMatching(new RegExp(`^mended: The file ${loose.slice(0, 12)}… is needed by nothing`)),
      expect.stringMatching(new RegExp(`^The file ${hurt.slice(0, 12)}… is not what its name says`))
    ];
    expect((await check()).every((what) => !what.startsWith('mended'))).toBe(true);
    expect(existsSync(files.path(loose))).toBe(true);
    // A server's own sweep leaves young ones alone.
    expect((await check({ youngerMs: 60_000, mend: true })).filter((what) => what.includes('needed by nothing'))).toEqual([]);
    db.prepare("INSERT INTO kept_file (key, hash) VALUES ('piece/x', ?)").run('e'.repeat(64));
    writeFileSync(files.path(hurt), 'HURT');
    expect(await check({ mend: true })).toEqual(wanted);
    expect(existsSync(files.path(loose))).toBe(false);
    expect(readFileSync(`${files.path(hurt)}.damaged`, 'utf8')).toBe('HURT');
    expect(readFileSync(files.path(hash), 'utf8')).toBe('sound');
  });

  it('sets runs and artwork free that wait for nothing, and RIPs again what has lost its plates', async () => {
    artwork(1, (await files.take(oneChunk('a'), 9)).hash, 'reading');
    run(1, 'ripping');
    run(2, 'printing', 'run-2-a');
    run(3, 'ripped', 'run-3-a');
    run(4, 'ripping');
    db.exec("INSERT INTO task (kind, subject, state, added_at) VALUES ('rip', '4', 'waiting', 0)");
    platesNamed('run-2-a');
    platesNamed('run-9-a');
    const found = await check({ mend: true });
    expect(found).toEqual(
      [
        'mended: Artwork 1 is being read, and no task reads it.',
        'mended: Run 1 is being RIPped, and no task RIPs it.',
        'mended: Run 2 is being printed, and nothing of it goes on.',
        ...['coarse', 'overview', 'tif'].map((ending) => `mended: The plates run-9-a.${ending} are no run’s.`),
        'mended: The plates of run 3 are gone: it has to be RIPped again.'
      ].sort((p, q) => found.indexOf(p) - found.indexOf(q))
    );
    const states = db.prepare<[], string>('SELECT state FROM run ORDER BY id').pluck().all();
    expect(states).toEqual(['laying out', 'ripped', 'laying out', 'ripping']);
    expect(await check()).toEqual([]);
  });

  it('is made by a command, which says what it found and leaves a running server alone', async () => {
    const run = async (...args: string[]) => {
      const child = fork('dist-node/check.js', [folder.path, ...args], { silent: true });
      let said = '';
      child.stdout?.on('data', (text: Buffer) => (said += text.toString()));
      child.stderr?.on('data', (text: Buffer) => (said += text.toString()));
      const [code] = (await once(child, 'exit')) as [number];
      return { code, said };
    };
    artwork(1, 'd'.repeat(64));
    expect(await run()).toEqual({
      code: 1,
      said: expect.stringMatching(/wrong: The file d{12}… of artwork 1 is missing[^]*1 of 1 are left/)
    });
    db.exec('DELETE FROM artwork');
    expect(await run()).toEqual({ code: 0, said: 'All is well.\n' });
    const unlock = lockFolder(folder.path);
    expect(await run()).toEqual({ code: 2, said: expect.stringMatching(/Another Zing Mast works on/) });
    unlock();
  });
});
