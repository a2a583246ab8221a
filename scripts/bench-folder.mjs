// A thousand small files in a watched folder: how long until each is a docket, and how pages answer meanwhile.
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { startServer } from './stack.mjs';

const FILES = 1000;
const LOOK_EVERY_MS = 250;

const svg = (n) =>
  `<svg xmlns="http://www.w3.org/2000/svg" width="${60 + (n % 40)}mm" height="40mm" viewBox="0 0 60 40"><rect width="50" height="30" fill="#${(n * 7919 + 1048576).toString(16).slice(-6)}"/><text x="5" y="20" font-size="8">${n}</text></svg>`;

/** @returns seconds, and the slowest page that was asked for meanwhile, ms */
export async function benchFolder() {
  const data = mkdtempSync(join(tmpdir(), 'zing-bench-'));
  const inbox = join(mkdtempSync(join(tmpdir(), 'zing-bench-in-')), 'in');
  const server = await startServer({ ZING_DATA: data });
  const call = async (method, path, body) =>
    (
      await fetch(`${server.url}/api${path}`, {
        method,
        headers: { origin: server.url, 'content-type': 'application/json' },
        ...(body && { body: JSON.stringify(body) })
      })
    ).json();
  try {
    mkdirSync(inbox, { recursive: true });
    await call('POST', '/folders', { path: inbox, recipeId: null, way: 'make dockets' });
    // A page that nobody has asked for yet is made once.
    await (await fetch(`${server.url}/dockets`)).text();
    const began = performance.now();
    for (let i = 0; i < FILES; i++) writeFileSync(join(inbox, `File ${i}.svg`), svg(i));
    const answers = [];
    for (;;) {
      const asked = performance.now();
      await (await fetch(`${server.url}/dockets`)).text();
      answers.push(performance.now() - asked);
      const { counts } = await call('GET', '/arrivals?states=reading');
      if ((counts.done ?? 0) >= FILES) break;
      if ((counts.waiting ?? 0) + (counts.refused ?? 0) > 0) throw new Error(`Not all were taken: ${JSON.stringify(counts)}`);
      await new Promise((resolve) => setTimeout(resolve, LOOK_EVERY_MS));
    }
    answers.sort((p, q) => p - q);
    return {
      'folder-1000': (performance.now() - began) / 1000,
      'folder-page-p95': answers[Math.floor(answers.length * 0.95)],
      'folder-page-worst': answers.at(-1)
    };
  } finally {
    server.child.kill();
    rmSync(data, { recursive: true, force: true });
    rmSync(join(inbox, '..'), { recursive: true, force: true });
  }
}
