// Builds everything that runs in Node.js outside SvelteKit: workers, stand-ins, demo, bench; and the compiled hot loops.
import { execFileSync } from 'node:child_process';
import { existsSync, mkdirSync, readdirSync, statSync, utimesSync, writeFileSync } from 'node:fs';
import { dirname, join, resolve } from 'node:path';
import { fileURLToPath } from 'node:url';

export const root = resolve(dirname(fileURLToPath(import.meta.url)), '..');
export const aliases = {
  $core: join(root, 'core'),
  $lib: join(root, 'src/lib'),
  $standins: join(root, 'standins'),
  $protocol: join(root, 'protocol')
};

const entries = {
  'intake-process': 'src/lib/server/artwork/workers/intake-process.ts',
  'drawing-process': 'src/lib/server/dockets/workers/drawing-process.ts',
  'rip-worker': 'src/lib/server/production/workers/rip.ts',
  'plate-worker': 'src/lib/server/production/workers/plates.ts',
  'profile-worker': 'src/lib/server/conditions/workers/profile.ts',
  'cut-worker': 'src/lib/server/cutting/workers/cut.ts',
  'layout-worker': 'src/lib/server/production/workers/layout.ts',
  'card-worker': 'src/lib/server/calibration/workers/cards.ts',
  'table-worker': 'src/lib/server/records/workers/tables.ts',
  'watch-worker': 'src/lib/server/automation/workers/watching.ts',
  printer: 'standins/printer/main.ts',
  cutter: 'standins/cutter/main.ts',
  instrument: 'standins/instrument/main.ts',
  library: 'standins/library/main.ts',
  seed: 'demo/seed.ts',
  'demo-artwork': 'demo/artwork.ts',
  bench: 'scripts/bench.ts',
  'bench-colour': 'scripts/bench-colour.ts',
  'bench-matching': 'scripts/bench-matching.ts',
  'bench-layout': 'scripts/bench-layout.ts',
  'bench-intake': 'scripts/bench-intake.ts',
  'bench-cutting': 'scripts/bench-cutting.ts',
  'bench-jig': 'scripts/bench-jig.ts',
  'bench-panels': 'scripts/bench-panels.ts',
  'bench-records': 'scripts/bench-records.ts',
  check: 'scripts/check.ts',
  'full-shop': 'scripts/full-shop.ts',
  outside: 'scripts/outside.ts',
  torture: 'scripts/torture.ts',
  'placing-pictures': 'scripts/placing-pictures.ts',
  mask: 'scripts/mask.ts'
};

/** The newest change below the given files and folders, in ms. */
export function newest(...paths) {
  let latest = 0;
  for (const path of paths.map((p) => resolve(root, p))) {
    if (!existsSync(path)) continue;
    const stat = statSync(path);
    if (!stat.isDirectory()) latest = Math.max(latest, stat.mtimeMs);
    else for (const name of readdirSync(path)) latest = Math.max(latest, newest(join(path, name)));
  }
  return latest;
}

export function isFresh(product, ...sources) {
  return existsSync(resolve(root, product)) && statSync(resolve(root, product)).mtimeMs >= newest(...sources);
}

export function buildKernels() {
  const out = join(root, 'dist-node/kernels.wasm');
  if (isFresh(out, 'core/kernels/assembly')) return;
  mkdirSync(dirname(out), { recursive: true });
  execFileSync(
    process.execPath,
    [
      join(root, 'node_modules/assemblyscript/bin/asc.js'),
      'core/kernels/assembly/index.ts',
      ...['-O3', '--enable', 'simd', '--runtime', 'stub', '--initialMemory', '1', '--maximumMemory', '65536', '-o', out]
    ],
    { cwd: root, stdio: ['ignore', 'ignore', 'inherit'] }
  );
  utimesSync(out, new Date(), new Date());
}

/** Builds the entries named, or all, when a source is newer than the last build. */
export async function buildNode(only) {
  // tsconfig.json extends what SvelteKit writes, and a fresh clone does not have that yet.
  if (!existsSync(join(root, '.svelte-kit/tsconfig.json'))) {
    execFileSync(process.execPath, [join(root, 'node_modules/@sveltejs/kit/svelte-kit.js'), 'sync'], {
      cwd: root,
      stdio: 'inherit'
    });
  }
  buildKernels();
  const stamp = join(root, 'dist-node/.stamp');
  if (!only && isFresh(stamp, 'core', 'protocol', 'standins', 'src/lib', 'demo', 'scripts', 'tests/made', 'package-lock.json'))
    return;
  const { build } = await import('vite');
  const chosen = Object.entries(entries).filter(([name]) => !only || only.includes(name));
  await build({
    configFile: false,
    root,
    logLevel: 'warn',
    resolve: { alias: aliases },
    build: {
      ssr: true,
      outDir: 'dist-node',
      emptyOutDir: false,
      target: 'node20',
      minify: false,
      rollupOptions: {
        input: Object.fromEntries(chosen.map(([name, file]) => [name, join(root, file)])),
        output: { entryFileNames: '[name].js', chunkFileNames: 'chunks/[name]-[hash].js', format: 'es' }
      }
    }
  });
  if (!only) writeFileSync(stamp, new Date().toISOString());
}
