import { readToFinished } from '$core/artwork/preparation';
import type { Docket } from '$lib/server/dockets/dockets';
import type { Cutting } from './draw-run';
import { docketPicture } from '$lib/ui/common/client';

const MOST_COARSE_PX = 200;
/** Smaller copies show their artwork alone: nothing on them could be read. */
const LEAST_OVER_PX = 40;

/** Pictures of dockets for a canvas, as they arrive: a finer one for large copies, a shrunk one for small. */
export class Pictures {
  readonly #loaded = new Map<string, HTMLImageElement>();
  readonly #small = new Map<string, HTMLCanvasElement>();
  readonly #distinct = new WeakMap<readonly number[], number[]>();
  readonly #places = new WeakMap<readonly number[], Map<number, number>>();
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

  /** What a record has over its artwork: cut from a strip of those that lie beside it. */
  over(docket: Docket, records: readonly number[], record: number, largePx: number): Cutting | undefined {
    if (largePx < LEAST_OVER_PX) return undefined;
    const [px, count] = largePx > MOST_COARSE_PX ? [900, 6] : [240, 30];
    const place = this.#placeOf(records, record);
    if (place === undefined) return undefined;
    const from = place - (place % count);
    const strip = this.#distinct.get(records)!.slice(from, from + count);
    const image = this.#load(`/api/dockets/${docket.id}/records/pictures?of=${strip.join()}&px=${px}&version=${docket.version}`);
    if (!image.naturalWidth) return undefined;
    const height = image.naturalHeight / strip.length;
    return {
      image,
      place: readToFinished(docket.choices, docket.choices),
      top: (place - from) * height,
      width: image.naturalWidth,
      height
    };
  }

  /** Where a record is among those of its run, each counted once. */
  #placeOf(records: readonly number[], record: number): number | undefined {
    let places = this.#places.get(records);
    if (!places) {
      const distinct = [...new Set(records)];
      this.#distinct.set(records, distinct);
      places = new Map(distinct.map((one, i) => [one, i]));
      this.#places.set(records, places);
    }
    return places.get(record);
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
