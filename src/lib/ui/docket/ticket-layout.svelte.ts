import { figuresOf, type TicketFigures, type TicketQuestion } from './ticket-layout';
import LayoutWorker from './ticket-layout.worker?worker';

/** Fewer copies are laid out at once: that takes some milliseconds. */
const AT_ONCE = 400;

/** The figures of a docket laid out alone: at once for few copies, otherwise by a worker, the newest question alone. */
export class TicketLayout {
  figures = $state.raw<TicketFigures | undefined>(undefined);
  #worker: Worker | undefined;
  #turn = 0;
  #busy = false;
  #waiting: TicketQuestion | undefined;

  ask(question: TicketQuestion | undefined): void {
    const turn = ++this.#turn;
    this.#waiting = undefined;
    const copies = question?.pieces.reduce((sum, piece) => sum + piece.copies, 0) ?? 0;
    if (!question || copies <= AT_ONCE) {
      this.figures = question && figuresOf(question);
      return;
    }
    // Figures of before stay until the new ones are there.
    if (this.#busy) {
      this.#waiting = question;
      return;
    }
    this.#busy = true;
    this.#worker ??= new LayoutWorker();
    this.#worker.onmessage = ({ data }: MessageEvent<{ turn: number; figures: TicketFigures }>) => {
      this.#busy = false;
      if (data.turn === this.#turn) this.figures = data.figures;
      else if (this.#waiting) this.ask(this.#waiting);
    };
    this.#worker.postMessage({ turn, question });
  }

  close(): void {
    this.#worker?.terminate();
    this.#worker = undefined;
    this.#turn++;
  }
}
