import { setImmediate, setTimeout } from 'node:timers/promises';
import { printSeconds } from '$core/inks/drops';
import { speedIn } from '$core/media/modes';
import { layersTogether } from '$core/inks/stack';
import { cannotLay } from '$core/media/press';
import { pieceOf } from '$core/layout/pieces';
import { layOutRun } from '$core/layout/run-layout';
import type { TooLarge } from '$core/layout/placement';
import { clipsOn, inkOfAll, printedOf } from '$core/layout/printed-parts';
import { tooLargeInWords } from '$core/layout/too-large';
import type { ShopUnit } from '$core/units/length';
import { inJig, liesAlike, type InJig } from '$lib/in-jig';
import { sizedFor, stockOf, toRunPieces } from '$lib/run-pieces';
import type { Docket, Dockets } from '../dockets/dockets';
import type { PreparedDockets } from '../dockets/prepared-dockets';
import type { DocketPictures } from '../dockets/pictures';
import type { DocketMeasured } from '../dockets/workers/measure';
import type { Jigs } from '../machines/jigs';
import type { Machines } from '../machines/machines';
import type { Settings } from '../platform/settings';
import type { Lane, Lanes } from './lanes';
import type { Runs } from './run-store';

/** What becomes of dockets in a lane, before they go there. */
export interface LaneOffer {
  laneId: number;
  machine: string;
  media: string;
  mode: string;
  loaded: boolean;
  /** How many of them are in this lane's print mode now, and how many lie in a run of it that is not printed. */
  here: number;
  lying: number;
  /** Why its machine cannot print them, as for want of an ink; empty where it can. */
  cannot: string;
  /** Which of them are too large for it, in a sentence; empty where all fit. */
  tooLarge: string;
  /** What can be used across. */
  usableMm: number;
  /** Of these dockets alone, in rows. */
  lengthMm: number | null;
  seconds: number | null;
  mediaCost: number | null;
  timeCost: number | null;
  /** As it is measured; nothing where some were not in time. */
  inkCost: number | null;
  /** All three together; nothing as long as one of them is not known. */
  cost: number | null;
  /** The largest share of colours that the lane's condition cannot print, of those dockets that were measured in time. */
  outOfGamut: number | null;
  measured: number;
  /** Some of them are being measured still: asked again, more is known. */
  awaited: boolean;
}

/** What it works with. */
interface Needs {
  dockets: Dockets;
  preparedDockets: PreparedDockets;
  jigs: Jigs;
  lanes: Lanes;
  machines: Machines;
  pictures: DocketPictures;
  runs: Runs;
  settings: Settings;
}

/** Drawing a docket in a lane's inks takes seconds the first time: an answer does not wait for it longer. */
const MEASURED_WITHIN_MS = 400;
/** More dockets are not drawn for one answer. */
const MOST_MEASURED = 8;

/** Lanes with what would change there. @param laneId all of them where none is given */
export async function laneOffers(needs: Needs, docketIds: readonly number[], laneId?: number): Promise<LaneOffer[]> {
  const dockets = docketIds.map((id) => needs.dockets.get(id));
  const lanes = laneId === undefined ? needs.lanes.list() : [needs.lanes.get(laneId)];
  const offers: LaneOffer[] = [];
  for (const lane of lanes) {
    offers.push(await offerOf(needs, dockets, lane));
    // One lane after another: others are answered in between.
    await setImmediate();
  }
  return offers;
}

async function offerOf(
  { jigs, machines, pictures, preparedDockets, runs, settings }: Needs,
  dockets: readonly Docket[],
  lane: Lane
): Promise<LaneOffer> {
  const { condition } = lane;
  const cannot = dockets.map(({ choices }) => jigs.whyNot(choices, condition)).find((why) => why !== '');
  const jig = jigOfAll(dockets);
  const rule = inJig(lane.rule, jig);
  const stock = stockOf(condition, rule, jig ? jigs.places(jig.id) : undefined);
  const pieces = dockets.flatMap((docket) => toRunPieces(docket, { condition, contour: preparedDockets.contour(docket) }));
  const laid = sizedFor(stock, rule, pieces);
  const layout = layOutRun(stock, { ...rule, placing: 'rows' }, laid, []);
  const machine = machines.list().find(({ id }) => id === lane.machineId);
  const all = condition.hasProfile ? await measuredIn(pictures, dockets, condition.id) : [];
  const measured = all.filter((one) => one !== null);
  const fits = layout.tooLarge.length === 0 && cannot === undefined && !layout.refusal;
  const { layers } = layersTogether(dockets.map((docket) => preparedDockets.layers(docket).stack));
  const seconds =
    fits && machine?.printer
      ? printSeconds(stock.width, layout.length, speedIn(machine.printer, condition.mode, layers.length))
      : null;
  const printed = [...printedOf(layout.parts, new Map(laid.map((piece) => [piece.id, piece])), clipsOn(stock, rule))];
  const inkOf = ({ id }: Docket, { layers: laidInk }: DocketMeasured) =>
    inkOfAll(
      printed.flatMap(([piece, one]) => (pieceOf(piece).docket === String(id) ? [one] : [])),
      laidInk,
      condition,
      settings.current.inkCostPerMl
    ).cost;
  const mediaCost = fits ? layout.areaM2 * condition.costPerM2 : null;
  const timeCost = seconds === null ? null : (seconds / 3600) * machine!.costPerHour;
  const inkCost =
    fits && measured.length === dockets.length ? dockets.reduce((sum, docket, i) => sum + inkOf(docket, measured[i]!), 0) : null;
  return {
    laneId: lane.id,
    machine: condition.machine,
    media: lane.media,
    mode: condition.mode.name,
    loaded: lane.loaded,
    here: dockets.filter((docket) => docket.choices.conditionId === condition.id).length,
    lying: dockets.filter(
      ({ runId, runState }) => runId !== null && runState !== 'printed' && runs.row(runId).lane_id === lane.id
    ).length,
    cannot: cannotLay(layers, condition.press) ?? cannot ?? '',
    tooLarge: tooLargeOf(layout.tooLarge, dockets, settings.current.unit),
    usableMm: stock.width - 2 * rule.margin,
    lengthMm: fits ? layout.length : null,
    seconds,
    mediaCost,
    timeCost,
    inkCost,
    cost: mediaCost === null || timeCost === null || inkCost === null ? null : mediaCost + timeCost + inkCost,
    outOfGamut: measured.length > 0 ? Math.max(...measured.map(({ gamut }) => gamut.share)) : null,
    measured: measured.length,
    awaited: all.slice(0, MOST_MEASURED).includes(null)
  };
}

/** Which dockets are too large: one by its name, of several how many and the first of them. */
function tooLargeOf(all: readonly TooLarge[], dockets: readonly Docket[], unit: ShopUnit): string {
  const [first] = all;
  if (!first) return '';
  const nameOf = ({ id }: TooLarge) => dockets.find((docket) => String(docket.id) === pieceOf(id).docket)?.name ?? '';
  const count = new Set(all.map(({ id }) => pieceOf(id).docket)).size;
  const why = `${nameOf(first)} ${tooLargeInWords(first, unit)}.`;
  return count === 1 ? why : `${count} are too large: ${why}`;
}

/** The jig that all of them lie in; nothing where they lie in several, or on the sheet. */
function jigOfAll([first, ...rest]: readonly Docket[]): InJig | null {
  const jig = first?.choices.jig ?? null;
  return rest.every(({ choices }) => liesAlike(choices.jig, jig)) ? jig : null;
}

/** What could be measured of them in time, docket by docket; the rest goes on being measured, for the next time that somebody asks. */
async function measuredIn(
  pictures: DocketPictures,
  dockets: readonly Docket[],
  conditionId: number
): Promise<(DocketMeasured | null)[]> {
  const late = setTimeout(MEASURED_WITHIN_MS, null);
  return Promise.all(
    dockets.map(({ id }, i) =>
      i < MOST_MEASURED ? Promise.race([pictures.measured(id, conditionId).catch(() => null), late]) : null
    )
  );
}
