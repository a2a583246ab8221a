import { withDrawn, type CutChoices } from '$core/artwork/cut-choices';
import { finishedToPage, type Preparation } from '$core/artwork/preparation';
import type { FinishedLine } from '$core/cutting/docket-lines';
import { fromNodes, toNodes, type NodeLine } from '$core/cutting/nodes';
import { pathData, transformPath } from '$core/geometry/path';
import type { DocketChoices } from '$lib/docket-choices';
import { actByKey, type Chosen } from './line-editing';

/** A docket as it is seen. */
interface Seen {
  finished: readonly FinishedLine[];
  preparation: Preparation;
  choices: Pick<DocketChoices, 'lines' | 'widthMm' | 'heightMm'>;
}

/** A cut line whose nodes are edited. It becomes one drawn by hand when the first node moves. */
export class LineWork {
  /** The line, by its id. */
  editing = $state<string | null>(null);
  chosen = $state.raw<Chosen | null>(null);
  readonly edited = $derived.by((): NodeLine[] => {
    if (this.editing === null) return [];
    return toNodes(
      this.#seen()
        .finished.filter(({ id }) => id === this.editing)
        .flatMap(({ outline }) => outline)
    );
  });
  readonly #seen: () => Seen;
  readonly #change: (lines: CutChoices) => void;

  constructor(seen: () => Seen, change: (lines: CutChoices) => void) {
    this.#seen = seen;
    this.#change = change;
  }

  /** Begins with a line, or ends with it. */
  turn(id: string): void {
    this.editing = this.editing === id ? null : id;
    this.chosen = null;
  }

  end(): void {
    this.editing = null;
  }

  keep(lines: NodeLine[]): void {
    const { finished, preparation, choices } = this.#seen();
    const outline = pathData(transformPath(fromNodes(lines), finishedToPage(preparation, choices)), 4);
    const tool = finished.find(({ id }) => id === this.editing)?.tool ?? 'kiss cut';
    const { cut, id } = withDrawn(choices.lines, this.editing ?? '', outline, { id: `by-hand-${Date.now()}`, tool });
    this.#change(cut);
    this.editing = id;
  }

  keys(event: KeyboardEvent): void {
    if (!this.chosen || event.ctrlKey || event.metaKey) return;
    const lines = actByKey(this.edited, this.chosen, event);
    if (!lines) return;
    event.preventDefault();
    event.stopPropagation();
    this.keep(lines);
  }
}
