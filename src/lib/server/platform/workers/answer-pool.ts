import { Worker } from 'node:worker_threads';
import { ArtworkError } from '$core/artwork/facts';
import { isTrap } from '$core/interpreter/traps';
import { Problem, sentence } from '../problem';
import type { Answer, Done, Needs } from '../tasks/process-pool';

type Work = (request: never, needs: (megabytes: number) => void, done: (share: number) => void) => unknown;

/** Answers the pool that started this process, one piece of work after another. @param work by the names it is asked for by */
export function answerPool(work: Record<string, Work>): void {
  // A file may keep this thread busy for ever: another one ends all of it when the server is gone.
  new Worker(
    `const { workerData } = require('node:worker_threads');
     setInterval(() => { if (process.ppid !== workerData) process.kill(-process.pid, 'SIGKILL'); }, 1000);`,
    { eval: true, workerData: process.ppid }
  ).unref();

  /** Tells how much memory the work is known to take beyond what a file may. */
  const needs = (megabytes: number) => void process.send?.({ needs: megabytes } satisfies Needs);

  const done = (share: number) => void process.send?.({ done: share } satisfies Done);

  process.on('message', (message) => {
    const { name, request } = message as { name: string; request: never };
    void (async () => {
      let answer: Answer;
      try {
        answer = { ok: true, value: await (work[name] as Work)(request, needs, done) };
      } catch (error) {
        // What broke a module leaves its memory in an unknown state: nothing else is done here.
        if (isTrap(error)) process.exit(70);
        const said = { ok: false as const, error: sentence(error) };
        if (error instanceof Problem) answer = { ...said, fault: 'told', status: error.status };
        else answer = { ...said, fault: error instanceof ArtworkError ? 'file' : 'unknown' };
      }
      process.send?.(answer);
    })();
  });
  process.on('disconnect', () => process.exit());
}
