import { MOST_SERIES } from '$core/records/series';
import { NOTHING_ASKED, sizeOfName, type Asked } from '$lib/network-printer';
import {
  memberValues,
  TAG,
  valueOf,
  valuesOf,
  type Decoded,
  type IppAttribute,
  type IppGroup,
  type IppValue
} from '$protocol/ipp';
import { COLOUR_MODES, JOB_ATTRIBUTES, QUALITY, SCALINGS, sheetLimits, type PrinterFacts } from './printer-attributes';

/** What a program asks for with a job, in our own words. */
export interface JobRequest {
  name: string;
  sender: string;
  asked: Asked;
  /** What cannot be done of it; everything else can. */
  unsupported: IppAttribute[];
}

const MOST_NAME = 120;

/** Names as they stand in lists: one line, and never empty. */
const line = (value: IppValue | undefined, instead: string): string =>
  (typeof value === 'string'
    ? value
        .normalize('NFC')
        .replace(/\p{Cc}+/gu, ' ')
        .trim()
        .slice(0, MOST_NAME)
    : '') || instead;

/** Who sends a request, as far as a program says. */
export const senderOf = (head: Decoded): string => line(valueOf(head, 'requesting-user-name'), 'anonymous');

interface Ground {
  facts: PrinterFacts;
  /** The conditions of a draft and of its best, where there are such. */
  draftId: number | null;
  bestId: number | null;
  mostPages: number;
}

/** Reads what a job asks for, from the attributes of a request. */
export function readJobRequest(head: Decoded, { facts, draftId, bestId, mostPages }: Ground): JobRequest {
  const groups = head.groups.filter(({ tag }) => tag === TAG.job);
  const ask = (name: string): IppValue | undefined => valueOf({ groups }, name);
  const unsupported: IppAttribute[] = [];
  const attributes = groups.flatMap((group: IppGroup) => group.attributes);
  const refuse = (name: string) => {
    const said = attributes.find((one) => one.name === name);
    if (said) unsupported.push(said);
  };
  for (const { name } of attributes)
    if (!JOB_ATTRIBUTES.includes(name)) unsupported.push({ tag: TAG.unsupportedValue, name, values: [null] });
  /** One of several; what is not known is refused and left out. */
  const oneOf = <T extends IppValue>(name: string, known: readonly T[]): T | undefined => {
    const value = ask(name);
    if (value === undefined) return undefined;
    const found = known.find((one) => one === value);
    if (found === undefined) refuse(name);
    return found;
  };

  let copies: number | null = null;
  const wanted = ask('copies');
  if (typeof wanted === 'number' && Number.isInteger(wanted) && wanted >= 1 && wanted <= MOST_SERIES) copies = wanted;
  else if (wanted !== undefined) refuse('copies');
  oneOf('sides', ['one-sided']);
  oneOf('orientation-requested', [3]);
  oneOf('finishings', [3]);
  const quality = oneOf('print-quality', facts.qualities) ?? QUALITY.normal;
  const mode = oneOf('print-color-mode', COLOUR_MODES);
  const scaling = oneOf('print-scaling', SCALINGS) ?? 'auto';

  const size = sizeAsked(ask('media'), ask('media-col'));
  const { most } = sheetLimits(facts.media);
  const fits =
    size !== undefined &&
    Math.min(size.width, size.height) <= Math.min(most.widthMm, most.heightMm) &&
    Math.max(size.width, size.height) <= Math.max(most.widthMm, most.heightMm);
  if (size !== undefined && !fits) {
    refuse('media');
    refuse('media-col');
  }
  const pages = valuesOf({ groups }, 'page-ranges').flatMap((value) =>
    value !== null && typeof value === 'object' && 'from' in value && value.from >= 1 && value.to >= value.from ? [value] : []
  );
  return {
    name: line(valueOf(head, 'job-name') ?? valueOf(head, 'document-name'), 'Untitled'),
    sender: senderOf(head),
    asked: {
      ...NOTHING_ASKED,
      copies,
      conditionId: quality === QUALITY.draft ? draftId : quality === QUALITY.best ? bestId : null,
      grey: mode === 'monochrome',
      fitMm: fits && scaling !== 'none' ? size : null,
      pages: pages.slice(0, 100),
      mostPages
    },
    unsupported
  };
}

/** The sheet that is asked for, mm: by its size, or by a name that says it. */
function sizeAsked(media: IppValue | undefined, collection: IppValue | undefined): { width: number; height: number } | undefined {
  if (Array.isArray(collection)) {
    const size = memberValues(collection, 'media-size')[0];
    if (Array.isArray(size)) {
      const [x, y] = ['x-dimension', 'y-dimension'].map((name) => memberValues(size, name)[0]);
      if (typeof x === 'number' && typeof y === 'number' && x > 0 && y > 0) return { width: x / 100, height: y / 100 };
    }
    const name = memberValues(collection, 'media-size-name')[0];
    if (typeof name === 'string') return sizeOfName(name);
  }
  return typeof media === 'string' ? sizeOfName(media) : undefined;
}
