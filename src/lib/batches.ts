/** Rolls of one film differ a little from batch to batch: panels that hang beside each other are printed from one. */

export interface PanelBatches {
  /** Those that other panels of the same walls were printed from, as far as it is known. */
  before: readonly string[];
  /** Of the roll that is on the machine; nothing where it is not known. */
  now: string | null;
}

/** What is to be said of them, and whether the roll on the machine is of another. */
export function batchWords({ before, now }: PanelBatches): { words: string; isOther: boolean } {
  const [first] = before;
  if (first === undefined)
    return {
      words:
        now === null
          ? 'Print them from one roll, or from rolls of one batch, so that their colour meets.'
          : `Batch ${now} is on the machine: if more than one roll is needed, take the next of the same, so that their colour meets.`,
      isOther: false
    };
  const others = `Others of this wall were printed from ${before.length === 1 ? `batch ${first}` : `batches ${before.join(', ')}`}`;
  if (now === null)
    return {
      words: `${others}. Of which batch the roll on the machine is, is not known: that is written on the media card before a roll is loaded.`,
      isOther: false
    };
  if (before.includes(now)) return { words: `${others}; batch ${now} is on the machine.`, isOther: false };
  return {
    words: `${others}, and batch ${now} is on the machine: their colour may not meet. Load a roll of ${before.length === 1 ? `batch ${first}` : 'one of those'}.`,
    isOther: true
  };
}
