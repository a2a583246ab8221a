import sharp from 'sharp';
import { Jig } from '$core/layout/jig';
import { inverse, project, type Homography } from '$core/photo/homography';
import { proposalOf, type Proposal } from '$core/photo/proposal';
import { PhotoError, rectifyByCorners, rectifyByMarks } from '$core/photo/targets';
import { straighten, thingsIn } from '$core/photo/things';
import type { Point } from '$core/geometry/matrix';
import { Problem } from '../../platform/problem';

export interface PhotoRequest {
  path: string;
  /** What its bed and order of filling are taken from. */
  jig: Jig;
  /** Corners of the bed in the picture, shares of its width and height; none where marks say how it is seen. */
  corners: Point[] | null;
}

export interface FoundInPhoto extends Proposal {
  /** How well the marks agree, mm; and how many were found: none by corners. */
  residualMm: number;
  marks: number;
  /** mm of the bed → shares of the picture's width and height. */
  toPicture: Homography;
  /** mm of the bed that a pixel shows, about. */
  pixelMm: number;
}

/** Larger pictures are made smaller as they are read: they show nothing more. */
const MOST_PX = 4500;
const MOST_PIXELS = 300e6;

/** Looks for a jig's places in a photo of it. @throws Problem for a picture that is none, or shows none */
export async function findThings({ path, jig, corners }: PhotoRequest): Promise<FoundInPhoto> {
  let data: Buffer;
  let info: { width: number; height: number };
  try {
    ({ data, info } = await sharp(path, { limitInputPixels: MOST_PIXELS, failOn: 'error' })
      .rotate()
      .resize({ width: MOST_PX, height: MOST_PX, fit: 'inside', withoutEnlargement: true })
      .toColourspace('srgb')
      .removeAlpha()
      .raw()
      .toBuffer({ resolveWithObject: true }));
  } catch (error) {
    if (/pixel limit/i.test(String(error)))
      throw new Problem(422, 'This picture has more than 300 million pixels. Take a smaller one.');
    throw new Problem(422, 'This is no picture that can be read. Take a JPEG, PNG, TIFF or WebP.');
  }
  const { width, height } = info;
  const channels = data.length / (width * height);
  const rgb = channels === 3 ? data : Buffer.alloc(width * height * 3, 0).map((_, i) => data[Math.floor(i / 3)]!);
  const { bed } = jig;
  try {
    const grey = new Uint8Array(width * height);
    for (let i = 0; i < grey.length; i++) grey[i] = (rgb[i * 3]! + 2 * rgb[i * 3 + 1]! + rgb[i * 3 + 2]!) / 4;
    const seen = corners
      ? rectifyByCorners(corners.map(({ x, y }) => ({ x: x * width, y: y * height })), bed) // prettier-ignore
      : rectifyByMarks({ pixels: grey, width, height }, bed);
    const straight = straighten({ rgb, width, height }, seen.toPicture, bed);
    const proposal = proposalOf(thingsIn(straight, bed, corners === null), jig);
    const back = inverse(seen.toPicture);
    const [p, q] = [project(back, { x: width / 2, y: height / 2 }), project(back, { x: width / 2 + 1, y: height / 2 })];
    return {
      ...proposal,
      residualMm: seen.residualMm,
      marks: seen.marks,
      toPicture: seen.toPicture.map((v, i) => (i < 3 ? v / width : i < 6 ? v / height : v)),
      pixelMm: Math.hypot(q.x - p.x, q.y - p.y)
    };
  } catch (error) {
    if (error instanceof PhotoError || error instanceof RangeError) throw new Problem(422, error.message);
    throw error;
  }
}
