import type { Box } from '$core/geometry/box';
import { evenSides } from '$core/geometry/box';
import { apply } from '$core/geometry/matrix';
import { finishedToPage } from '$core/artwork/preparation';
import { textFlats } from '$core/marks/lettering';
import { BLACK, type Flat } from '$core/marks/print-list';
import { cannotLay } from '$core/media/press';
import type { PieceSource } from '$core/layout/pieces';
import type { RipPlan } from '$core/rip/plan';
import type { Halftone, HalftoneMethod } from '$core/screening/screener';
import { MM_PER_INCH } from '$core/units/length';
import type { Chart } from '$lib/calibration';
import { LETTERS, type StripRequest, type Variant } from '$lib/variants';
import type { Conditions } from '../conditions/conditions';
import type { NamedColours } from '../conditions/named-colours';
import type { Dockets } from '../dockets/dockets';
import { tonesOf, type PreparedDockets } from '../dockets/prepared-dockets';
import { Problem } from '../platform/problem';
import type { Freezing } from '../production/freezing';
import { FROZEN_VERSION } from '../production/frozen-run';
import type { ChartMaking } from './chart-making';

interface Needs {
  colours: NamedColours;
  conditions: Conditions;
  dockets: Dockets;
  preparedDockets: PreparedDockets;
  freezing: Freezing;
  chartMaking: ChartMaking;
}

const GAP_MM = 6;
const LETTER_MM = 5;
const TITLE_MM = 8;
const EDGE_MM = 5;

/** Variants of a docket's tone: a part of its artwork, printed side by side with a letter under each. */
export class VariantStrips {
  readonly #needs: Needs;

  constructor(needs: Needs) {
    this.#needs = needs;
  }

  /** @throws Problem where the part is not on the docket, or does not fit the media */
  make(docketId: number, { part, variants }: StripRequest): Chart {
    const { chartMaking, colours, conditions, dockets, freezing, preparedDockets } = this.#needs;
    const docket = dockets.get(docketId);
    const { choices } = docket;
    const { conditionId } = choices;
    if (conditionId === null) throw new Problem(422, 'Choose a media and print mode first.');
    if (
      part.x < 0 ||
      part.y < 0 ||
      part.x + part.width > choices.widthMm + 0.01 ||
      part.y + part.height > choices.heightMm + 0.01
    )
      throw new Problem(
        422,
        `The part reaches beyond the docket, which is ${choices.widthMm.toFixed(0)} × ${choices.heightMm.toFixed(0)} mm. Choose one within it.`
      );
    const condition = conditions.get(conditionId);
    const { pages, layers } = freezing.pagesOf([docket], conditionId);
    const why = cannotLay(layers, condition.press);
    if (why) throw new Problem(422, `${why} Change the layers of the docket.`);
    const page = [...pages.values()][0]!;
    // Layers that show pages of their own have no part that is this one.
    const stack = page.stack?.layers.some(({ own }) => own) ? undefined : page.stack;
    const prepare = { ...preparedDockets.get(docket).preparation, adjustment: undefined, tone: undefined };
    const region = onPage(page.prepare, choices, part);
    const sources = variants.map((variant): PieceSource => ({
      file: page.file,
      page: page.page,
      sources: page.sources,
      ...(stack && { stack }),
      widthMm: part.width,
      heightMm: part.height,
      bleed: evenSides(0),
      intent: variant.intent,
      prepare: colours.onCondition(conditionId)({ ...prepare, ...tonesOf(variant), region, bleed: { from: 'page' } })
    }));
    const { curves, mixture, profileHash } = conditions.colour(conditionId);
    const { red, green, blue } = conditions.inkLimits(conditionId);
    return chartMaking.ofDocket(conditionId, docketId, (code, media) => {
      const { places, lengthMm, rows } = laidOut(part, variants, media);
      const lettered = (words: string, heightMm: number, x: number, y: number): Flat[] =>
        textFlats(words, heightMm).flats.map((flat) => ({ ...flat, x: x + flat.x, y: y + flat.y, inks: BLACK }));
      const flats = [
        ...lettered(`${code}  ${docket.name} · ${condition.media} · ${condition.mode.name}`, 3, media.marginMm, EDGE_MM),
        ...places.flatMap(({ x, y }, i) => lettered(`${LETTERS[i]!}  ${variants[i]!.words}`, 3, x, y + part.height + 1.5))
      ];
      const plan: RipPlan = {
        widthMm: condition.rollWidthMm,
        lengthMm,
        dpi: { x: condition.mode.dpi, y: condition.mode.dpi },
        inks: conditions.inks(conditionId),
        layers,
        totalInk: condition.totalInk,
        sources,
        pieces: places.map((place, source) => ({ source, ...place, turn: 0 })),
        marks: [],
        flats
      };
      return {
        layout: { patchMm: 0, widthMm: condition.rollWidthMm, lengthMm, pages: [], patches: [], strips: 0 },
        asked: {},
        variants,
        flats,
        frozen: () => ({
          version: FROZEN_VERSION,
          plan,
          cuts: [],
          method: screened(rows, condition.mode.dpi),
          profile: profileHash,
          curves,
          ...(mixture && { mixture }),
          pairs: { red, green, blue }
        })
      };
    });
  }
}

/** A part of the finished size as the part of the page that it shows. */
function onPage(
  prepare: Parameters<typeof finishedToPage>[0],
  size: Parameters<typeof finishedToPage>[1],
  { x, y, width, height }: Box
): Box {
  const toPage = finishedToPage(prepare, size);
  const corners = [
    { x, y },
    { x: x + width, y: y + height }
  ].map((corner) => apply(toPage, corner));
  const [xs, ys] = [corners.map((p) => p.x), corners.map((p) => p.y)];
  return {
    x: Math.min(...xs),
    y: Math.min(...ys),
    width: Math.max(...xs) - Math.min(...xs),
    height: Math.max(...ys) - Math.min(...ys)
  };
}

/** Side by side as the media is wide; another halftone begins another row. @throws RangeError where not one fits across */
function laidOut(
  { width, height }: { width: number; height: number },
  variants: readonly Pick<Variant, 'halftone'>[],
  { widthMm, marginMm }: { widthMm: number; marginMm: number }
): { places: { x: number; y: number }[]; lengthMm: number; rows: Row[] } {
  const usable = widthMm - 2 * marginMm;
  if (width > usable)
    throw new RangeError(
      `The part is ${width.toFixed(0)} mm wide; ${usable.toFixed(0)} mm of this media can be used. Choose a smaller one.`
    );
  const across = Math.floor((usable + GAP_MM) / (width + GAP_MM));
  const rowMm = height + LETTER_MM + GAP_MM;
  const rows: Row[] = [];
  const places = variants.map(({ halftone = 'blue-noise' }) => {
    const last = rows.at(-1);
    if (!last || last.halftone !== halftone || last.count === across)
      rows.push({ y: EDGE_MM + TITLE_MM + rows.length * rowMm, halftone, count: 0 });
    const row = rows.at(-1)!;
    return { x: marginMm + row.count++ * (width + GAP_MM), y: row.y };
  });
  return { places, lengthMm: EDGE_MM + TITLE_MM + rows.length * rowMm, rows };
}

interface Row {
  y: number;
  halftone: HalftoneMethod;
  count: number;
}

/** What the strip is screened with, row by row; one method where all are of it. */
function screened(rows: readonly Row[], dpi: number): Halftone {
  const methods = new Set(rows.map(({ halftone }) => halftone));
  if (methods.size === 1) return rows[0]!.halftone;
  return rows.map(({ y, halftone }, i) => ({ fromRow: i === 0 ? 0 : Math.round((y / MM_PER_INCH) * dpi), method: halftone }));
}
