import type { Finding } from '../artwork/facts';
import { counted } from '../units/counted';
import { placed, type Found, type CheckInput } from './check';

/** What was not taken as its maker had it, when the file came in. */

interface Told {
  id: string;
  figure: string;
  /** In a list. */
  brief: string;
  sentence: string;
}

const TELL: Record<Finding['kind'], (finding: Finding) => Told> = {
  'svg-font': ({ what, instead }) => ({
    id: `font ${what}`,
    brief: `${instead} stands in for ${what}`,
    figure: what,
    sentence: `The font ${what} is neither in the file nor in the shop; ${instead} stands in, and lines may run longer or shorter. Compare the lettering, ask for it as outlines, or add the font under Shop.`
  }),
  'svg-glyphs': ({ what }) => ({
    id: 'glyphs',
    brief: `no font has ${what}`,
    figure: what,
    sentence: `No font of the file or the shop has these characters: ${what}. They are missing in the print. Ask for the lettering as outlines, or add a font that has them under Shop.`
  }),
  'svg-picture': ({ what }) => ({
    id: `picture ${what}`,
    brief: `the picture ${what} is missing`,
    figure: what,
    sentence: `The picture ${what} is not in the file, or cannot be read, and is missing in the print. Ask for the file with its pictures in it.`
  }),
  'svg-html': () => ({
    id: 'html',
    brief: 'a part written as a web page is missing',
    figure: 'text of a web page',
    sentence:
      'A part of the drawing is written as a web page and is missing in the print. Ask for a PDF, or for the text as outlines.'
  }),
  'svg-filter': ({ what, instead }) => ({
    id: 'effects',
    brief: `${counted(Number(what), 'effect')} drawn as pixels`,
    figure: counted(Number(what), 'effect'),
    sentence: `Shadows, blurs and other effects are drawn as pixels, at most ${instead} an inch at the page’s own size. Look at them closely where the docket is much larger.`
  }),
  'extra-channels': ({ what }) => ({
    id: 'extra-channels',
    brief: `${counted(Number(what), 'channel')} beside the colours`,
    figure: counted(Number(what), 'channel'),
    sentence: `The picture has ${counted(Number(what), 'channel')} beside its colours: a spot colour or a selection. It is not printed. Ask for a PDF if it should be.`
  }),
  damaged: () => ({
    id: 'damaged',
    brief: 'damaged',
    figure: 'damaged',
    sentence:
      'The picture’s data are damaged: parts of it may be grey, shifted or smeared. Look at all of it, or ask for a new copy.'
  })
};

export const briefly = (finding: Finding): string => TELL[finding.kind](finding).brief;

export function asSent(input: CheckInput): Found[] {
  return input.findings.map((finding) => {
    const { id, figure, sentence } = TELL[finding.kind](finding);
    return { id, level: 'look', figure, limit: '', sentence, ...(finding.place && { place: placed(input, finding.place) }) };
  });
}

export function fields({ page, choices }: CheckInput): Found[] {
  if (page.fields === 0) return [];
  const many = counted(page.fields, 'filled-in form field or stamp', 'filled-in form fields and stamps');
  const said = { id: 'fields', figure: many, limit: '' };
  if (choices.fieldsOff) return [{ ...said, level: 'fine', sentence: `${many} on the page: left out.` }];
  return [
    {
      ...said,
      level: 'look',
      sentence: `${many} on the page: drawn as they look. They may be notes that are not to be printed.`,
      mend: { label: 'Leave them out', change: { fieldsOff: true } }
    }
  ];
}
