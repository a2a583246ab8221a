import { createRequire } from 'node:module';
import { SHIPPED } from '$core/artwork/svg/fonts';

/** A font that fields can be lettered in. */
export interface FaceFile {
  /** Its family and style. */
  name: string;
  path: string;
}

const requireFile = createRequire(import.meta.url).resolve;
const STYLES = [
  ['Regular', '400Regular'],
  ['Italic', '400Regular_Italic'],
  ['Bold', '700Bold'],
  ['Bold Italic', '700Bold_Italic']
] as const;

/** The name of a face: a plain one is its family alone. */
export const faceName = (family: string, style: string): string =>
  /^(|regular|normal|book|roman)$/i.test(style) ? family : `${family} ${style}`;

/** Fonts that come with the program. */
export const shippedFonts = (): FaceFile[] => [
  ...[SHIPPED.sans, SHIPPED.serif, SHIPPED.mono].flatMap((family) =>
    STYLES.map(([style, file]) => ({
      name: faceName(family, style),
      path: requireFile(`@expo-google-fonts/${family.toLowerCase()}/${file}/${family}_${file}.ttf`)
    }))
  ),
  { name: SHIPPED.symbols, path: requireFile('dejavu-fonts-ttf/ttf/DejaVuSans.ttf') },
  {
    name: 'Noto Sans Devanagari',
    path: requireFile('@expo-google-fonts/noto-sans-devanagari/400Regular/NotoSansDevanagari_400Regular.ttf')
  }
];
