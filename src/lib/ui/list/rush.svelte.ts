/** Faster nobody reads, pixels a millisecond: a screen of rows in a quarter of a second. */
const FAST = 3;
/** So many moves in a row are as fast: a page down is one. */
const MOVES = 3;
/** After so long without a fast move all is drawn, ms. */
const REST_MS = 100;

/** Whether a list rushes by: what comes meanwhile is drawn by its name alone, so that it goes by without a jerk. */
export class Rush {
  isOn = $state(false);
  #top = 0;
  #at = -Infinity;
  #fast = 0;
  #rest: ReturnType<typeof setTimeout> | undefined;

  /** Where it is now. @param top px @param at ms */
  moved(top: number, at: number): void {
    const [way, took] = [Math.abs(top - this.#top), at - this.#at];
    [this.#top, this.#at] = [top, at];
    const isFast = took < REST_MS && way > FAST * Math.max(1, took);
    this.#fast = isFast ? this.#fast + 1 : 0;
    if (!isFast) return;
    if (this.#fast >= MOVES) this.isOn = true;
    clearTimeout(this.#rest);
    this.#rest = setTimeout(() => (this.isOn = false), REST_MS);
  }

  end(): void {
    clearTimeout(this.#rest);
  }
}
