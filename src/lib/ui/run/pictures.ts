import type { Docket } from '$lib/server/dockets/dockets';
import { docketPicture } from '$lib/ui/common/client';

const MOST_COARSE_PX = 200;

/** Pictures of dockets for a canvas, as they arrive: a finer one for large copies, a shrunk one for small. */
export class Pictures {
  readonly #loaded = new Map<string, HTMLImageElement>();
  readonly #small = new Map<string, HTMLCanvasElement>();
  readonly #onarrival: () => void;

  constructor(onarrival: () => void) {
    this.#onarrival = onarrival;
  }

  /** @param largePx the longer side on the screen */
  of(docket: Docket, largePx: number): CanvasImageSource | undefined {
    const coarse = this.#load(docketPicture(docket, 240));
    const fine = largePx > MOST_COARSE_PX ? this.#load(docketPicture(docket, 1200)) : undefined;
    if (fine?.naturalWidth) return fine;
    return coarse.naturalWidth ? this.#shrunk(coarse, largePx) : undefined;
  }

  #load(address: string): HTMLImageElement {
    const kept = this.#loaded.get(address);
    if (kept) return kept;
    const image = new Image();
    image.onload = this.#onarrival;
    image.src = address;
    this.#loaded.set(address, image);
    return image;
  }

  /** Thousands of small copies are drawn from a small picture: shrinking each anew takes most of the time. */
  #shrunk(image: HTMLImageElement, largePx: number): CanvasImageSource {
    const px = 2 ** Math.ceil(Math.log2(Math.max(4, largePx)));
    const most = Math.max(image.naturalWidth, image.naturalHeight);
    if (px >= most) return image;
    const key = `${image.src}@${px}`;
    const kept = this.#small.get(key);
    if (kept) return kept;
    const made = document.createElement('canvas');
    made.width = Math.max(1, Math.round((image.naturalWidth * px) / most));
    made.height = Math.max(1, Math.round((image.naturalHeight * px) / most));
    const context = made.getContext('2d');
    if (context) {
      context.imageSmoothingQuality = 'high';
      context.drawImage(image, 0, 0, made.width, made.height);
    }
    this.#small.set(key, made);
    return made;
  }
}
