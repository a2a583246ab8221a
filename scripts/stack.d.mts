import type { ChildProcess } from 'node:child_process';

interface Started {
  url: string;
  child: ChildProcess;
}
export function freePort(): Promise<number>;
export function startMachine(
  name: 'printer' | 'cutter' | 'instrument' | 'library',
  env?: Record<string, string>
): Promise<Started>;
export function startServer(env: Record<string, string>): Promise<Started>;
export function startMachines(
  folder: string,
  speed: string
): Promise<Record<'printer' | 'cutter' | 'instrument' | 'library', Started>>;
export function seed(data: string, machines: Record<'printer' | 'cutter' | 'instrument' | 'library', Started>): Promise<void>;
