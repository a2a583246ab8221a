import pino from 'pino';
import { existsSync } from 'node:fs';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { ArtworkError } from '$core/artwork/facts';
import { ALL, oneChunk, temporaryFolder, until } from '../../../../tests/harness';
import { openDatabase, type Db } from '../platform/db/open';
import { Events } from '../platform/events';
import { FileStore } from '../platform/files';
import { Settings } from '../platform/settings';
import { WorkEnded, type ProcessPool } from '../platform/tasks/process-pool';
import { TaskRunner } from '../platform/tasks/runner';
import { Artworks, type Artwork } from './artworks';
import { Fonts } from './fonts';

/** The room alone, with a process pool that answers as it is told to. */

let folder: ReturnType<typeof temporaryFolder>;
let db: Db;
let tasks: TaskRunner;
let files: FileStore;

beforeEach(() => {
  folder = temporaryFolder();
  db = openDatabase(folder.path);
});
afterEach(() => {
  tasks.close();
  db.close();
  folder.remove();
});

function room(look: (attempt: number, signal: AbortSignal) => Promise<unknown>): { artworks: Artworks; attempts: () => number } {
  const log = pino({ level: 'silent' });
  const events = new Events();
  files = new FileStore(folder.path);
  tasks = new TaskRunner(db, events, log);
  let attempts = 0;
  const run = (_name: string, _request: unknown, _limits: unknown, signal: AbortSignal) => look(++attempts, signal);
  const intakePool = { run } as unknown as ProcessPool;
  const fonts = new Fonts({ db, files, events, intakePool });
  const artworks = new Artworks({ db, files, events, tasks, log, settings: new Settings(db, events), intakePool, fonts });
  return { artworks, attempts: () => attempts };
}
const read = (artworks: Artworks, id: number): Promise<Artwork> =>
  until(() => {
    const artwork = artworks.get(id);
    return artwork.state === 'reading' ? undefined : artwork;
  });
const fileOf = (id: number): string =>
  files.path(db.prepare<[number], string>('SELECT file_hash FROM artwork WHERE id = ?').pluck().get(id)!);
const sound = {
  ok: true,
  facts: { format: 'PDF', pages: [], fontsNotEmbedded: [], notes: [], findings: [] },
  outputIntent: null,
  lines: [],
  madePdf: false
};

describe('a customer’s file', () => {
  it('that is at fault is refused with its sentence, and does not stay', async () => {
    const { artworks, attempts } = room(() => Promise.reject(new ArtworkError('The file is locked.')));
    const { id } = await artworks.take('a.pdf', oneChunk('a'));
    expect(await read(artworks, id)).toMatchObject({ state: 'refused', reason: 'The file is locked.' });
    await until(() => !existsSync(fileOf(id)));
    expect(attempts()).toBe(1);
  });

  it('is tried three times when what reads it dies, and stays', async () => {
    const { artworks, attempts } = room((attempt) =>
      attempt < 3 ? Promise.reject(new WorkEnded('broke')) : Promise.resolve(sound)
    );
    const { id } = await artworks.take('a.pdf', oneChunk('a'));
    expect(await read(artworks, id)).toMatchObject({ state: 'ready', reason: null });
    expect(attempts()).toBe(3);
    expect(existsSync(fileOf(id))).toBe(true);
  });

  it.each([
    ['what reads it dies each time', () => new WorkEnded('broke'), /broke each time/, 3],
    ['the disk is full', () => Object.assign(new Error('no room'), { code: 'ENOSPC' }), /disk of the server is full/, 3],
    ['it does not get to be looked at', () => new WorkEnded('stalled'), /too busy/, 3],
    ['it takes too long', () => new WorkEnded('time'), /longer than 20 s/, 1],
    ['it takes too much memory', () => new WorkEnded('memory'), /more than 1000 MB/, 1]
  ])('stays, unread, when %s; it is read again by hand', async (_why, error, sentence, times) => {
    let broken = true;
    const { artworks, attempts } = room(() => (broken ? Promise.reject(error()) : Promise.resolve(sound)));
    const { id } = await artworks.take('a.pdf', oneChunk('a'));
    expect(await read(artworks, id)).toMatchObject({ state: 'unread', reason: expect.stringMatching(sentence) });
    expect(attempts()).toBe(times);
    expect(existsSync(fileOf(id))).toBe(true);
    broken = false;
    artworks.read(id);
    expect(await read(artworks, id)).toMatchObject({ state: 'ready', reason: null });
    expect(() => artworks.read(id)).toThrow(/could not be read/);
  });

  it('that comes in parts is taken once, however often its end is sent', async () => {
    const { artworks } = room(() => Promise.resolve(sound));
    const upload = { key: 'upload-of-a-test', bytes: 8 };
    expect(await artworks.takePart('a.pdf', { ...upload, from: 0 }, oneChunk('1234'))).toBeUndefined();
    const taken = await artworks.takePart('a.pdf', { ...upload, from: 4 }, oneChunk('5678'));
    expect(taken).toMatchObject({ name: 'a.pdf', bytes: 8 });
    expect(await artworks.takePart('a.pdf', { ...upload, from: 4 }, oneChunk('5678'))).toMatchObject({ id: taken!.id });
    expect(artworks.list(ALL, 0).count).toBe(1);
    await expect(artworks.takePart('b.pdf', { key: 'another-one', from: 0, bytes: 21e9 }, oneChunk('x'))).rejects.toThrow(
      /20 GB/
    );
  });

  it('whose reading is cancelled waits for a person', async () => {
    const { artworks } = room(
      (_, signal) => new Promise((_resolve, reject) => signal.addEventListener('abort', () => reject(signal.reason as Error)))
    );
    const { id } = await artworks.take('a.pdf', oneChunk('a'));
    const task = await until(() => tasks.open().find(({ state }) => state === 'working'));
    tasks.cancel(task.id);
    expect(await read(artworks, id)).toMatchObject({ state: 'unread', reason: 'Reading it was cancelled.' });
    expect(existsSync(fileOf(id))).toBe(true);
  });

  it('that was good once is not refused when it is read again, whatever the look says', async () => {
    let answer: () => Promise<unknown> = () => Promise.resolve(sound);
    const { artworks } = room(() => answer());
    const { id } = await artworks.take('a.pdf', oneChunk('a'));
    await read(artworks, id);
    // As an update has it that wants all files read anew.
    db.prepare("UPDATE artwork SET state = 'reading' WHERE id = ?").run(id);
    answer = () => Promise.reject(new ArtworkError('The file is locked.'));
    await tasks.ended(tasks.add('artwork', id).id);
    expect(artworks.get(id)).toMatchObject({ state: 'ready', facts: { format: 'PDF' } });
    expect(existsSync(fileOf(id))).toBe(true);
  });
});
