import { isTrap } from '$core/interpreter/traps';

/** What a thread ends with whose module broke. */
const TRAPPED = 70;

/** Work whose thread ends when a module of it breaks: its memory cannot be trusted any more. */
export function endingOnTraps<Q, A>(work: (request: Q) => A | Promise<A>): (request: Q) => Promise<A> {
  return async (request) => {
    try {
      return await work(request);
    } catch (error) {
      if (isTrap(error)) process.exit(TRAPPED);
      throw error;
    }
  };
}
