// Makes the blue-noise mask that ships in core/screening anew. It takes about a minute; the file is the same each time.
import { buildNode } from './node-build.mjs';
await buildNode(['mask']);
await import('../dist-node/mask.js');
