import pino from 'pino';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { temporaryFolder, until } from '../../../../../tests/harness';
import { openDatabase, type Db } from '../db/open';
import { Events } from '../events';
import { TaskRunner, type TaskKind } from './runner';

const log = pino({ level: 'silent' });
let folder: ReturnType<typeof temporaryFolder>;
let db: Db;
const opened: TaskRunner[] = [];

beforeEach(() => {
  folder = temporaryFolder();
  db = openDatabase(folder.path);
  db.exec('CREATE TABLE made (what TEXT, size BLOB)');
});
afterEach(() => {
  opened.splice(0).forEach((runner) => runner.close());
  db.close();
  folder.remove();
});

/** A runner with one kind of work, as a server has it that has just been started. */
function runner(kind: Partial<TaskKind>): TaskRunner {
  const made = new TaskRunner(db, new Events(), log);
  made.register('rip', {
    most: 1,
    work: () => Promise.resolve(undefined),
    unfinished: (subject, how) => void db.prepare('INSERT INTO made VALUES (?, NULL)').run(`${subject} ${how}`),
    ...kind
  });
  opened.push(made);
  return made;
}
const made = () => db.prepare<[], { what: string }>('SELECT what FROM made').pluck().all();
const forEver = () => new Promise<undefined>(() => undefined);
/** What a killed process leaves: nothing is told to anybody. */
const killed = (one: TaskRunner) => {
  opened.splice(opened.indexOf(one), 1);
  one.closed = true;
};

describe('a task', () => {
  it('is begun again after a kill, and given up at the third, with a sentence', async () => {
    let id = 0;
    for (let start = 1; start <= 3; start++) {
      let begun = false;
      const one = runner({ work: () => ((begun = true), forEver()) });
      one.start();
      id ||= one.add('rip', 7).id;
      await until(() => begun);
      expect(one.get(id)).toMatchObject({ state: 'working', attempts: start });
      killed(one);
    }
    const last = runner({ work: () => Promise.reject(new Error('It was begun once more.')) });
    last.start();
    expect(last.get(id)).toMatchObject({ state: 'failed', error: expect.stringMatching(/ended the server 3 times/) });
    expect(made()).toEqual(['7 failed']);
  });

  it('whose work is done in a process of its own is begun again however often the server is killed', async () => {
    let id = 0;
    for (let start = 1; start <= 5; start++) {
      let begun = false;
      const one = runner({ apart: true, work: () => ((begun = true), forEver()) });
      one.start();
      id ||= one.add('rip', 7).id;
      await until(() => begun);
      killed(one);
    }
    const last = runner({ apart: true, work: () => Promise.resolve(undefined) });
    last.start();
    await until(() => last.get(id)?.state === 'done');
    expect(last.get(id)!.error).toBeNull();
  });

  it('that an orderly stop broke off has not been tried', async () => {
    const one = runner({ work: forEver });
    const { id } = one.add('rip', 1);
    await until(() => one.get(id)?.state === 'working');
    one.close();
    expect(one.get(id)).toMatchObject({ state: 'waiting', attempts: 0 });
  });

  it('is cancelled while it waits, and not after it has ended', async () => {
    const one = runner({
      work: (_, { signal }) =>
        new Promise((_resolve, reject) => signal.addEventListener('abort', () => reject(signal.reason as Error)))
    });
    const first = one.add('rip', 1);
    const second = one.add('rip', 2);
    await until(() => one.get(first.id)?.state === 'working');
    one.cancel(second.id);
    expect(one.get(second.id)).toMatchObject({ state: 'cancelled' });
    expect(made()).toEqual(['2 cancelled']);
    one.cancel(first.id);
    expect((await one.ended(first.id)).state).toBe('cancelled');
    expect(() => one.cancel(first.id)).toThrow(/has ended already/);
    expect(() => one.cancel(99)).toThrow(/no such task/);
    expect(made()).toEqual(['2 cancelled', '1 cancelled']);
  });

  it('asked for while the same is at work is done after it, and once', async () => {
    const begun: string[] = [];
    let go: () => void = () => undefined;
    const one = runner({
      most: 5,
      work: async (subject) => {
        begun.push(subject);
        await new Promise<void>((resolve) => (go = resolve));
        return undefined;
      }
    });
    const first = one.add('rip', 1);
    await until(() => begun.length === 1);
    const second = one.add('rip', 1);
    expect(one.add('rip', 1).id).toBe(second.id);
    expect(second.id).not.toBe(first.id);
    expect(begun).toEqual(['1']);
    go();
    await until(() => begun.length === 2);
    go();
    expect((await one.ended(second.id)).state).toBe('done');
    expect(begun).toHaveLength(2);
  });
});

describe('the end of a task', () => {
  it('is written down together with its result, or neither is', async () => {
    const one = runner({
      work: () =>
        Promise.resolve(() => {
          db.prepare("INSERT INTO made VALUES ('half', NULL)").run();
          throw new Error('The result cannot be written down.');
        })
    });
    const { id } = one.add('rip', 3);
    expect(await one.ended(id)).toMatchObject({ state: 'failed', error: 'The result cannot be written down.' });
    expect(made()).toEqual(['3 failed']);
  });

  it('waits for room on a full disk, and needs no restart', async () => {
    const full = () => db.pragma(`max_page_count = ${db.pragma('page_count', { simple: true }) as number}`);
    const one = runner({
      work: () => {
        full();
        return Promise.resolve(() => void db.prepare("INSERT INTO made VALUES ('all', zeroblob(500000))").run());
      }
    });
    const { id } = one.add('rip', 4);
    await until(() => db.pragma('max_page_count', { simple: true }) === db.pragma('page_count', { simple: true }));
    await new Promise((resolve) => setTimeout(resolve, 300));
    expect(one.get(id)).toMatchObject({ state: 'working' });
    expect(made()).toEqual([]);
    db.pragma('max_page_count = 1000000');
    expect((await one.ended(id)).state).toBe('done');
    expect(made()).toEqual(['all']);
  });
});
