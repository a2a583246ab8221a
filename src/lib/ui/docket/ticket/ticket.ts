import type { PageLine } from '$core/artwork/facts';
import type { Preparation } from '$core/artwork/preparation';
import type { FinishedLine } from '$core/cutting/docket-lines';
import type { DocketChoices, DocketDocument, RunRule, ShopSettings } from '$lib/model';
import type { Condition } from '$lib/server/conditions/condition';
import type { Docket } from '$lib/server/dockets/dockets';
import type { SourceProfile } from '$lib/server/conditions/source-profiles';
import type { Machine } from '$lib/server/machines/machines';

/** What every line of the ticket sees, and how it changes the docket. */
export interface TicketView {
  docket: Docket;
  choices: DocketChoices;
  preparation: Preparation;
  /** What the page outlines in spot colours and on layers. */
  pageLines: readonly PageLine[];
  finished: readonly FinishedLine[];
  settings: ShopSettings;
  /** Profiles that colours can be read with. */
  sources: readonly SourceProfile[];
  conditions: readonly Condition[];
  machines: readonly Machine[];
  condition: Condition | undefined;
  /** What its lane lays out by. */
  rule: RunRule;
  usableMm: number | undefined;
  /** Mean ink of the piece, C, M, Y, K in 0…1; none until it is measured. */
  means: number[] | null;
  change: (part: Partial<DocketChoices>) => void;
  changeDocument: (part: Partial<DocketDocument>) => void;
}
