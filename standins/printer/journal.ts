import { appendFileSync, existsSync, mkdirSync, readFileSync, renameSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';

/**
 * What a machine remembers when its current fails: a line for each thing that happened, the last one counts. A line that
 * was cut off did not happen.
 */
export class Journal<State, Job extends { id: number }> {
  readonly #path: string;

  constructor(folder: string) {
    mkdirSync(folder, { recursive: true });
    this.#path = join(folder, 'journal.jsonl');
  }

  /** What is remembered; the file is made short again. Nothing for a machine that was never switched on. */
  read(): { state: State; jobs: Job[] } | undefined {
    if (!existsSync(this.#path)) return undefined;
    const jobs = new Map<number, Job>();
    let state: State | undefined;
    for (const line of readFileSync(this.#path, 'utf8').split('\n')) {
      try {
        const entry = JSON.parse(line) as { state: State; jobs: Job[] };
        state = entry.state;
        for (const job of entry.jobs) jobs.set(job.id, job);
      } catch {
        // The end of the file, or the line at which the current failed.
      }
    }
    if (state === undefined) return undefined;
    writeFileSync(`${this.#path}.new`, `${JSON.stringify({ state, jobs: [...jobs.values()] })}\n`);
    renameSync(`${this.#path}.new`, this.#path);
    return { state, jobs: [...jobs.values()] };
  }

  /** @param jobs that may have changed since the last line: what a roll lost and what a job printed are one thing */
  write(state: State, jobs: readonly Job[]): void {
    appendFileSync(this.#path, `${JSON.stringify({ state, jobs })}\n`);
  }
}
