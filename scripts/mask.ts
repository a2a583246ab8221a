import { writeFileSync } from 'node:fs';
import { voidAndCluster } from '$core/screening/void-and-cluster';
import { seededRandom } from '$core/geometry/random';

const size = 256;
const ranks = voidAndCluster(size, seededRandom(1993));
writeFileSync('core/screening/blue-noise-256.bin', new Uint8Array(ranks.buffer, ranks.byteOffset, ranks.byteLength));
process.stdout.write(`core/screening/blue-noise-256.bin: ${ranks.byteLength} bytes\n`);
