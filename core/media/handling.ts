import { z } from 'zod';
import { FAMILIES, Handling, HANDLING_WORDS, type Family } from './card';

/** What a machine's maker suggests: rows by family and thickness. The first row that fits counts. */

const range = z.tuple([z.number(), z.number()]);

export const HandlingRow = z.object({
  families: z.array(z.enum(FAMILIES)).min(1),
  /** mm; from the first up to, but not with, the second. */
  thickness: range,
  handling: Handling,
  /** From…to that is usual, for figures. */
  usual: z.partialRecord(Handling.keyof(), range)
});
export type HandlingRow = z.infer<typeof HandlingRow>;

export const HandlingTable = z.object({ machine: z.string().min(1).max(60), rows: z.array(HandlingRow).min(1).max(200) });
export type HandlingTable = z.infer<typeof HandlingTable>;

export function suggestHandling(table: HandlingTable, family: Family, thicknessMm: number): HandlingRow | undefined {
  return table.rows.find(
    ({ families, thickness: [from, to] }) => families.includes(family) && thicknessMm >= from && thicknessMm < to
  );
}

export interface HandlingCheck {
  machine: string;
  field: keyof Handling;
  text: string;
}

/** What of a card's handling lies outside of what the machine's maker suggests: each is a *look*. */
export function checkHandling(
  table: HandlingTable,
  card: { family: Family; thicknessMm: number; handling: Record<string, Handling> }
): HandlingCheck[] {
  const mine = card.handling[table.machine];
  const row = suggestHandling(table, card.family, card.thicknessMm);
  if (!mine || !row) return [];
  const checks: HandlingCheck[] = [];
  for (const [field, usual] of Object.entries(row.usual) as [keyof Handling, [number, number]][]) {
    const value = mine[field];
    if (typeof value !== 'number' || (value >= usual[0] && value <= usual[1])) continue;
    const { words, unit } = HANDLING_WORDS[field];
    checks.push({
      machine: table.machine,
      field,
      text: `${words} ${value} ${unit}: ${table.machine} is usually set to ${usual[0]}–${usual[1]} ${unit} for ${card.family} of ${card.thicknessMm} mm.`
    });
  }
  return checks;
}
