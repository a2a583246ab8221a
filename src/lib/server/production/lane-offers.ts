import { layOutRun } from '$core/layout/run-layout';
import { printSeconds } from '$core/inks/drops';
import { stockOf, toRunPieces } from '$lib/model';
import type { Dockets } from '../dockets/dockets';
import type { Lanes } from './lanes';
import type { Machines } from '../machines/machines';
import type { DocketPictures } from '../dockets/pictures';

/** What becomes of a docket in a lane, before it goes there. */
export interface LaneOffer {
  laneId: number;
  machine: string;
  media: string;
  mode: string;
  loaded: boolean;
  /** It is in this lane's print mode now. */
  here: boolean;
  fits: boolean;
  usableMm: number;
  /** Of the docket alone, in rows. */
  lengthMm: number | null;
  seconds: number | null;
  mediaCost: number | null;
  /** Share of its colours that the lane's condition cannot print; nothing where that could not be measured. */
  outOfGamut: number | null;
}

/** What it works with. */
interface Needs {
  dockets: Dockets;
  lanes: Lanes;
  machines: Machines;
  pictures: DocketPictures;
}

/** Every lane with what would change there. */
export async function laneOffers(needs: Needs, docketId: number): Promise<LaneOffer[]> {
  const { lanes, dockets, machines, pictures } = needs;
  const docket = dockets.get(docketId);
  const offers: LaneOffer[] = [];
  for (const lane of lanes.list()) {
    const { condition, rule } = lane;
    const stock = stockOf(condition, rule);
    const laid = toRunPieces(docket, { media: lane.media, contour: dockets.contour(docket) });
    const layout = layOutRun(stock, { ...rule, placing: 'rows' }, laid, []);
    const fits = layout.tooWide.length === 0;
    const printer = machines.list().find((machine) => machine.id === lane.machineId)?.printer;
    const measured = condition.hasProfile ? await pictures.measured(docketId, condition.id).catch(() => null) : null;
    offers.push({
      laneId: lane.id,
      machine: condition.machine,
      media: lane.media,
      mode: condition.mode.name,
      loaded: lane.loaded,
      here: docket.choices.conditionId === condition.id,
      fits,
      usableMm: layout.tooWide[0]?.usable ?? stock.width - 2 * rule.margin,
      lengthMm: fits ? layout.length : null,
      seconds: fits && printer ? printSeconds(stock.width, layout.length, { ...printer, passes: condition.mode.passes }) : null,
      mediaCost: fits ? layout.areaM2 * condition.costPerM2 : null,
      outOfGamut: measured?.gamut.share ?? null
    });
  }
  return offers;
}
