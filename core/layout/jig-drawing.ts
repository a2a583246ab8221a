import { markDiameter, markPlaces, RING_INNER, DOT } from './bed-marks';
import { pathData, polylinePath } from '../geometry/path';
import { outlineAt, outlineOf, pocketsOf, type Jig } from './jig';

/** What a jig's drawing is drawn in. */
export interface DrawingStyle {
  /** Six figures after #. */
  colour: string;
  weightMm: number;
}

const PLAIN: DrawingStyle = { colour: '#000000', weightMm: 0.25 };

const sheet = (
  { name, plate, bed: { widthMm: w, lengthMm: l } }: Jig,
  { colour, weightMm }: DrawingStyle,
  body: readonly string[]
): string =>
  [
    `<svg xmlns="http://www.w3.org/2000/svg" width="${w}mm" height="${l}mm" viewBox="0 0 ${w} ${l}" fill="none" stroke="${colour}" stroke-width="${weightMm}">`,
    `<title>${escaped(name)}</title>`,
    // A line on the edge itself would print half.
    `<rect x="${weightMm / 2}" y="${weightMm / 2}" width="${w - weightMm}" height="${l - weightMm}"/>`,
    ...(plate ? [`<rect x="${plate.x}" y="${plate.y}" width="${plate.widthMm}" height="${plate.lengthMm}"/>`] : []),
    ...body,
    '</svg>'
  ].join('\n');

/** The outlines of a jig and the numbers of its pockets as SVG at its size: to lay things in by, or to have it cut. Its front is at the top. */
export function jigDrawing(jig: Jig, style: DrawingStyle): string {
  const outline = outlineOf(jig.thing);
  const letterMm = Math.max(2, Math.min(12, Math.min(jig.thing.widthMm, jig.thing.heightMm) / 4));
  const pockets = pocketsOf(jig).filter(({ isOff }) => !isOff);
  return sheet(
    jig,
    style,
    pockets.map(({ x, y, turn, number }) => {
      const rings = outlineAt(jig.thing, { x, y, turn }, outline).flatMap((points) => polylinePath({ points, closed: true }));
      return `<path d="${pathData(rings)}"/><text x="${x.toFixed(2)}" y="${y.toFixed(2)}" font-family="sans-serif" font-size="${letterMm}" text-anchor="middle" dominant-baseline="central" fill="${style.colour}" stroke="none">${number}</text>`;
    })
  );
}

/** The marks that a photo of a jig's bed is measured by, as SVG at its size: printed on what the things are laid on. */
export function markDrawing(jig: Jig): string {
  const r = markDiameter(jig.bed) / 2;
  const ring = (r * (1 + RING_INNER)) / 2;
  const n = (mm: number) => mm.toFixed(3);
  return sheet(
    jig,
    PLAIN,
    markPlaces(jig.bed).map(
      ({ x, y }) =>
        `<circle cx="${n(x)}" cy="${n(y)}" r="${n(ring)}" stroke-width="${n(r * (1 - RING_INNER))}"/><circle cx="${n(x)}" cy="${n(y)}" r="${n(r * DOT)}" fill="#000000" stroke="none"/>`
    )
  );
}

const escaped = (text: string): string => text.replace(/[&<>"]/g, (sign) => `&#${sign.charCodeAt(0)};`);
