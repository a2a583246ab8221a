/** Where the things in a picture are drawn. */
export interface View {
  left: number;
  top: number;
  /** Pixels a mm. */
  scale: number;
}

/** Drawing is anew when the view rests for so long. */
const AT_REST_MS = 120;
/** A picture that is painted faster than this is painted each time. */
const QUICK_MS = 10;

/**
 * The last whole picture of something large. While a full one is moved or zoomed it is drawn from that, and anew when it rests.
 */
export class KeptPicture {
  #kept: (View & { picture: HTMLCanvasElement; took: number; of: readonly unknown[] }) | undefined;
  #rest: ReturnType<typeof setTimeout> | undefined;

  /**
   * @param of what the picture depends on beside the view
   * @param paintWhole paints all of it on the canvas
   */
  paint(canvas: HTMLCanvasElement, view: () => View, of: readonly unknown[], paintWhole: () => void, atRest = false): void {
    const kept = this.#kept;
    const { left, top, scale } = view();
    clearTimeout(this.#rest);
    const isSame = kept !== undefined && of.every((one, i) => one === kept.of[i]);
    if (isSame && !atRest && kept.took > QUICK_MS) {
      const context = canvas.getContext('2d');
      const sharp = window.devicePixelRatio || 1;
      const k = scale / kept.scale;
      context?.setTransform(1, 0, 0, 1, 0, 0);
      context?.clearRect(0, 0, canvas.width, canvas.height);
      context?.setTransform(k, 0, 0, k, (left - kept.left * k) * sharp, (top - kept.top * k) * sharp);
      context?.drawImage(kept.picture, 0, 0);
      this.#rest = setTimeout(() => this.paint(canvas, view, of, paintWhole, true), AT_REST_MS);
      return;
    }
    const from = performance.now();
    paintWhole();
    const picture = kept?.picture ?? document.createElement('canvas');
    picture.width = canvas.width;
    picture.height = canvas.height;
    picture.getContext('2d')?.drawImage(canvas, 0, 0);
    // Reading one pixel waits until all is drawn, so that the time is a true one.
    picture.getContext('2d')?.getImageData(0, 0, 1, 1);
    this.#kept = { picture, left, top, scale, took: performance.now() - from, of };
  }

  stop(): void {
    clearTimeout(this.#rest);
  }
}
