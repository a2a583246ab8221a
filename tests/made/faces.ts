import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { TextFace } from '../../core/records/shaping';

/** Fonts that ship, opened once for all tests of a file. */

const find = createRequire(import.meta.url).resolve;
export const FONT_FILES = {
  latin: find('@expo-google-fonts/arimo/400Regular/Arimo_400Regular.ttf'),
  serif: find('@expo-google-fonts/tinos/400Regular_Italic/Tinos_400Regular_Italic.ttf'),
  arabic: find('dejavu-fonts-ttf/ttf/DejaVuSans.ttf'),
  devanagari: find('@expo-google-fonts/noto-sans-devanagari/400Regular/NotoSansDevanagari_400Regular.ttf')
};
export type FaceName = keyof typeof FONT_FILES;

const opened = new Map<FaceName, TextFace>();
export function faceOf(name: FaceName): TextFace {
  const face = opened.get(name) ?? new TextFace(readFileSync(FONT_FILES[name]));
  opened.set(name, face);
  return face;
}
