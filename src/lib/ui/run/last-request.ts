import type { Print } from '$lib/server/printing/print';

/** How far what was asked for last has come: prints of one request, newest first in the list. */
export function lastRequest(prints: readonly Print[]): { asked: number; done: number; open: number } {
  const [newest] = prints;
  const same = prints.filter((print) => print.request === newest?.request);
  return {
    asked: same.length,
    done: same.filter((print) => print.state === 'done').length,
    open: same.filter((print) => print.endedAt === null).length
  };
}
