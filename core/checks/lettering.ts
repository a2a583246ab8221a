import type { TextFact } from '../artwork/facts';
import type { Box } from '../geometry/box';
import { counted } from '../units/counted';
import { formatClosely, MM_PER, MM_PER_INCH } from '../units/length';
import { lengthIn, placed, printed, printScale, type Found, type CheckInput } from './check';

/** A stem of plain lettering is about this share of its size, of bold lettering the second. */
const STEM = 0.08;
const BOLD_STEM = 0.14;
/** Dots of the print mode that a line needs to hold. */
const DOTS = 3;

/** The thinnest line that holds, mm: the shop's figure, or three dots of the print mode. */
export const thinnestHeld = ({ limits, dpi }: CheckInput): number =>
  limits.thinnestMm > 0 ? limits.thinnestMm : (DOTS * MM_PER_INCH) / (dpi ?? 720);

export function fonts({ fontsNotEmbedded: missing }: CheckInput): Found[] {
  if (missing.length === 0) return [];
  const names = `${missing.slice(0, 3).join(', ')}${missing.length > 3 ? ` and ${missing.length - 3} more` : ''}`;
  return [
    {
      id: 'fonts',
      level: 'look',
      figure: counted(missing.length, 'font'),
      limit: '0',
      sentence: `${names} ${missing.length === 1 ? 'is' : 'are'} not in the file; another font stands in. Compare the lettering.`
    }
  ];
}

export function thinLines(input: CheckInput): Found[] {
  const { page, choices } = input;
  const least = Math.max(thinnestHeld(input), 1e-6);
  const scale = printScale(input);
  const strokes = page.strokes.filter((stroke) => printed(input, stroke) && stroke.paint !== 'white');
  const thinnest = strokes[0];
  if (!thinnest) return [];
  const widthMm = Math.max(thinnest.widthMm * scale, choices.thinnestMm);
  const said = {
    id: 'thin-lines',
    figure: thinIn(input, widthMm),
    limit: thinIn(input, least),
    place: placed(input, thinnest.place)
  };
  if (widthMm >= least)
    return [{ ...said, level: 'fine', sentence: `The thinnest line is ${said.figure}; ${said.limit} holds.` }];
  const many = strokes.filter((stroke) => stroke.widthMm * scale < least).length;
  return [
    {
      ...said,
      level: 'look',
      sentence: `${many === 1 ? 'A line is' : `${many} lines or more are down to`} ${said.figure} thin; this print mode holds ${said.limit}. They may break up.`,
      mend: { label: `Print them ${thinIn(input, least)} thick`, change: { thinnestMm: Math.ceil(least * 1000) / 1000 } }
    }
  ];
}

export function thinText(input: CheckInput): Found[] {
  const least = thinnestHeld(input);
  const stem = (text: TextFact) => text.sizeMm * (text.bold ? BOLD_STEM : STEM) * printScale(input);
  const weak = textOf(input, () => true)
    .filter((text) => stem(text) < least)
    .sort((p, q) => stem(p) - stem(q));
  const worst = weak[0];
  if (!worst) return [];
  return [
    {
      id: 'thin-text',
      level: 'look',
      figure: thinIn(input, stem(worst)),
      limit: thinIn(input, least),
      sentence: `Lettering of ${sizeOf(input, worst)} has strokes of about ${thinIn(input, stem(worst))}; this print mode holds ${thinIn(input, least)}. It may fill in or break up.`,
      place: placed(input, worst.place)
    }
  ];
}

export function whiteText(input: CheckInput): Found[] {
  return smallText(
    input,
    'white-text',
    textOf(input, (text) => text.paint === 'white'),
    input.limits.whiteTextMm,
    (size, limit) => `White lettering of ${size}; below ${limit} the ink around it closes it up.`
  );
}

export function richText(input: CheckInput): Found[] {
  if (input.choices.blackText) return [];
  return smallText(
    input,
    'rich-text',
    textOf(input, (text) => text.paint === 'rich'),
    input.limits.richTextMm,
    (size, limit) => `Dark lettering of ${size} is of several inks; below ${limit} it may show coloured edges.`,
    { label: 'Print dark lettering with black alone', change: { blackText: true } }
  );
}

function smallText(
  input: CheckInput,
  id: string,
  texts: readonly TextFact[],
  limitMm: number,
  sentence: (size: string, limit: string) => string,
  mend?: Found['mend']
): Found[] {
  const scale = printScale(input);
  const worst = texts.reduce<TextFact | undefined>(
    (small, text) => (small && small.sizeMm <= text.sizeMm ? small : text),
    undefined
  );
  if (!worst || worst.sizeMm * scale >= limitMm) return [];
  return [
    {
      id,
      level: 'look',
      figure: thinIn(input, worst.sizeMm * scale),
      limit: thinIn(input, limitMm),
      sentence: sentence(sizeOf(input, worst), lengthIn(input, limitMm)),
      place: placed(input, worst.place),
      ...(mend && { mend })
    }
  ];
}

export function blackAreas(input: CheckInput): Found[] {
  const { page, choices, limits } = input;
  if (choices.richBlack) return [];
  const scale = printScale(input) ** 2;
  const largest = page.blackAreas.filter((area) => printed(input, area)).at(0);
  if (!largest || largest.areaMm2 * scale < limits.blackAreaMm2) return [];
  const [sq, name] = input.unit === 'in' ? [MM_PER.in ** 2, 'in²'] : [MM_PER.cm ** 2, 'cm²'];
  const area = (mm2: number) => `${Math.round(mm2 / sq).toLocaleString('en-GB')} ${name}`;
  return [
    {
      id: 'black-areas',
      level: 'look',
      figure: area(largest.areaMm2 * scale),
      limit: area(limits.blackAreaMm2),
      sentence: `An area of ${area(largest.areaMm2 * scale)} is of black ink alone; above ${area(limits.blackAreaMm2)} it looks dull and may band.`,
      place: placed(input, largest.place),
      mend: { label: 'Print large black with all inks', change: { richBlack: true } }
    }
  ];
}

const textOf = (input: CheckInput, wanted: (text: TextFact) => boolean) =>
  input.page.text.filter((text) => printed(input, text) && wanted(text) && onPage(input, text.place));

/** Notes beside the page are not artwork. */
function onPage(input: CheckInput, place: Box): boolean {
  const box = placed(input, place);
  return box.x < input.choices.widthMm && box.y < input.choices.heightMm && box.x + box.width > 0 && box.y + box.height > 0;
}

const sizeOf = (input: CheckInput, text: TextFact) => {
  const size = text.sizeMm * printScale(input);
  return `${thinIn(input, size)} (${((size * 72) / MM_PER_INCH).toFixed(1)} pt)`;
};

/** Thin things need their hundredths. */
const thinIn = ({ unit }: CheckInput, mm: number): string =>
  unit === 'mm' ? `${mm.toFixed(mm < 1 ? 2 : 1)} mm` : formatClosely(mm, unit);
