import sharp from 'sharp';
import { preview, type PreviewRequest } from './measure';

export interface CompareRequest {
  before: PreviewRequest;
  after: PreviewRequest;
}

export interface CompareAnswer {
  /** Share of the pixels that differ. */
  share: number;
  /** PNG of the newer one in grey, what differs marked. */
  picture: Uint8Array;
}

/** A channel that differs by less is rounding, 0…255. */
const SEEN = 12;

/** Draws two versions of an artwork at the newer one's size and marks what differs. */
export async function compare({ before, after }: CompareRequest): Promise<CompareAnswer> {
  const newer = await sharp(preview(after)).removeAlpha().raw().toBuffer({ resolveWithObject: true });
  const { width, height } = newer.info;
  const older = await sharp(preview(before)).removeAlpha().resize(width, height, { fit: 'fill' }).raw().toBuffer();
  const picture = new Uint8Array(width * height * 3);
  let differs = 0;
  for (let i = 0; i < width * height; i++) {
    const at = i * 3;
    let most = 0;
    let grey = 0;
    for (let k = 0; k < 3; k++) {
      const a = newer.data[at + k] as number;
      most = Math.max(most, Math.abs(a - (older[at + k] as number)));
      grey += a / 3;
    }
    const pale = 150 + grey * 0.41;
    if (most > SEEN) {
      differs++;
      picture.set([215, 60 - Math.min(60, most / 4), 40], at);
    } else picture.fill(pale, at, at + 3);
  }
  return {
    share: differs / (width * height),
    picture: await sharp(picture, { raw: { width, height, channels: 3 } })
      .png()
      .toBuffer()
  };
}
