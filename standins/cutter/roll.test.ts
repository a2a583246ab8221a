import sharp from 'sharp';
import { beforeAll, describe, expect, it } from 'vitest';
import { lieAt } from '$core/cutting/lie';
import { register } from '$core/cutting/registration';
import { codeFlats } from '$core/marks/lettering';
import { codePlaces, printCode } from '$core/marks/print-code';
import { DEFAULT_MARKS, registrationMarks } from '$core/marks/registration';
import type { CutterJob } from '$protocol/cutter';
import { Eyes, isLikeCode, locate, middleOf } from './eyes';
import { secondsAlong } from './motion';
import { Roll, USUAL_ROLL } from './roll';

const DPI = 90;
const ROOM = 20;

/** A print with its marks and codes, and what is cut of it. */
async function made(width: number, length: number, seed: number, kind: 'datamatrix' | 'qrcode' = 'datamatrix') {
  const pieces = [{ x: ROOM, y: ROOM, width, height: length }];
  const marks = registrationMarks(pieces, DEFAULT_MARKS);
  const { codes } = codePlaces(marks, pieces, { ...DEFAULT_MARKS, code: kind });
  const code = printCode(Uint8Array.from({ length: 6 }, (_, i) => (seed * 37 + i * 101) % 256));
  const [w, h] = [width + 2 * ROOM, length + 2 * ROOM];
  const flats = codes.flatMap((box) => codeFlats(code, box.width, kind).map((f) => ({ ...f, x: f.x + box.x, y: f.y + box.y })));
  const svg = `<svg xmlns="http://www.w3.org/2000/svg" width="${w * (DPI / 25.4)}" height="${h * (DPI / 25.4)}" viewBox="0 0 ${w} ${h}">
    <rect width="${w}" height="${h}" fill="#fafafa"/><rect x="${ROOM}" y="${ROOM}" width="${width}" height="${length * 0.4}" fill="#336"/>
    ${marks.map(({ x, y, diameter }) => `<circle cx="${x}" cy="${y}" r="${diameter / 2}"/>`).join('')}
    ${flats.map((f) => `<rect x="${f.x}" y="${f.y}" width="${f.width}" height="${f.height}"/>`).join('')}</svg>`;
  const { data, info } = await sharp(Buffer.from(svg)).greyscale().raw().toBuffer({ resolveWithObject: true });
  const job: CutterJob = {
    code,
    shown: code,
    widthMm: w,
    lengthMm: h,
    marks: marks.map((mark) => ({ ...mark, shape: 'disc' })),
    codes,
    prints: 1,
    cut: 0
  };
  return { job, image: { pixels: new Uint8Array(data), width: info.width, height: info.height, dpi: DPI } };
}

describe('a roll in the cutter', () => {
  let prints: Awaited<ReturnType<typeof made>>[];
  beforeAll(async () => {
    prints = await Promise.all([made(150, 120, 1), made(220, 700, 2, 'qrcode'), made(150, 120, 3)]);
  });

  it.each([false, true])(
    'has its prints found by their codes, either way round (backwards: %s), and lying where they do',
    async (backwards) => {
      const roll = new Roll({ ...USUAL_ROLL, backwards }, 5);
      for (const { image } of prints) roll.lay(image);
      const eyes = new Eyes(roll);
      const patches = await eyes.patches(0, roll.lengthMm);
      const seen = new Set<unknown>();
      for (const patch of patches.filter(isLikeCode)) {
        const read = await eyes.read(patch);
        const print = prints.findIndex(({ job }) => job.code === read?.text);
        if (!read || print < 0) continue;
        const { job } = prints[print]!;
        const found = locate(job, read.at, patches)!;
        seen.add(read);
        expect(found.isTurned).toBe(backwards);
        const ends = [0, job.lengthMm].map((y) => roll.place(print, { x: job.widthMm / 2, y }).x);
        expect(Math.abs(found.from - Math.min(...ends))).toBeLessThan(4);
        expect(Math.abs(found.to - Math.max(...ends))).toBeLessThan(4);
        const lie = register(job.marks, eyes.marksNear(found.marks, job.marks[0]!), 0.3);
        for (const p of [
          { x: ROOM, y: ROOM },
          { x: job.widthMm - ROOM, y: job.lengthMm / 2 },
          { x: 60, y: job.lengthMm - ROOM }
        ]) {
          const [at, truth] = [lieAt(lie, p), roll.place(print, p)];
          expect(Math.hypot(at.x - truth.x, at.y - truth.y)).toBeLessThan(0.15);
        }
      }
      // Of each print the code at its head and that at its foot.
      expect(seen.size).toBe(6);
    }
  );

  it('knows of each place on it which place of a print lies there', () => {
    const roll = new Roll({ ...USUAL_ROLL, most: { skew: 0.3, stretch: 0.004, bow: 400 } }, 8);
    for (const { image } of prints) roll.lay(image);
    for (const p of [
      { x: 10, y: 10 },
      { x: 200, y: 400 },
      { x: 30, y: 690 }
    ]) {
      const back = roll.placeOn(roll.place(1, p))!;
      expect(back.print).toBe(1);
      expect(Math.hypot(back.p.x - p.x, back.p.y - p.y)).toBeLessThan(0.02);
    }
    expect(roll.placeOn({ x: 10, y: 10 })).toBeUndefined();
  });

  it('shows dirt where it fell, and nothing beyond its end', async () => {
    const roll = new Roll({ ...USUAL_ROLL, endsAtMm: 150 }, 9);
    roll.lay(prints[0]!.image);
    const [code] = prints[0]!.job.codes;
    const eyes = new Eyes(roll);
    roll.soil(0, { ...middleOf(code!), radius: 7 });
    const patches = await eyes.patches(0, 1000);
    expect(Math.max(...patches.map(({ x, width }) => x + width))).toBeLessThan(151);
    for (const patch of patches) expect((await eyes.read(patch))?.text).not.toBe(prints[0]!.job.code);
  });
});

describe('the head', () => {
  it('takes its time: more for a corner, none for standing still', () => {
    const straight = [{ x: 0, y: 0 }, { x: 100, y: 0 }, { x: 200, y: 0 }]; // prettier-ignore
    const round = [{ x: 0, y: 0 }, { x: 100, y: 0 }, { x: 100, y: 100 }]; // prettier-ignore
    expect(secondsAlong(straight.slice(0, 1), 400)).toBe(0);
    // 200 mm at 400 mm/s, and speeding up and slowing down with 4600 mm/s².
    expect(secondsAlong(straight, 400)).toBeCloseTo(200 / 400 + 400 / 4600, 2);
    expect(secondsAlong(round, 400)).toBeGreaterThan(secondsAlong(straight, 400) + 0.05);
  });
});
