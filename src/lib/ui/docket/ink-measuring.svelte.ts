import type { DocketMeasured } from '$lib/server/dockets/workers/measure';
import { send } from '$lib/ui/common/client';

/** What is saved one after another is not measured each for itself. */
const AFTER_MS = 300;

/** What a docket takes of each ink: drawn in its condition's inks by the server, as it is saved there. */
export class InkMeasuring {
  measured = $state.raw<{ version: number; of: DocketMeasured } | null>(null);
  trouble = $state('');

  /** Without a condition that has a profile nothing is known. */
  forget(): void {
    this.measured = null;
  }

  /** @returns what gives it up, for a docket that has changed meanwhile */
  ask(id: number, version: number): () => void {
    let gone = false;
    const timer = setTimeout(() => {
      void send<DocketMeasured>('GET', `/api/dockets/${id}/measure`)
        .then((of) => {
          if (gone) return;
          this.measured = { version, of };
          this.trouble = '';
        })
        .catch((error: unknown) => {
          if (!gone) this.trouble = error instanceof Error ? error.message : String(error);
        });
    }, AFTER_MS);
    return () => {
      gone = true;
      clearTimeout(timer);
    };
  }
}
