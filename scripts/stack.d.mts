import type { ChildProcess } from 'node:child_process';

interface Started {
  url: string;
  child: ChildProcess;
}
export function freePort(): Promise<number>;
export function startMachine(name: 'printer' | 'cutter', env?: Record<string, string>): Promise<Started>;
export function startServer(env: Record<string, string>): Promise<Started>;
export function seed(data: string, printerUrl: string, cutterUrl: string): Promise<void>;
