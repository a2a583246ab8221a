import { execFile } from 'node:child_process';
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Arrival } from '$lib/arrivals';
import { NetworkPrinter } from '$lib/network-printer';
import { Shop } from '$lib/server/app/shop';
import { startStandIn, temporaryFolder, until, USUAL_MODE, type StandIn } from '../harness';
import { cmykBox, madePdf } from '../made/pdf';

/** Printers of the shop's own, printed on by programs that we did not make. */

const folder = temporaryFolder();
const outside = temporaryFolder();
const FILM = { name: 'Film', surface: 'gloss', widthMm: 1300, lengthMm: 900_000 };
let machine: StandIn;
let shop: Shop;
let conditionId: number;
let recipeId: number;
let port = 16_310 + Math.floor(Math.random() * 20_000);
let count = 0;

beforeAll(async () => {
  machine = await startStandIn('printer', { MEDIA: JSON.stringify(FILM) });
  shop = new Shop(folder.path);
  const printerId = shop.machines.add('printer', 'Petrel 13', machine.url);
  shop.start();
  await shop.machines.lookNow();
  const media = shop.media.addNew({ name: 'Film', family: 'cast', widthMm: 1300 }).id;
  conditionId = shop.conditionEditing.add(printerId, media, USUAL_MODE);
  await until(() => shop.conditions.get(conditionId).hasProfile);
  recipeId = shop.recipes.add({ name: 'Film', note: '', on: null, sets: { copies: 5, media: { is: 'condition', conditionId }, priority: 'high' } }).id; // prettier-ignore
}, 200_000);
afterAll(async () => {
  await shop.close();
  machine.stop();
  folder.remove();
  outside.remove();
});

/** A document of its own. */
function document(): string {
  const path = join(outside.path, `Page ${(count += 1)}.pdf`);
  writeFileSync(path, madePdf({ width: 100, height: 60, content: cmykBox(`0.${count % 9} 0.2 0 0`, 10, 10, 50 + count, 30) }));
  return path;
}

async function printerOf(over: Partial<NetworkPrinter> = {}): Promise<{ id: number; uri: string }> {
  const printer = NetworkPrinter.parse({
    name: `Film ${(port += 1)}`,
    recipeId,
    way: 'make dockets',
    port,
    mostPerMinute: 1000,
    ...over
  });
  const { id } = shop.networkPrinters.add(printer);
  await shop.printerDoors.settled();
  return { id, uri: `ipp://127.0.0.1:${printer.port}/ipp/print` };
}
const arrivals = (printer: number): Arrival[] =>
  shop.arrivalStore.list({ most: 1000 }).filter(({ id }) => shop.arrivalStore.row(id).printer_id === printer);

const run = promisify(execFile);

/** Runs a test file of ipptool. @returns what failed */
async function conformance(uri: string, test: string, version: string): Promise<string[]> {
  const { stdout } = await run('ipptool', ['-t', '-V', version, '-f', document(), uri, `/usr/share/cups/ipptool/${test}`], {
    maxBuffer: 50e6
  }).catch((error: unknown) => error as { stdout: string });
  expect(stdout).toContain('[PASS]');
  return stdout.split('\n').flatMap((line, i, all) => (line.includes('[FAIL]') ? [all.slice(i, i + 4).join(' ')] : []));
}

describe('a printer for every program', () => {
  for (const [test, version] of [
    ['ipp-1.1.test', '1.1'],
    ['ipp-2.0.test', '2.0'],
    ['ipp-everywhere.test', '2.0']
  ] as const)
    it(`conforms by ${test}`, { timeout: 300_000 }, async () => {
      const { uri } = await printerOf({ way: 'release', despiteLooks: true });
      expect(await conformance(uri, test, version)).toEqual([]);
    });
});
