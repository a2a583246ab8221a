import type { MarksByInk } from '$core/artwork/docket-stack';
import type { PageLine } from '$core/artwork/facts';
import type { Check, Mend } from '$core/checks/check';
import type { Stock } from '$core/layout/placement';
import type { Preparation } from '$core/artwork/preparation';
import type { LaidInk } from '$core/inks/laid-ink';
import type { Stack } from '$core/inks/stack';
import type { FinishedLine } from '$core/cutting/docket-lines';
import type { KnownJig } from '$lib/jig-look';
import type { DocketChoices, DocketDocument } from '$lib/docket-choices';
import type { RunRule } from '$lib/run-rule';
import type { ShopSettings } from '$lib/shop-settings';
import type { Condition } from '$lib/server/conditions/condition';
import type { Docket } from '$lib/server/dockets/dockets';
import type { SourceProfile } from '$lib/server/conditions/source-profiles';
import type { Divided } from '$lib/server/production/docket-parts';
import type { InRun, ModeName } from '$lib/server/production/run-rules';
import type { Machine } from '$lib/server/machines/machines';

/** What was found on the docket, and what is done about it from the sentences of the ticket. */
export interface TicketChecks {
  /** The worst first. */
  all: readonly Check[];
  /** The one that is looked at. */
  shown: string | null;
  show: (check: Check | null) => void;
  mend: (mend: Mend) => void;
}

/** What every line of the ticket sees, and how it changes the docket. */
export interface TicketView {
  docket: Docket;
  choices: DocketChoices;
  preparation: Preparation;
  /** What the page outlines in spot colours and on layers. */
  pageLines: readonly PageLine[];
  finished: readonly FinishedLine[];
  /** The layers that it is printed in, and what its file marks for them. */
  stack: Stack;
  marks: MarksByInk;
  settings: ShopSettings;
  /** Another whenever a named colour of the shop is. */
  coloursVersion: number;
  /** Profiles that colours can be read with. */
  sources: readonly SourceProfile[];
  conditions: readonly Condition[];
  machines: readonly Machine[];
  jigs: readonly KnownJig[];
  condition: Condition | undefined;
  /** What it is laid out on and by, in its lane. */
  stock: Stock | undefined;
  rule: RunRule;
  usableMm: number | undefined;
  /** The run that it is laid out in, and what of it falls to this docket. */
  inRun: InRun | null;
  /** What of it lies in runs, where it was divided. */
  divided: Divided | null;
  /** The print mode of the lane of its media; none before it has a media. */
  laneMode: ModeName | undefined;
  /** The ink of one copy, layer by layer; none until it is measured. */
  laid: readonly LaidInk[] | null;
  /** Takes it out of its run, and lays it out as it says now. */
  layAnew: () => void;
  /** Lays out what of it lies in no run. */
  layRest: () => void;
  change: (part: Partial<DocketChoices>) => void;
  changeDocument: (part: Partial<DocketDocument>) => void;
}
