// Starts the built server on 127.0.0.1. ZING_DATA and PORT say where.
import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { root } from './node-build.mjs';

process.chdir(root);
if (!existsSync(join(root, 'build/index.js'))) {
  console.error('Nothing is built yet. Run “npm run build” first, or “npm run demo”, which does everything.');
  process.exit(1);
}
await import('../build/index.js');
