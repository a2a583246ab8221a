import { spawnSync } from 'node:child_process';
import { existsSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import sharp from 'sharp';
import { afterAll, describe, expect, it } from 'vitest';
import { writeCutPdf } from '$lib/server/cutting/workers/cut-pdf';
import { strokesOf } from './blade';
import { writeDxf, writeSvg, type CutFile } from './cut-files';
import { writeHpgl } from './hpgl';
import { DEFAULT_KNIVES } from '../media/knife';

/** Cut lines as other programs read them. */

const folder = mkdtempSync(join(tmpdir(), 'cut-files-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));
const PYTHON = '/usr/bin/python3';
const hasDxfReader = existsSync(PYTHON) && spawnSync(PYTHON, ['-c', 'import ezdxf']).status === 0;
const has = (program: string) => spawnSync('which', [program]).status === 0;

const FILE: CutFile = {
  widthMm: 100,
  lengthMm: 60,
  marks: [{ x: 5, y: 5, diameter: 6 }],
  lines: [
    { points: [{ x: 20, y: 10 }, { x: 80, y: 10 }, { x: 80, y: 50 }, { x: 20, y: 50 }], closed: true, tool: 'kiss cut' }, // prettier-ignore
    { points: [{ x: 10, y: 55 }, { x: 90, y: 55.5 }], closed: false, tool: 'crease' }, // prettier-ignore
    { points: [{ x: 15, y: 8 }, { x: 85, y: 8 }, { x: 50, y: 53 }], closed: true, tool: 'through cut' } // prettier-ignore
  ]
};

describe('cut lines as a file', () => {
  it.skipIf(!hasDxfReader)('DXF: another reader finds each on the layer of its tool, where it is, in mm', () => {
    const path = join(folder, 'lines.dxf');
    writeFileSync(path, writeDxf(FILE));
    const script = `import ezdxf, json, sys
doc = ezdxf.readfile(sys.argv[1])
print(json.dumps({'units': doc.units, 'problems': len(doc.audit().errors),
  'lines': [[e.dxf.layer, bool(e.closed), [[p[0], p[1]] for p in e.get_points()]] for e in doc.modelspace().query('LWPOLYLINE')],
  'marks': [[e.dxf.layer, e.dxf.center.x, e.dxf.center.y, e.dxf.radius] for e in doc.modelspace().query('CIRCLE')]}))`;
    const { stdout, stderr } = spawnSync(PYTHON, ['-c', script, path], { encoding: 'utf8' });
    expect(stderr).toBe('');
    expect(JSON.parse(stdout)).toEqual({
      units: 4,
      problems: 0,
      lines: FILE.lines.map(({ tool, closed, points }) => [tool, closed, points.map(({ x, y }) => [x, 60 - y])]),
      marks: [['marks', 5, 55, 3]]
    });
  });

  it('SVG: drawn by another program at its size, lines where they are', async () => {
    const { data, info } = await sharp(Buffer.from(writeSvg(FILE)), { density: 72 })
      .flatten({ background: '#fff' })
      .raw()
      .toBuffer({ resolveWithObject: true });
    // At 72 to the inch.
    expect([info.width, info.height]).toEqual([283, 170]);
    const scale = info.width / FILE.widthMm;
    const darkest = (x: number, y: number) =>
      Math.min(
        ...[-1, 0, 1].flatMap((dx) =>
          [-1, 0, 1].map(
            (dy) => data[((Math.round(y * scale) + dy) * info.width + Math.round(x * scale) + dx) * info.channels + 1]!
          )
        )
      );
    for (const [x, y] of [[50, 10], [20, 30], [80, 30], [50, 50], [50, 8], [5, 5]] as const) expect(darkest(x, y)).toBeLessThan(225); // prettier-ignore
    expect(darkest(35, 20)).toBe(255);
  });

  it.skipIf(!has('gs'))('PDF: its lines are in spot colours of their tools’ names', async () => {
    const path = join(folder, 'lines.pdf');
    writeFileSync(path, await writeCutPdf(FILE));
    spawnSync('gs', ['-q', '-dBATCH', '-dNOPAUSE', '-sDEVICE=tiffsep', '-r100', `-sOutputFile=${folder}/sep.tif`, path]);
    for (const tool of ['kiss cut', 'crease', 'through cut']) {
      const plate = `${folder}/sep(${tool}).tif`;
      expect(existsSync(plate)).toBe(true);
      const { data, info } = await sharp(plate).greyscale().raw().toBuffer({ resolveWithObject: true });
      expect(Math.abs(info.width - (100 / 25.4) * 100)).toBeLessThan(2);
      expect(data.some((v) => v < 128)).toBe(true);
    }
  });

  it('PDF: of a print of 8 m is as long as that, in units that a page may have', async () => {
    const text = Buffer.from(await writeCutPdf({ ...FILE, lengthMm: 8000 })).toString('latin1');
    const [, , long] = /MediaBox \[0 0 (\S+) (\S+)\]/.exec(text)!.map(Number) as [number, number, number];
    const unit = Number(/UserUnit (\S+)/.exec(text)![1]);
    expect(long).toBeLessThanOrEqual(14_400);
    expect((long * unit * 25.4) / 72).toBeCloseTo(8000, 1);
  });

  it.skipIf(!has('hp2xx'))('HPGL: another plotter draws it as large as it is', () => {
    const path = join(folder, 'lines.plt');
    writeFileSync(path, writeHpgl(strokesOf(FILE.lines, DEFAULT_KNIVES), DEFAULT_KNIVES));
    const { status, stderr } = spawnSync('hp2xx', ['-t', '-m', 'eps', '-f', join(folder, 'lines.eps'), path], {
      encoding: 'utf8'
    });
    expect(status).toBe(0);
    const box = /BoundingBox: (\S+) (\S+) (\S+) (\S+)/.exec(readFileSync(join(folder, 'lines.eps'), 'latin1'));
    const [x0, , x1] = box!.slice(1).map(Number) as [number, number, number, number];
    expect(Math.abs(((x1 - x0) / 72) * 25.4 - 80)).toBeLessThan(1.5);
    expect(stderr).not.toMatch(/unknown|unsupported/i);
  });
});
