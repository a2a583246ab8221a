import { changesNothing, NO_ADJUSTMENT } from '$core/colour/adjustment';
import { UNCHANGED, type ProofChange } from '$core/colour/soft-proof';
import { isPlainTone } from '$core/colour/tone';
import type { DocketChoices } from '$lib/docket-choices';
import type { ProofAnswer, ProofAsk, ProofImage, Shown } from './proof.worker';
import ProofWorker from './proof.worker?worker';

/** What is asked of a proof: the docket's tone and adjustment as they are on screen. */
export interface ProofQuestion {
  tone: DocketChoices['tone'];
  /** The condition's, which goes after it. */
  then: DocketChoices['tone'];
  adjustment: DocketChoices['adjustment'];
  white: ProofChange['white'];
  difference: boolean;
}

/**
 * A docket as its condition prints it, before and after a change, as quick as the change is made. Its inks come from the server:
 * of its colours as they are saved, and, once an adjustment is tried, of its colours as the file has them.
 */
export class LiveProof {
  before = $state.raw<ImageData | null>(null);
  after = $state.raw<ImageData | null>(null);
  difference = $state.raw<ImageData | null>(null);
  figures = $state.raw<ProofAnswer['figures'] | null>(null);
  failed = $state('');
  #worker: Worker | undefined;
  #answers: Record<number, (answer: ProofAnswer) => void> = {};
  #turn = 0;
  #busy = false;
  #isClosed = false;
  #waiting: ProofQuestion | undefined;
  /** By image what it was drawn for. */
  readonly #drawn: Partial<Record<ProofImage, string>> = {};
  #saved = { version: 0, change: '', colours: '' };
  #docketId = 0;
  #hasNamed = false;

  async open(docketId: number, conditionId: number): Promise<void> {
    this.#docketId = docketId;
    try {
      const [kernels, tables] = await Promise.all(['/kernels', `/api/conditions/${conditionId}/proof`].map(fetched));
      // The page was left meanwhile.
      if (this.#isClosed) return;
      this.#worker = new ProofWorker();
      this.#worker.onmessage = ({ data }: MessageEvent<ProofAnswer>) => {
        this.#answers[data.turn]?.(data);
        delete this.#answers[data.turn];
      };
      this.#worker.onerror = ({ message }) => {
        // It answers no more: what waits is given up.
        this.failed = `The proof stopped: ${message} Open this page again.`;
        this.close();
      };
      this.#post({ kind: 'open', kernels: kernels!, tables: tables! });
      this.#next();
    } catch (error) {
      this.failed = error instanceof Error ? error.message : String(error);
    }
  }

  /**
   * The docket as it is saved now.
   *
   * @param then the condition's curves
   * @param named whether anything of it prints in a named colour, which no change moves, and another figure whenever one is changed
   */
  saved(
    version: number,
    { adjustment, tone }: DocketChoices,
    named: { has: boolean; version: number },
    then: DocketChoices['tone']
  ): void {
    // Named colours are drawn for the condition's curves as well.
    const colours = `${named.version}${named.has ? JSON.stringify(then) : ''}`;
    this.#saved = { version, change: JSON.stringify([adjustment, tone]), colours };
    this.#hasNamed = named.has;
  }

  ask(question: ProofQuestion): void {
    this.#waiting = question;
    this.#next();
  }

  close(): void {
    this.#isClosed = true;
    this.#worker?.terminate();
    this.#worker = undefined;
  }

  #next(): void {
    if (!this.#worker || this.#busy || !this.#waiting) return;
    const question = this.#waiting;
    this.#waiting = undefined;
    this.#busy = true;
    void this.#draw(question)
      .catch((error: unknown) => (this.failed = error instanceof Error ? error.message : String(error)))
      .finally(() => {
        this.#busy = false;
        this.#next();
      });
  }

  async #draw({ tone, then, adjustment, white, difference }: ProofQuestion): Promise<void> {
    const before: Shown = { which: 'sent', change: { ...UNCHANGED, tones: [then], white } };
    await this.#fetch('sent');
    this.before = imageOf(await this.#render(before));
    // What is saved is drawn as it will print; until then colours are adjusted as near as the tables tell.
    const moves = this.#hasNamed ? !isPlainTone(tone) || !changesNothing(adjustment) : !changesNothing(adjustment);
    const isExact = moves && JSON.stringify([adjustment, tone]) === this.#saved.change;
    if (isExact) await this.#fetch('saved');
    const after: Shown = isExact
      ? { which: 'saved', change: { tones: [tone, then], adjustment: NO_ADJUSTMENT, white } }
      : { which: 'sent', change: { tones: [tone, then], adjustment, white } };
    this.after = imageOf(await this.#render(after));
    const answer = difference ? await this.#answer({ kind: 'difference', turn: ++this.#turn, from: before, to: after }) : null;
    this.difference = answer && imageOf(answer);
    this.figures = answer?.figures ?? null;
    // The server was away for a moment.
    this.failed = '';
  }

  async #fetch(which: ProofImage): Promise<void> {
    const { version, change, colours } = this.#saved;
    const key = which === 'sent' ? `${colours}` : `${version} ${change} ${colours}`;
    if (this.#drawn[which] === key) return;
    const inks = await fetched(
      `/api/dockets/${this.#docketId}/inks?adjusted=${which === 'saved' ? 'yes' : 'no'}&version=${version}`
    );
    this.#post({ kind: 'image', which, inks });
    this.#drawn[which] = key;
  }

  #render(of: Shown): Promise<ProofAnswer> {
    return this.#answer({ kind: 'render', turn: ++this.#turn, of });
  }

  #answer(ask: ProofAsk & { turn: number }): Promise<ProofAnswer> {
    return new Promise((resolve) => {
      this.#answers[ask.turn] = resolve;
      this.#post(ask);
    });
  }

  #post(ask: ProofAsk): void {
    this.#worker?.postMessage(ask);
  }
}

const imageOf = ({ pixels, width, height }: ProofAnswer): ImageData =>
  new ImageData(new Uint8ClampedArray(pixels), width, height);

async function fetched(address: string): Promise<ArrayBuffer> {
  const reply = await fetch(address);
  if (reply.ok) return reply.arrayBuffer();
  const { error } = (await reply.json().catch(() => ({}))) as { error?: string };
  throw new Error(error ?? 'The proof could not be drawn. Try again.');
}
