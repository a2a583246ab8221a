import type { Docket } from '$lib/server/dockets/dockets';
import type { RecordsLooked } from '$lib/server/records/workers/records';
import { send } from '$lib/ui/common/client';

/** Typing pauses this long before records are looked at anew. */
const AFTER_MS = 400;

/** What of a docket's records is at risk, as the server finds it for what is saved. */
export class RecordsLook {
  found = $state.raw<RecordsLooked | null>(null);
  /** Why they were not looked at. */
  failed = $state('');
  busy = $state(false);

  /** Looks at a docket; what was found before stays until then. @returns what gives it up */
  look({ id, version, choices }: Docket): () => void {
    if (choices.records.table === null || choices.records.fields.length === 0) {
      this.found = null;
      this.failed = '';
      return () => undefined;
    }
    let gone = false;
    const timer = setTimeout(() => void this.#ask(id, version, () => gone), AFTER_MS);
    return () => {
      gone = true;
      clearTimeout(timer);
    };
  }

  async #ask(id: number, version: number, isGone: () => boolean): Promise<void> {
    this.busy = true;
    try {
      const found = await send<RecordsLooked>('GET', `/api/dockets/${id}/records/risks?version=${version}`);
      if (isGone()) return;
      this.found = found;
      this.failed = '';
    } catch (error) {
      if (!isGone()) this.failed = error instanceof Error ? error.message : String(error);
    } finally {
      if (!isGone()) this.busy = false;
    }
  }
}
