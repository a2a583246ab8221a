import type { Part, Stock } from './placement';
import type { RunPiece } from './run-piece';

/** Sheets one after the other that are equal are one, so many times, unless their copies are told apart. */
export function equalParts(parts: readonly Part[], laid: readonly RunPiece[], stock: Stock): { part: Part; times: number }[] {
  const toldApart = laid.some(({ finishing, records }) => finishing.caption || finishing.numbered || records);
  const groups: { part: Part; times: number; key: string }[] = [];
  for (const part of parts) {
    const key = JSON.stringify([part.length, part.copies.map(({ id, x, y, turn }) => [id, x, y, turn])]);
    const last = groups.at(-1);
    if (last?.key === key && !toldApart && stock.kind === 'sheet') last.times++;
    else groups.push({ part, times: 1, key });
  }
  return groups;
}
