import { speedIn } from '$core/media/modes';
import type { Rates } from '$core/layout/run-costs';
import type { Machine } from './server/machines/machines';
import type { Run } from './server/production/run';

/** What a run is printed with. @param layers that it is printed in */
export const ratesOf = (
  { condition, stock, times }: Pick<Run, 'condition' | 'stock' | 'times'>,
  machine: Pick<Machine, 'printer' | 'costPerHour'> | undefined,
  layers: number
): Rates => ({
  press: machine?.printer ? { ...speedIn(machine.printer, condition.mode, layers), widthMm: stock.width } : null,
  times,
  mediaPerM2: condition.costPerM2,
  machinePerHour: machine?.costPerHour ?? 0
});
