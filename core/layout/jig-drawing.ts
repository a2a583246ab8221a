import { pathData, polylinePath } from '../geometry/path';
import { outlineAt, outlineOf, pocketsOf, type Jig } from './jig';

/** The outlines of a jig and the numbers of its pockets as SVG at its size: to lay things in by, or to have it cut. Its front is at the top. */
export function jigDrawing(jig: Jig): string {
  const { widthMm, lengthMm } = jig.bed;
  const outline = outlineOf(jig.thing);
  const letterMm = Math.max(2, Math.min(12, Math.min(jig.thing.widthMm, jig.thing.heightMm) / 4));
  const pockets = pocketsOf(jig).filter(({ isOff }) => !isOff);
  return [
    `<svg xmlns="http://www.w3.org/2000/svg" width="${widthMm}mm" height="${lengthMm}mm" viewBox="0 0 ${widthMm} ${lengthMm}" fill="none" stroke="#000" stroke-width="0.25">`,
    `<title>${escaped(jig.name)}</title>`,
    `<rect width="${widthMm}" height="${lengthMm}"/>`,
    ...pockets.map(({ x, y, turn, number }) => {
      const rings = outlineAt(jig.thing, { x, y, turn }, outline).flatMap((points) => polylinePath({ points, closed: true }));
      return `<path d="${pathData(rings)}"/><text x="${x.toFixed(2)}" y="${y.toFixed(2)}" font-family="sans-serif" font-size="${letterMm}" text-anchor="middle" dominant-baseline="central" fill="#000" stroke="none">${number}</text>`;
    }),
    '</svg>'
  ].join('\n');
}

const escaped = (text: string): string => text.replace(/[&<>"]/g, (sign) => `&#${sign.charCodeAt(0)};`);
