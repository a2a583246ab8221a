import { beyondMm, pageBleed } from '../artwork/choices';
import { uprightSize } from '../artwork/preparation';
import { formatLength, longUnit, MM_PER } from '../units/length';
import { lengthIn, placed, printed, printScale, type Found, type CheckInput } from './check';

/** What a viewer at a distance can tell apart: one arc minute (25.4 ÷ (d·tan(1/60°))), pixels an inch. */
export const ppiAtDistance = (distanceMm: number): number => 25.4 / (distanceMm * Math.tan(Math.PI / 180 / 60));

export function width(input: CheckInput): Found[] {
  const { choices, usableMm, mayTurn, wall, jig } = input;
  // A wall is divided to fit; what lies in a jig is held against its places.
  if (usableMm === undefined || wall || jig) return [];
  const { widthMm, heightMm } = choices;
  const beyond = beyondMm(choices);
  const across = mayTurn ? Math.min(widthMm, heightMm) : widthMm;
  const needs = across + 2 * beyond;
  const said = { id: 'width', figure: lengthIn(input, needs), limit: lengthIn(input, usableMm) };
  if (needs <= usableMm + 1e-6)
    return [{ ...said, level: 'fine', sentence: `It fits the roll: ${said.figure} of ${said.limit} across.` }];
  const factor = Math.max(0, usableMm - 2 * beyond) / across;
  return [
    {
      ...said,
      level: 'stop',
      sentence: `It needs ${said.figure} across; ${said.limit} of the roll can be used. It would be cut off at the edge.`,
      ...(factor > 0 && {
        mend: {
          label: `Make it ${lengthIn(input, widthMm * factor)} wide`,
          change: { widthMm: Math.floor(widthMm * factor * 10) / 10, heightMm: Math.floor(heightMm * factor * 10) / 10 }
        }
      })
    }
  ];
}

export function resolution(input: CheckInput): Found[] {
  const { page, choices, limits } = input;
  const images = page.images.filter((image) => printed(input, image));
  const worst = images.reduce<(typeof images)[number] | undefined>(
    (low, image) => (low && low.ppi <= image.ppi ? low : image),
    undefined
  );
  if (!worst)
    return [
      {
        id: 'resolution',
        level: 'fine',
        figure: '',
        limit: '',
        sentence: 'No pictures in it: shapes and lettering print sharp at any size.'
      }
    ];
  const distance = choices.viewingMm ?? limits.viewingMm;
  const ppi = worst.ppi / printScale(input);
  const wanted = ppiAtDistance(distance);
  const said = {
    id: 'resolution',
    figure: `${Math.round(ppi)} ppi`,
    limit: `${Math.round(wanted)} ppi`,
    place: placed(input, worst.place)
  };
  const far = longUnit(input.unit);
  const from = distance < MM_PER[far] ? lengthIn(input, distance) : formatLength(distance, far);
  return [
    ppi < wanted
      ? {
          ...said,
          level: 'look',
          sentence: `${Math.round(ppi)} pixels an inch at this size; from ${from} the eye tells ${Math.round(wanted)} apart. It will look soft from near.`
        }
      : {
          ...said,
          level: 'fine',
          sentence: `${Math.round(ppi)} pixels an inch at this size, ${Math.round(wanted)} are enough from ${from}.`
        }
  ];
}

export function stretch({ choices, preparation }: CheckInput): Found[] {
  const upright = uprightSize(preparation);
  const by = Math.abs(choices.widthMm / upright.widthMm / (choices.heightMm / upright.heightMm) - 1);
  if (by <= 0.005) return [];
  return [
    {
      id: 'stretch',
      level: 'look',
      figure: `${(by * 100).toFixed(1)} %`,
      limit: '0.5 %',
      sentence: `Stretched by ${(by * 100).toFixed(1)} %: circles become ovals.`,
      mend: { label: 'Keep its shape', change: { heightMm: (choices.widthMm * upright.heightMm) / upright.widthMm } }
    }
  ];
}

export function bleed(input: CheckInput): Found[] {
  const { choices, limits, preparation, page } = input;
  // A wall has its own.
  if (input.wall) return [];
  const wanted = limits.bleedMm;
  const said = { id: 'bleed', figure: lengthIn(input, choices.bleedMm), limit: lengthIn(input, wanted) };
  if (choices.bleedFrom === 'page') {
    const has = pageBleed(preparation, page, choices.widthMm);
    if (choices.bleedMm > has + 0.05) {
      return [
        {
          ...said,
          figure: lengthIn(input, has),
          limit: lengthIn(input, choices.bleedMm),
          level: 'look',
          sentence: `${lengthIn(input, choices.bleedMm)} of bleed are asked for, the page has ${lengthIn(input, has)}. The rest stays white.`,
          mend: { label: 'Make it by mirroring the edge', change: { bleedFrom: 'mirror' } }
        }
      ];
    }
  }
  // A line inside the finished size brings its bleed along.
  const inset = input.lines.length > 0 ? leastInset(input) : 0;
  if (choices.bleedMm + inset >= wanted - 0.005)
    return choices.bleedMm > 0 ? [{ ...said, level: 'fine', sentence: `${said.figure} of bleed.` }] : [];
  if (!choices.cut && !touchesEdge(input)) return [];
  const has = pageBleed(preparation, page, choices.widthMm);
  return [
    {
      ...said,
      level: 'look',
      sentence: `${said.figure} of bleed; with less than ${said.limit} a white edge may show where it is cut.`,
      mend:
        has >= wanted
          ? { label: `Use ${lengthIn(input, wanted)} of the page’s`, change: { bleedMm: wanted, bleedFrom: 'page' } }
          : { label: `Make ${lengthIn(input, wanted)} by mirroring`, change: { bleedMm: wanted, bleedFrom: 'mirror' } }
    }
  ];
}

function leastInset({ lines, choices }: CheckInput): number {
  let least = Infinity;
  for (const { outline } of lines) {
    for (const segment of outline) {
      if (segment.kind === 'close') continue;
      const { x, y } = segment.to;
      least = Math.min(least, x, y, choices.widthMm - x, choices.heightMm - y);
    }
  }
  return Number.isFinite(least) ? Math.max(0, least) : 0;
}

/** Whether anything is drawn up to the edge of the finished size. */
function touchesEdge(input: CheckInput): boolean {
  if (!input.page.content) return false;
  const content = placed(input, input.page.content);
  const { widthMm, heightMm } = input.choices;
  return (
    content.x < 0.5 || content.y < 0.5 || content.x + content.width > widthMm - 0.5 || content.y + content.height > heightMm - 0.5
  );
}

export function nearTrim(input: CheckInput): Found[] {
  const { page, choices, limits, lines } = input;
  // A contour of its own takes the part of the trim; how near it comes to the print is checked along it.
  if (lines.length > 0) return [];
  const distances = page.text
    .filter((text) => printed(input, text))
    .map(({ place }) => {
      const box = placed(input, place);
      const gap = Math.min(box.x, box.y, choices.widthMm - box.x - box.width, choices.heightMm - box.y - box.height);
      return { box, gap };
    })
    // What lies beyond the edge on purpose, as a slug line, is not artwork.
    .filter(({ box }) => box.x < choices.widthMm && box.y < choices.heightMm && box.x + box.width > 0 && box.y + box.height > 0);
  const nearest = distances.reduce<(typeof distances)[number] | undefined>(
    (near, one) => (near && near.gap <= one.gap ? near : one),
    undefined
  );
  if (!nearest || nearest.gap >= limits.nearTrimMm) return [];
  const said = nearest.gap < 0 ? 'reaches over' : `comes within ${lengthIn(input, nearest.gap)} of`;
  return [
    {
      id: 'near-trim',
      level: 'look',
      figure: lengthIn(input, Math.max(0, nearest.gap)),
      limit: lengthIn(input, limits.nearTrimMm),
      sentence: `Lettering ${said} the trim; ${lengthIn(input, limits.nearTrimMm)} is the shop’s least. The knife may take some of it.`,
      place: nearest.box
    }
  ];
}

export function boxes(input: CheckInput): Found[] {
  const { media, trim, bleed: bleedBox, crop } = input.page.boxes;
  if (!media || !trim) return [];
  const beyond = (inner: typeof media, outer: typeof media) =>
    Math.max(
      outer.x - inner.x,
      outer.y - inner.y,
      inner.x + inner.width - outer.x - outer.width,
      inner.y + inner.height - outer.y - outer.height
    );
  const faults: [string, number][] = [
    ['The trim box reaches beyond the page', beyond(trim, media)],
    ['The bleed box lies inside the trim box', bleedBox ? beyond(trim, bleedBox) : 0],
    ['The crop box cuts into the trim box', crop ? beyond(trim, crop) : 0]
  ];
  return faults
    .filter(([, by]) => by > 0.1)
    .map(([what, by]) => ({
      id: 'boxes',
      level: 'look',
      figure: lengthIn(input, by),
      limit: lengthIn(input, 0.1),
      sentence: `${what} by ${lengthIn(input, by)}. Found which part of the page the customer means.`,
      mend: { label: 'Use the whole page', change: { box: 'media', widthMm: media.width, heightMm: media.height } }
    }));
}

export function blank(input: CheckInput): Found[] {
  const { page, measured } = input;
  if (page.content !== null && page.objects > 0 && measured?.inked !== 0) return [];
  const why =
    page.objects === 0 || page.content === null
      ? 'Nothing but white is drawn on this page'
      : 'Nothing of this page prints as it is set';
  return [{ id: 'blank', level: 'stop', figure: '0', limit: '', sentence: `${why}. It would come out empty.` }];
}
