import type { Logger } from 'pino';
import { ArtworkError } from '$core/artwork/facts';
import { Problem, sentence } from '../platform/problem';
import { WorkEnded, type ProcessPool } from '../platform/tasks/process-pool';

/** What drawing a docket may take: more than a look at a file, since it was looked at. */
const DRAWING_LIMITS = { seconds: 120, megabytes: 3000 };

/** Has a process draw something of a customer's file. @throws Problem with what to do */
export async function draw<T>(
  { drawingPool, log }: { drawingPool: ProcessPool; log: Logger },
  name: string,
  request: unknown
): Promise<T> {
  try {
    return await drawingPool.run<T>(name, request, DRAWING_LIMITS);
  } catch (error) {
    if (error instanceof ArtworkError) throw new Problem(422, error.message);
    const { seconds, megabytes } = DRAWING_LIMITS;
    const cause = error instanceof WorkEnded ? error.cause : undefined;
    if (cause === 'time') throw new Problem(503, `Drawing this artwork took longer than ${seconds} s and was ended.`);
    if (cause === 'memory') throw new Problem(503, `Drawing this artwork took more than ${megabytes} MB and was ended.`);
    log.error({ name, error: sentence(error) }, 'drawing failed');
    throw new Problem(500, 'This artwork could not be drawn. Ask for the file to be saved anew.');
  }
}
