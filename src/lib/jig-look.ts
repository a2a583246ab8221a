import { beyondMm } from '$core/artwork/choices';
import type { JigLook } from '$core/checks/check';
import { evenSides } from '$core/geometry/box';
import { scaleInPocket } from '$core/layout/run-piece';
import type { DocketChoices } from './docket-choices';
import type { InJig } from './in-jig';

/** A jig as dockets are held against it. */
export interface KnownJig {
  id: number;
  name: string;
  /** Places that are not switched off, and those that cannot be printed as they are. */
  pockets: number;
  faults: number;
  thing: { widthMm: number; heightMm: number };
}

/**
 * The jig that a docket is to lie in, as it says itself, or else the run that it waits in; nothing where it is to lie in none.
 *
 * @param jigOf one as the shop has it; nothing where it is gone
 */
export function jigLook(
  choices: DocketChoices,
  runJig: InJig | null,
  jigOf: (id: number) => KnownJig | undefined,
  condition: { machine: string; sheetMm: number | null } | undefined
): JigLook | undefined {
  const liesIn = choices.jig ?? runJig;
  if (!liesIn) return undefined;
  const jig = jigOf(liesIn.id);
  if (!jig) return 'gone';
  const { lies } = liesIn;
  const { widthMm, heightMm, finishing } = choices;
  const thing = { width: jig.thing.widthMm, height: jig.thing.heightMm };
  const piece = { widthMm, heightMm, bleed: evenSides(beyondMm(choices)), turn: finishing.turn };
  return {
    name: jig.name,
    faults: jig.faults,
    pockets: jig.pockets,
    thing,
    lies: { ...lies, turn: (finishing.turn + lies.turn) % 360 },
    scale: scaleInPocket(piece, thing, lies),
    rollOf: condition?.sheetMm === null ? condition.machine : null
  };
}
