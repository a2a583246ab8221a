import { FigureError } from '$core/units/typed';

/** What a figure that is typed is for. */
export interface FigureAsked {
  label: string;
  /** Null where there is none. */
  value: number | null;
  /** @throws FigureError with a sentence */
  read: (text: string) => number;
  /** As it is said back. */
  understood: (value: number) => string;
  min: number;
  max: number;
  onchange: (value: number) => void;
  /** Where nothing may stand there too: what becomes of it then. */
  onempty?: (() => void) | undefined;
  /** Told when it is left, and not while it is typed. */
  late?: boolean | undefined;
}

const isSame = (p: number | null, q: number | null) => p === q || (p !== null && q !== null && Math.abs(p - q) < 1e-6);

/** A figure while it is typed: what it means, and what the page is told of it. Nothing wrong is told. */
export class TypedFigure {
  /** Null while nothing is being typed. */
  text = $state<string | null>(null);
  readonly #asked: () => FigureAsked;
  /** The value when typing began, and what was told to the page since; and how far of it the page has followed. */
  #told: (number | null)[] = [];
  #followed = 0;
  #isStepBack = false;

  constructor(asked: () => FigureAsked) {
    this.#asked = asked;
  }

  /** What the typed text means, and what is wrong with it. */
  get meant(): { value: number | null; wrong: string } {
    const { label, value, read, understood, min, max, onempty } = this.#asked();
    if (this.text === null) return { value, wrong: '' };
    if (onempty && this.text.trim() === '') return { value: null, wrong: '' };
    try {
      const next = read(this.text);
      if (next < min || next > max) return { value: null, wrong: `${label}: between ${understood(min)} and ${understood(max)}.` };
      return { value: next, wrong: '' };
    } catch (error) {
      if (error instanceof FigureError) return { value: null, wrong: error.message };
      throw error;
    }
  }

  /** What is said beside it: what is wrong, or what was understood of more than a plain figure. */
  get note(): string {
    const { value, wrong } = this.meant;
    if (wrong !== '' || this.text === null || value === null || /^\s*[\d.,]+\s*$/.test(this.text)) return wrong;
    return `= ${this.#asked().understood(value)}`;
  }

  type(text: string): void {
    if (this.text === null) [this.#told, this.#followed] = [[this.#asked().value], 0];
    this.text = text;
    this.#isStepBack = false;
    const { value } = this.meant;
    if (!this.#asked().late && value !== null) this.#tell(value);
  }

  /**
   * It is left. What is wrong stays to be seen, and nothing of it counts, half of it neither. Where there must be a figure, an
   * emptied box is as it was.
   */
  leave(): void {
    if (this.text === null) return;
    const { value, wrong } = this.meant;
    if (wrong) {
      this.#giveBack();
      if (this.text.trim() !== '') return;
    } else if (value !== null) this.#tell(value);
    else if (this.#asked().value !== null) this.#asked().onempty?.();
    this.#drop();
  }

  /** It is as it was before anything was typed. */
  giveUp(): void {
    if (this.text === null) return;
    this.#giveBack();
    this.#drop();
  }

  /** What is typed no longer counts. */
  #drop(): void {
    this.text = null;
  }

  #giveBack(): void {
    const [begun = null] = this.#told;
    if (isSame(begun, this.#asked().value)) return;
    if (begun !== null) this.#tell(begun);
    else this.#asked().onempty?.();
  }

  /** Counts on from what stands there. @returns whether it could */
  step(by: number): boolean {
    const { value } = this.meant;
    if (value === null) return false;
    const { min, max } = this.#asked();
    this.#drop();
    this.#tell(Math.min(max, Math.max(min, Number((value + by).toFixed(6)))));
    return true;
  }

  /** The page is asked for a step back while the box has the focus. */
  stepBack(): void {
    this.#isStepBack = true;
  }

  /**
   * The page has a value. It follows what it was told, sooner or later; another one came from elsewhere, and what is typed no
   * longer counts. An earlier one is a step back, or half a figure that was refused: then the rest of it is still typed.
   */
  follow(now: number | null): void {
    if (this.text === null) return;
    const at = this.#told.findLastIndex((one) => isSame(one, now));
    if (at < 0 || (at < this.#followed && this.#isStepBack)) this.#drop();
    else this.#followed = at;
  }

  #tell(next: number): void {
    const { value, onchange } = this.#asked();
    if (value !== null && Math.abs(next - value) <= 1e-9) return;
    this.#told.push(next);
    onchange(next);
  }
}
