import { existsSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { oneChunk, temporaryFolder } from '../../../../tests/harness';
import { isFileUsed, openDatabase, type Db } from './db/open';
import { FileStore } from './files';

let folder: ReturnType<typeof temporaryFolder>;
beforeEach(() => (folder = temporaryFolder()));
afterEach(() => folder.remove());

describe('files by what is in them', () => {
  it('take the place of a broken one of their name', async () => {
    const files = new FileStore(folder.path);
    const { hash } = await files.take(oneChunk('whole'), 100);
    // What a disk may leave of a file that was not synced.
    writeFileSync(files.path(hash), 'wh');
    await files.take(oneChunk('whole'), 100);
    expect(readFileSync(files.path(hash), 'utf8')).toBe('whole');
  });

  it('that are too long leave nothing', async () => {
    const files = new FileStore(folder.path);
    await expect(files.take(oneChunk('too long'), 3)).rejects.toThrow(/larger than/);
    expect(readdirSync(join(folder.path, 'incoming'))).toEqual([]);
    expect(readdirSync(files.folder)).toEqual([]);
  });

  it('go when nothing needs them, and stay while somebody may be about to write down that he does', async () => {
    let used = false;
    const files = new FileStore(folder.path, () => used);
    const { hash } = await files.take(oneChunk('a'), 100);
    files.drop(hash);
    expect(existsSync(files.path(hash))).toBe(true);
    used = true;
    await files.take(oneChunk('a'), 100, () => undefined);
    files.drop(hash);
    expect(existsSync(files.path(hash))).toBe(true);
    used = false;
    files.drop(hash);
    expect(existsSync(files.path(hash))).toBe(false);
    files.drop(hash);
  });

  it('that could not be written down stay nobody’s, and the next try has them', async () => {
    const files = new FileStore(folder.path);
    const broken = () => {
      throw new Error('The row cannot be written.');
    };
    await expect(files.take(oneChunk('a'), 100, broken)).rejects.toThrow(/row/);
    expect(readdirSync(join(folder.path, 'incoming'))).toEqual([]);
    const { hash } = await files.take(oneChunk('a'), 100);
    expect(readFileSync(files.path(hash), 'utf8')).toBe('a');
  });
});

describe('an upload that breaks off', () => {
  const KEY = 'upload-of-a-test';
  /** What comes before the line breaks. */
  async function* broken(text: string) {
    yield await Promise.resolve(new TextEncoder().encode(text));
    throw new Error('The line broke.');
  }

  it('goes on where it was, also after the server was started anew', async () => {
    const first = new FileStore(folder.path);
    await expect(first.addToUpload(KEY, 0, broken('one '), 99)).rejects.toThrow(/line broke/);
    const files = new FileStore(folder.path);
    expect(await files.uploaded(KEY)).toBe(4);
    await expect(files.addToUpload(KEY, 0, oneChunk('two'), 99)).rejects.toThrow(/4 bytes of this file have come, not 0/);
    expect(await files.addToUpload(KEY, 4, oneChunk('two'), 99)).toBe(7);
    let hash = '';
    await files.finishUpload(KEY, (made) => (hash = made));
    expect(readFileSync(files.path(hash), 'utf8')).toBe('one two');
    expect(await files.uploaded(KEY)).toBe(0);
  });

  it('is given up when it is too long, and says why to who asks later', async () => {
    const files = new FileStore(folder.path);
    await expect(files.addToUpload(KEY, 0, oneChunk('too long'), 3)).rejects.toThrow(/larger than/);
    await expect(files.uploaded(KEY)).rejects.toThrow(/larger than/);
    expect(readdirSync(join(folder.path, 'incoming'))).toEqual([]);
  });

  it('has a name that leads nowhere else', async () => {
    const files = new FileStore(folder.path);
    for (const key of ['../../shop.sqlite', 'short', 'a/b/c/d/e/f', 'x'.repeat(65)])
      await expect(files.uploaded(key)).rejects.toThrow(/no name for an upload/);
  });
});

describe('who needs a file', () => {
  let db: Db;
  beforeEach(() => (db = openDatabase(folder.path)));
  afterEach(() => db.close());

  it('is told for artwork, profiles, plans and everything else that names one', () => {
    db.exec(`
      INSERT INTO machine (id, kind, name, url) VALUES (1, 'printer', 'P', 'http://p');
      INSERT INTO media (id, name, card) VALUES (1, 'Film', '{}');
      INSERT INTO condition (id, machine_id, media_id, mode_code, mode) VALUES (1, 1, 1, 'm', '{}');
      INSERT INTO artwork (id, name, file_hash, bytes, state, pdf_hash, facts, added_at) VALUES
        (1, 'a', 'file', 1, 'ready', 'pdf', '{"outputIntent":{"hash":"intent"}}', 0),
        (2, 'b', 'refused', 1, 'refused', NULL, NULL, 0),
        (3, 'c', 'unread', 1, 'unread', NULL, NULL, 0);
      INSERT INTO kept_file (key, hash) VALUES ('k', 'kept');
      INSERT INTO font (family, hash, added_at) VALUES ('F', 'font', 0);
      INSERT INTO source_profile (hash, name, space, added_at) VALUES ('source', 'S', 'rgb', 0);
      INSERT INTO condition_result (condition_id, step, document, made_at) VALUES (1, 'start', '{"hash":"result"}', 0);
      INSERT INTO run (id, condition_id, rule, state, added_at) VALUES (1, 1, '{}', 'laying out', 0);
    `);
    const plan = (file: string) =>
      JSON.stringify({
        profile: 'profile',
        plan: {
          sources: [
            { file, overlays: { files: ['overlay', 'second'], each: 500 }, sources: { rgb: 'srgb', cmyk: 'own' } },
            { file, overlays: 'in one', sources: {} }
          ]
        }
      });
    const freeze = db.prepare(
      'INSERT INTO run_plan (run_id, plan) VALUES (1, ?) ON CONFLICT (run_id) DO UPDATE SET plan = excluded.plan'
    );
    freeze.run(plan('older'));
    freeze.run(plan('frozen'));
    const used = [
      'file',
      'pdf',
      'intent',
      'unread',
      'kept',
      'font',
      'source',
      'result',
      'profile',
      'frozen',
      'own',
      'overlay',
      'second',
      'in one'
    ];
    expect(used.filter((hash) => !isFileUsed(db, hash))).toEqual([]);
    expect(['refused', 'older', 'nothing'].filter((hash) => isFileUsed(db, hash))).toEqual([]);
    db.exec('DELETE FROM run');
    expect(isFileUsed(db, 'frozen')).toBe(false);
    db.exec("INSERT INTO record_table (hash, name, columns, count, added_at) VALUES ('table', 't', '[]', 0, 0)");
    expect(isFileUsed(db, 'table')).toBe(true);
    db.exec(`
      INSERT INTO picture_set (hash, name, count, added_at) VALUES ('set', 's', 1, 0);
      INSERT INTO record_picture (set_hash, name, plain, hash, width, height) VALUES ('set', 'a.jpg', 'a', 'picture', 1, 1);
    `);
    expect(isFileUsed(db, 'picture')).toBe(true);
    db.exec('DELETE FROM picture_set');
    expect(isFileUsed(db, 'picture')).toBe(false);
    // It is asked at each deletion: no table is read from end to end.
    const steps = db.prepare<[], { detail: string }>("EXPLAIN QUERY PLAN SELECT 1 FROM file_use WHERE hash = 'x'").all();
    expect(
      steps.map(({ detail }) => detail).filter((detail) => /^SCAN (artwork|run|kept_file|condition_result)/.test(detail))
    ).toEqual([]);
  });
});
