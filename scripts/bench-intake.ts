import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { gradientSoak } from '../tests/made/gradients';
import { drawingsOf50kB } from '../tests/made/drawings';
import { Shop } from '$lib/server/app/shop';

const report = (name: string, value: number, unit: string) => process.stdout.write(`${name}\t${value.toFixed(2)}\t${unit}\n`);

async function intake250(): Promise<number> {
  const folder = mkdtempSync(join(tmpdir(), 'zing-bench-'));
  const shop = new Shop(folder);
  shop.start();
  const drawings = drawingsOf50kB(250);
  const start = performance.now();
  const ids = await Promise.all(
    drawings.map(async (svg, i) => {
      async function* one() {
        yield await Promise.resolve(new TextEncoder().encode(svg));
      }
      return (await shop.artworks.take(`drawing-${i}.svg`, one())).id;
    })
  );
  while (ids.some((id) => shop.artworks.get(id).state === 'reading')) await new Promise((resolve) => setTimeout(resolve, 20));
  const seconds = (performance.now() - start) / 1000;
  const refused = ids.map((id) => shop.artworks.get(id)).filter(({ state }) => state !== 'ready');
  await shop.close();
  rmSync(folder, { recursive: true, force: true });
  if (refused[0]) throw new Error(`${refused.length} refused: ${refused[0].reason}`);
  return seconds;
}

for (const name of process.argv.slice(2)) {
  if (name === 'intake-250') report(name, await intake250(), 's');
  if (name === 'soak-gradients') report(name, (await gradientSoak(5000)).failures, 'of 5000');
}
