import { createHash, randomUUID } from 'node:crypto';
import { createReadStream, existsSync, mkdirSync, readdirSync, rmSync } from 'node:fs';
import { open, rename, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { Problem } from './problem';

/** Files by the SHA-256 of what is in them. Nothing half-written ever has its final name. */
export class FileStore {
  readonly folder: string;
  readonly #incoming: string;

  constructor(dataFolder: string) {
    this.folder = join(dataFolder, 'files');
    this.#incoming = join(dataFolder, 'incoming');
    mkdirSync(this.folder, { recursive: true });
    mkdirSync(this.#incoming, { recursive: true });
    // What a stopped server left half-made.
    for (const name of readdirSync(this.#incoming)) rmSync(join(this.#incoming, name), { force: true, recursive: true });
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
   * @throws Problem when the stream is longer than `most` bytes, or the disk is full
   */
  async take(source: AsyncIterable<Uint8Array>, most: number): Promise<{ hash: string; bytes: number }> {
    const temporary = this.scratch();
    const sum = createHash('sha256');
    let bytes = 0;
    try {
      const file = await open(temporary, 'wx');
      try {
        for await (const chunk of source) {
          bytes += chunk.length;
          if (bytes > most)
            throw new Problem(413, `The file is larger than ${Math.round(most / 1e9)} GB, the most that is taken.`);
          sum.update(chunk);
          for (let done = 0; done < chunk.length;) done += (await file.write(chunk, done)).bytesWritten;
        }
        await file.sync();
      } finally {
        await file.close();
      }
      const hash = sum.digest('hex');
      await this.#place(temporary, hash);
      return { hash, bytes };
    } catch (error) {
      await rm(temporary, { force: true });
      throw isDiskFull(error)
        ? new Problem(507, 'The disk is full: nothing was stored. Make room and send the file again.')
        : error;
    }
  }

  /** Takes in a file that was made as scratch. */
  async adopt(path: string): Promise<string> {
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

  async #place(from: string, hash: string): Promise<void> {
    mkdirSync(join(this.folder, hash.slice(0, 2)), { recursive: true });
    if (await stat(this.path(hash)).catch(() => undefined)) await rm(from, { force: true });
    else await rename(from, this.path(hash));
  }
}

export const isDiskFull = (error: unknown): boolean =>
  error instanceof Error &&
  ('code' in error ? error.code === 'ENOSPC' || error.code === 'EDQUOT' || error.code === 'EFBIG' : /ENOSPC/.test(error.message));
