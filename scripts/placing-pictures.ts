import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Point } from '$core/geometry/matrix';
import { shapeAt, PLACING_RULES, type Item, type PlaceRule, type PlacingRule } from '$core/layout/placement';
import { placed } from '$core/layout/placing';
import { seededRandom } from '$core/geometry/random';

/** The drawings of docs/placing.md: the same dockets placed by every rule, as SVG. The folder is the first argument. */

const [folder = 'docs/placing'] = process.argv.slice(2);
const ROLL_MM = 1300;
const PX_A_MM = 0.16;

const RULE: PlaceRule = {
  placing: 'rows',
  gapX: 4,
  gapY: 4,
  margin: 5,
  lead: 10,
  tail: 20,
  align: 'left',
  single: false,
  fill: 'none',
  longest: null,
  turnStep: 90,
  effort: 'normal',
  steps: null
};

const disc = (r: number, at: number): Point[] =>
  Array.from({ length: 40 }, (_, i) => ({ x: at + r * Math.cos((i * Math.PI) / 20), y: at + r * Math.sin((i * Math.PI) / 20) }));
const star = (outer: number, inner: number): Point[] =>
  Array.from({ length: 10 }, (_, i) => {
    const r = i % 2 ? inner : outer;
    return { x: outer + r * Math.sin((i * Math.PI) / 5), y: outer - r * Math.cos((i * Math.PI) / 5) };
  });

function boards(): Item[] {
  const random = seededRandom(11);
  return Array.from({ length: 9 }, (_, i) => ({
    id: String(i),
    width: Math.round(90 + random() * 420),
    height: Math.round(90 + random() * 420),
    copies: 1 + Math.floor(random() * 5),
    mayTurn: true
  }));
}
const stickers: Item[] = [
  { id: '0', width: 190, height: 190, copies: 8, mayTurn: true, shape: [disc(95, 95), disc(66, 95)] },
  { id: '1', width: 150, height: 150, copies: 10, mayTurn: true, shape: [star(75, 38)] },
  { id: '2', width: 100, height: 100, copies: 14, mayTurn: true, shape: [disc(50, 50)] },
  {
    id: '3',
    width: 180,
    height: 200,
    copies: 10,
    mayTurn: true,
    shape: [
      [
        { x: 0, y: 0 },
        { x: 70, y: 0 },
        { x: 70, y: 130 },
        { x: 180, y: 130 },
        { x: 180, y: 200 },
        { x: 0, y: 200 }
      ]
    ]
  }
];

/** The roll lies on its side, as on the screen. */
function picture(name: string, placing: PlacingRule, items: Item[]): string {
  const layout = placed({ kind: 'roll', width: ROLL_MM }, { ...RULE, placing }, items, []);
  const byId = new Map(items.map((item) => [item.id, item]));
  const grey = (id: string) => `hsl(0 0% ${38 + ((Number(id) * 29) % 45)}%)`;
  let at = 0;
  const parts = layout.parts.map((part) => {
    const body = part.copies
      .map((copy) => {
        const rings = shapeAt(byId.get(copy.id)!, copy);
        const d = rings.map((ring) => `M${ring.map((p) => `${p.x.toFixed(1)} ${p.y.toFixed(1)}`).join('L')}Z`).join('');
        return `<path fill="${grey(copy.id)}" d="${d}"/>`;
      })
      .join('');
    const drawn = `<g transform="translate(0 ${at.toFixed(1)})"><rect width="${ROLL_MM}" height="${part.length.toFixed(1)}" fill="#fff" stroke="#999"/>${body}</g>`;
    at += part.length + 30;
    return drawn;
  });
  const [w, h] = [Math.ceil(at * PX_A_MM) + 2, Math.ceil(ROLL_MM * PX_A_MM) + 2];
  writeFileSync(
    join(folder, `${name}.svg`),
    `<svg xmlns="http://www.w3.org/2000/svg" width="${w}" height="${h}"><g fill-rule="evenodd" transform="matrix(0 ${-PX_A_MM} ${PX_A_MM} 0 1 ${h - 1})">${parts.join('')}</g></svg>\n`
  );
  const cuts = layout.cuts === null ? 'none' : String(layout.cuts);
  return `${name}\t${(layout.length / 1000).toFixed(2)} m\t${Math.round(layout.wasteShare * 100)} %\t${cuts}`;
}

mkdirSync(folder, { recursive: true });
for (const placing of PLACING_RULES)
  if (placing !== 'shapes' && placing !== 'hand') process.stdout.write(`${picture(placing, placing, boards())}\n`);
for (const placing of ['close', 'shapes'] as const)
  process.stdout.write(`${picture(`stickers-${placing}`, placing, stickers)}\n`);
