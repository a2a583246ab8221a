import { NEW_JIG } from '$core/layout/jig';
import { proposalOf } from '$core/photo/proposal';
import { rectifyByMarks } from '$core/photo/targets';
import { straighten, thingsIn } from '$core/photo/things';
import { takePhoto } from '$standins/printer/bed';
import { BED, farthest, greyOf, loadedJig } from '../tests/made/loaded-jig';

/** How well places are found in photos of a loaded jig on a bed of a metre, as a camera of two megapixels takes them. */

const PHOTOS = 50;
const PX = 1600;

let [worst, longest] = [0, 0];
for (let seed = 1; seed <= PHOTOS; seed++) {
  const { jig, lying } = loadedJig(seed);
  const photo = takePhoto(lying, [181, 138, 58], BED, { px: PX, seed, marks: true });
  const from = performance.now();
  const { toPicture } = rectifyByMarks(greyOf(photo), BED);
  const found = proposalOf(thingsIn(straighten(photo, toPicture, BED), BED, true), { ...NEW_JIG, bed: jig.bed });
  longest = Math.max(longest, performance.now() - from);
  // A thing that is not found is as wrong as can be.
  worst = Math.max(worst, found.things === lying.length ? farthest(lying, found.jig) : Infinity);
}
const figures: Record<string, [number, string]> = { 'jig-find': [worst, 'mm'], 'jig-find-s': [longest / 1000, 's'] };
for (const name of process.argv.slice(2)) {
  const [value, unit] = figures[name] ?? [NaN, ''];
  process.stdout.write(`${name}\t${value.toFixed(3)}\t${unit}\n`);
}
