import type { Docket } from '$lib/server/dockets/dockets';
import type { RecordsLooked } from '$lib/server/records/workers/records';
import { send } from '$lib/ui/common/client';

/** Typing pauses this long before records are looked at anew. */
const AFTER_MS = 400;
/** How often it is asked how far a look is. */
const SHARE_MS = 700;

/** What of a docket's records is at risk, as the server finds it for what is saved. */
export class RecordsLook {
  found = $state.raw<RecordsLooked | null>(null);
  /** Why they were not looked at. */
  failed = $state('');
  busy = $state(false);
  /** Of all records, 0…1, while they are looked at. */
  share = $state(0);

  /** Looks at a docket; what was found before stays until then. @returns what gives it up */
  look({ id, version, choices }: Docket): () => void {
    if (choices.records.table === null || choices.records.fields.length === 0) {
      this.found = null;
      this.failed = '';
      // One that was given up says so no more.
      this.busy = false;
      return () => undefined;
    }
    // What nobody waits for any more is ended: the next look has its processor.
    const asking = new AbortController();
    const timer = setTimeout(() => void this.#ask(id, version, asking.signal), AFTER_MS);
    return () => {
      clearTimeout(timer);
      asking.abort();
    };
  }

  async #ask(id: number, version: number, signal: AbortSignal): Promise<void> {
    this.busy = true;
    this.share = 0;
    const watching = setInterval(
      () =>
        void send<number>('GET', `/api/dockets/${id}/records/risks/share`)
          .then((share) => signal.aborted || (this.share = share))
          .catch(() => undefined),
      SHARE_MS
    );
    try {
      const found = await send<RecordsLooked>('GET', `/api/dockets/${id}/records/risks?version=${version}`, undefined, signal);
      if (signal.aborted) return;
      this.found = found;
      this.failed = '';
    } catch (error) {
      if (!signal.aborted) this.failed = error instanceof Error ? error.message : String(error);
    } finally {
      clearInterval(watching);
      if (!signal.aborted) this.busy = false;
    }
  }
}
