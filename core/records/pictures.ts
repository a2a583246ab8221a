import type { Box } from '../geometry/box';
import { MM_PER_INCH } from '../units/length';
import type { PictureField } from './field';
import { plainName } from '../units/names';

/** Pictures in fields: how their names are asked for, and where they lie. */

/** Endings that a table leaves out as often as not. */
const ENDING = /\.(jpe?g|jpe|png|tiff?|webp|gif|avif|pdf|svg|eps|ps|ai)$/i;

/** A picture's name as it is looked for: folder and ending make no difference, nor what makes none between names. */
export function plainPicture(name: string): string {
  const own = name.slice(Math.max(name.lastIndexOf('/'), name.lastIndexOf('\\')) + 1).trim();
  return plainName(own.replace(ENDING, ''));
}

/** Pixels of a picture, upright. */
export interface PictureSize {
  width: number;
  height: number;
}

/**
 * Where a picture lies in its field: whole, with room beside it, or filling all of it and reaching out.
 *
 * @returns mm from the field's top left corner
 */
export function placePicture(
  { place, fit, along, down }: Pick<PictureField, 'place' | 'fit' | 'along' | 'down'>,
  { width, height }: PictureSize
): Box {
  const across = place.width / width;
  const tall = place.height / height;
  const scale = fit === 'whole' ? Math.min(across, tall) : Math.max(across, tall);
  const size = { width: width * scale, height: height * scale };
  return {
    x: (place.width - size.width) * (along === 'left' ? 0 : along === 'centre' ? 0.5 : 1),
    y: (place.height - size.height) * (down === 'top' ? 0 : down === 'middle' ? 0.5 : 1),
    ...size
  };
}

/** Pixels of an inch that a picture has in its field. */
export const ppiInField = (field: PictureField, size: PictureSize): number =>
  (size.width / placePicture(field, size).width) * MM_PER_INCH;
