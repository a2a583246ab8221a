import { formatLength } from '../units/length';
import type { PageFacts } from './facts';

/** One preflight finding on a docket. */
export interface Check {
  id: 'resolution' | 'width' | 'fonts' | 'bleed' | 'stretch' | 'cut';
  level: 'fine' | 'look' | 'stop';
  /** The figure, its limit, and what follows, in a sentence. */
  sentence: string;
  mend?: { label: string; widthMm: number; heightMm: number };
}

export interface CheckedDocket {
  widthMm: number;
  heightMm: number;
  bleedMm: number;
  cut: boolean;
  mayTurn: boolean;
}

/** Pixels an inch that a docket has at its size: the lowest of the page's pictures; none where there are no pictures. */
export function effectiveResolution(page: PageFacts, widthMm: number, heightMm: number): number | undefined {
  if (page.images.length === 0) return undefined;
  const lowest = Math.min(...page.images.map((image) => image.ppi));
  return lowest / Math.max(widthMm / page.widthMm, heightMm / page.heightMm);
}

/** What a viewer at one metre can tell apart: one arc minute (25.4 ÷ (d·tan(1/60°))). */
export const ppiAtDistance = (distanceMm: number): number => 25.4 / (distanceMm * Math.tan(Math.PI / 180 / 60));

const LOOK_DISTANCE_MM = 1000;

/**
 * @param usableMm of the roll across, margins and marks taken off; undefined where no media is chosen
 */
export function checkDocket(
  page: PageFacts,
  docket: CheckedDocket,
  fontsNotEmbedded: readonly string[],
  usableMm: number | undefined
): Check[] {
  const checks: Check[] = [];
  const { widthMm, heightMm, bleedMm } = docket;
  if (usableMm !== undefined) {
    const across = docket.mayTurn ? Math.min(widthMm, heightMm) : widthMm;
    const printed = across + 2 * bleedMm;
    if (printed > usableMm + 1e-6) {
      const factor = Math.max(0, usableMm - 2 * bleedMm) / across;
      checks.push({
        id: 'width',
        level: 'stop',
        sentence: `It needs ${formatLength(printed)} across; ${formatLength(usableMm)} of the roll can be used. It would be cut off at the edge.`,
        ...(factor > 0 && {
          mend: {
            label: `Make it ${formatLength(widthMm * factor)} wide`,
            widthMm: Math.floor(widthMm * factor * 10) / 10,
            heightMm: Math.floor(heightMm * factor * 10) / 10
          }
        })
      });
    } else
      checks.push({
        id: 'width',
        level: 'fine',
        sentence: `It fits the roll: ${formatLength(printed)} of ${formatLength(usableMm)} across.`
      });
  }
  const ppi = effectiveResolution(page, widthMm, heightMm);
  if (ppi === undefined)
    checks.push({
      id: 'resolution',
      level: 'fine',
      sentence: 'No pictures in it: shapes and lettering print sharp at any size.'
    });
  else {
    const wanted = ppiAtDistance(LOOK_DISTANCE_MM);
    checks.push(
      ppi < wanted
        ? {
            id: 'resolution',
            level: 'look',
            sentence: `${Math.round(ppi)} pixels an inch at this size; from 1 m the eye tells ${Math.round(wanted)} apart. It will look soft from near.`
          }
        : {
            id: 'resolution',
            level: 'fine',
            sentence: `${Math.round(ppi)} pixels an inch at this size, ${Math.round(wanted)} are enough from 1 m.`
          }
    );
  }
  const stretch = Math.abs(widthMm / page.widthMm / (heightMm / page.heightMm) - 1);
  if (stretch > 0.005) {
    checks.push({
      id: 'stretch',
      level: 'look',
      sentence: `Stretched by ${(stretch * 100).toFixed(1)} %: circles become ovals.`,
      mend: { label: 'Keep its shape', widthMm, heightMm: (widthMm * page.heightMm) / page.widthMm }
    });
  }
  if (fontsNotEmbedded.length > 0) {
    checks.push({
      id: 'fonts',
      level: 'look',
      sentence: `${fontsNotEmbedded.slice(0, 3).join(', ')} ${fontsNotEmbedded.length === 1 ? 'is' : 'are'} not in the file; another font stands in. Compare the lettering.`
    });
  }
  if (docket.cut && page.cutPaths.length > 0 && bleedMm < 1) {
    checks.push({
      id: 'bleed',
      level: 'look',
      sentence: `${formatLength(bleedMm)} of bleed; with less than 1 mm a white edge may show along the cut.`
    });
  }
  if (!docket.cut && page.cutPaths.length > 0) {
    checks.push({
      id: 'cut',
      level: 'look',
      sentence: `The artwork has ${page.cutPaths.length} cut ${page.cutPaths.length === 1 ? 'line' : 'lines'}, but cutting is off. They do not print either.`
    });
  }
  const order = { stop: 0, look: 1, fine: 2 };
  return checks.sort((p, q) => order[p.level] - order[q.level]);
}
