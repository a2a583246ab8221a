import type { InkSet } from '$core/inks/ink-set';
import { readCodes } from '$protocol/code-reader';
import { refusal, type Told } from '../../platform/told';
import { nearestInk, type NearestRequest, type Place } from '../nearest-ink';
import { plateInks, plateTile, type TileRequest, type Window } from '../plates';

/** Looks into plates: millions of drops, which no page waits for. */

export const tile = (request: TileRequest): Promise<Told<Uint8Array>> =>
  plateTile(request).then((made): Told<Uint8Array> => ({ ok: true, made }), refusal);

export const nearest = (request: NearestRequest): Promise<Told<Place | undefined>> =>
  nearestInk(request).then((made): Told<Place | undefined> => ({ ok: true, made }), refusal);

export interface CodesRequest {
  plates: string;
  /** Pixels of the plates a side to one of the camera’s. */
  shrink: number;
  /** Of the camera’s pixels. */
  window: Window;
  inks: InkSet;
  /** What codes are printed in. */
  channel: string;
}

/** What codes say that stand in a part of plates, as a camera sees them. */
export async function codes({ plates, shrink, window, inks, channel }: CodesRequest): Promise<string[]> {
  const amounts = await plateInks(plates, shrink, window, inks);
  const grey = new Uint8Array(window.width * window.height);
  for (let i = 0; i < grey.length; i++) {
    const black = inks.reduce((sum, ink, k) => (ink.channel === channel ? sum + amounts[i * inks.length + k]! : sum), 0);
    grey[i] = Math.max(0, 255 - black);
  }
  return (await readCodes(grey, window.width, window.height)).map(({ text }) => text);
}
