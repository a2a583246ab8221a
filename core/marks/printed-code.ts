import { codeFlats } from './lettering';
import { LETTERS_MM, PART_LETTERS, type CodePlaces } from './print-code';
import type { MarkRule } from './registration';
import { BLACK, type Amounts, type Flat, type Letters } from './print-list';

/** A print's code as it is printed. @param inks of the letters; codes are black @param kind of the code */
export function printedCode(
  code: string,
  { codes, letters }: CodePlaces,
  inks: Amounts = BLACK,
  kind: MarkRule['code'] = 'datamatrix'
): { flats: Flat[]; letters: Letters[] } {
  const modules = codes[0] ? codeFlats(code, codes[0].width, kind) : [];
  return {
    flats: codes.flatMap((box) => modules.map((flat) => ({ ...flat, x: flat.x + box.x, y: flat.y + box.y, inks: BLACK }))),
    letters: letters.flatMap(({ x, y }) =>
      [code.slice(0, PART_LETTERS), code.slice(PART_LETTERS)].map((text, line) => ({
        x,
        y: y + line * LETTERS_MM * 1.6,
        heightMm: LETTERS_MM,
        text,
        turn: 0,
        inks
      }))
    )
  };
}
