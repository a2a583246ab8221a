import { createHash, randomUUID } from 'node:crypto';
import { createReadStream, existsSync, mkdirSync, readdirSync, renameSync, rmSync, statSync } from 'node:fs';
import { open, rename, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { Problem, tooLarge } from './problem';

const UPLOAD = 'upload-';
/** How long an upload that broke off waits to be gone on with. */
const UPLOAD_KEPT_MS = 86_400_000;
const MOST_REFUSED = 100;
const DISK_FULL = 'The disk is full: nothing was stored. Make room and send the file again.';

/** How long a file that has just come is safe from being dropped: whoever put it there writes down why. */
const ARRIVING_MS = 60_000;

/**
 * Files by the SHA-256 of what is in them. Nothing half-written ever has its final name, and what has it is on the disk,
 * name and all, before anybody is told.
 */
export class FileStore {
  readonly folder: string;
  readonly #incoming: string;
  readonly #isUsed: (hash: string) => boolean;
  readonly #uploading = new Set<string>();
  /** By upload: why it was given up. */
  readonly #refused = new Map<string, Problem>();
  /** By hash, until when: by a clock that nobody sets. */
  readonly #arriving = new Map<string, number>();

  /** @param isUsed whether anything in the shop needs a file */
  constructor(dataFolder: string, isUsed: (hash: string) => boolean = () => false) {
    this.#isUsed = isUsed;
    this.folder = join(dataFolder, 'files');
    this.#incoming = join(dataFolder, 'incoming');
    mkdirSync(this.folder, { recursive: true });
    mkdirSync(this.#incoming, { recursive: true });
    // What a stopped server left half-made, but for uploads that may go on.
    for (const name of readdirSync(this.#incoming)) {
      const path = join(this.#incoming, name);
      if (name.startsWith(UPLOAD) && Date.now() - statSync(path).mtimeMs < UPLOAD_KEPT_MS) continue;
      rmSync(path, { force: true, recursive: true });
    }
  }

  path(hash: string): string {
    return join(this.folder, hash.slice(0, 2), hash);
  }

  has(hash: string): boolean {
    return existsSync(this.path(hash));
  }

  /** A name for work in progress, gone at the next start. */
  scratch(): string {
    return join(this.#incoming, randomUUID());
  }

  /** Gives a folder for work in progress, and removes it with all that is left in it. */
  async inFolder<T>(work: (folder: string) => Promise<T>): Promise<T> {
    const folder = this.scratch();
    mkdirSync(folder);
    try {
      return await work(folder);
    } finally {
      await rm(folder, { recursive: true, force: true });
    }
  }

  /**
   * Writes a stream to a file and names it by its content.
   *
   * @param record writes down whose file it is; only then may it be dropped again
   * @throws Problem when the stream is longer than `most` bytes, or the disk is full
   */
  async take(
    source: AsyncIterable<Uint8Array>,
    most: number,
    record?: (hash: string, bytes: number) => void
  ): Promise<{ hash: string; bytes: number }> {
    const temporary = this.scratch();
    const sum = createHash('sha256');
    let bytes = 0;
    try {
      const file = await open(temporary, 'wx');
      try {
        for await (const chunk of source) {
          bytes += chunk.length;
          if (bytes > most) throw tooLarge('file', most);
          sum.update(chunk);
          for (let done = 0; done < chunk.length;) done += (await file.write(chunk, done)).bytesWritten;
        }
        await file.sync();
      } finally {
        await file.close();
      }
      const hash = sum.digest('hex');
      await this.#place(temporary, hash);
      if (record) {
        record(hash, bytes);
        this.#arriving.delete(hash);
      }
      return { hash, bytes };
    } catch (error) {
      await rm(temporary, { force: true });
      throw isDiskFull(error) ? new Problem(507, DISK_FULL) : error;
    }
  }

  /** How much of an upload has come. @throws Problem why it was given up: a browser that still sends does not read that */
  async uploaded(key: string): Promise<number> {
    const refused = this.#refused.get(key);
    if (refused) throw refused;
    return (await stat(this.#upload(key)).catch(() => undefined))?.size ?? 0;
  }

  /**
   * Adds to an upload where it broke off. What came before a break stays for a day.
   *
   * @param key what the sender calls it
   * @param from how much the sender believes to have come
   * @returns how much has come now
   * @throws Problem when that is another amount, or it is too long, or the disk is full: then all of it goes
   */
  async addToUpload(key: string, from: number, source: AsyncIterable<Uint8Array>, most: number): Promise<number> {
    const path = this.#upload(key);
    if (this.#uploading.has(key)) throw new Problem(409, 'This upload is being sent already.');
    this.#uploading.add(key);
    try {
      const file = await open(path, 'a');
      try {
        let { size } = await file.stat();
        if (size !== from) throw new Problem(409, `${size} bytes of this file have come, not ${from}.`);
        for await (const chunk of source) {
          size += chunk.length;
          if (size > most) throw tooLarge('file', most);
          for (let done = 0; done < chunk.length;) done += (await file.write(chunk, done)).bytesWritten;
        }
        return size;
      } finally {
        await file.close();
      }
    } catch (error) {
      if (!isDiskFull(error) && !(error instanceof Problem && error.status === 413)) throw error;
      await rm(path, { force: true });
      const refused = error instanceof Problem ? error : new Problem(507, DISK_FULL);
      this.#refused.set(key, refused);
      const [oldest] = this.#refused.keys();
      if (this.#refused.size > MOST_REFUSED && oldest !== undefined) this.#refused.delete(oldest);
      throw refused;
    } finally {
      this.#uploading.delete(key);
    }
  }

  /** An upload that is whole becomes a file. @param record as for `take` */
  async finishUpload(key: string, record: (hash: string) => void): Promise<void> {
    const hash = await this.adopt(this.#upload(key));
    record(hash);
    this.#arriving.delete(hash);
  }

  /** @param key of letters, figures and hyphens, so that it names a file here and nowhere else */
  #upload(key: string): string {
    if (!/^[\w-]{8,64}$/.test(key)) throw new Problem(400, 'This is no name for an upload.');
    return join(this.#incoming, `${UPLOAD}${key}`);
  }

  /** Takes in a file that was made as scratch. */
  async adopt(path: string): Promise<string> {
    await syncFile(path);
    const sum = createHash('sha256');
    for await (const chunk of createReadStream(path)) sum.update(chunk as Uint8Array);
    const hash = sum.digest('hex');
    await this.#place(path, hash);
    return hash;
  }

  async put(bytes: Uint8Array | string): Promise<string> {
    async function* one() {
      yield await Promise.resolve(typeof bytes === 'string' ? new TextEncoder().encode(bytes) : bytes);
    }
    return (await this.take(one(), Infinity)).hash;
  }

  /**
   * Removes a file that nothing needs any more. One that has just come stays, since whoever put it there has yet to write
   * down why.
   */
  drop(hash: string): void {
    const arriving = this.#arriving.get(hash) ?? 0;
    if (arriving > performance.now() || this.#isUsed(hash)) return;
    // At once and out of the way: who puts the same in its place meanwhile is not touched.
    const away = this.scratch();
    try {
      renameSync(this.path(hash), away);
    } catch (error) {
      if (isMissing(error)) return;
      throw error;
    }
    void rm(away, { force: true });
  }

  /** Puts a file in its place. One that is there already may be broken, and is written over by the same. */
  async #place(from: string, hash: string): Promise<void> {
    this.#arriving.set(hash, performance.now() + ARRIVING_MS);
    for (const [other, until] of this.#arriving) if (until < performance.now()) this.#arriving.delete(other);
    const folder = join(this.folder, hash.slice(0, 2));
    if (mkdirSync(folder, { recursive: true }) !== undefined) await syncFolder(this.folder);
    await rename(from, this.path(hash));
    await syncFolder(folder);
  }
}

async function syncFile(path: string): Promise<void> {
  const handle = await open(path, 'r+');
  try {
    await handle.sync();
  } finally {
    await handle.close();
  }
}

/** A new name is on the disk when its folder is. */
export async function syncFolder(folder: string): Promise<void> {
  const handle = await open(folder, 'r');
  try {
    await handle.sync();
  } finally {
    await handle.close();
  }
}

const isMissing = (error: unknown): boolean => error instanceof Error && 'code' in error && error.code === 'ENOENT';

export const isDiskFull = (error: unknown): boolean =>
  error instanceof Error &&
  ('code' in error ? error.code === 'ENOSPC' || error.code === 'EDQUOT' || error.code === 'EFBIG' : /ENOSPC/.test(error.message));
