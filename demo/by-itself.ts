import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { WatchedFolder } from '$lib/arrivals';
import { IntakeWhen } from '$lib/intake-rules';
import { FIRST_PORT, NetworkPrinter } from '$lib/network-printer';
import { DEFAULT_CUT, type MadeLine } from '$core/artwork/cut-choices';
import type { Stack } from '$core/inks/stack';
import type { Shop } from '$lib/server/app/shop';

/** What comes by itself: recipes, a rule, two folders and a printer, and what was put into them this morning. */

const svg = (width: number, height: number, body: string): string =>
  `<svg xmlns="http://www.w3.org/2000/svg" width="${width}mm" height="${height}mm" viewBox="0 0 120 80">${body}</svg>`;
const KETTLE = '<path d="M30 66C18 40 34 22 60 22S102 40 90 66Z" fill="#2a7f9e"/><path d="M44 22C44 6 76 6 76 22" fill="none" stroke="#1d3d4c" stroke-width="5"/><path d="M90 40L112 28V36L93 54Z" fill="#2a7f9e"/><circle cx="60" cy="46" r="11" fill="#f4e7c8"/>'; // prettier-ignore
const SCONE = '<ellipse cx="60" cy="54" rx="46" ry="18" fill="#b3742a"/><path d="M22 50C22 22 98 22 98 50Z" fill="#d99b48"/><circle cx="48" cy="40" r="4" fill="#5b2f1a"/><circle cx="70" cy="36" r="4" fill="#5b2f1a"/><circle cx="60" cy="46" r="4" fill="#5b2f1a"/>'; // prettier-ignore
const FRONT = '<rect width="120" height="80" fill="#17406b"/><circle cx="60" cy="40" r="22" fill="#f2a413"/>';

const AT_THE_EDGE: MadeLine = {
  id: 'line-1',
  tool: 'kiss cut',
  from: { kind: 'found', how: 'opaque', threshold: 0.5, background: null, outline: '' },
  offsetMm: 2,
  corners: 'round',
  smoothMm: 0.1,
  holes: false,
  smallestMm2: 1,
  bridgeMm: 0
};

/** @param wait until something is so */
export async function comesByItself(
  shop: Shop,
  { gloss, glass, window }: { gloss: number; glass: number; window: Stack },
  wait: (look: () => boolean) => Promise<void>
): Promise<void> {
  const keep = (name: string, note: string, on: number | null, sets: Parameters<Shop['recipes']['add']>[0]['sets']) =>
    shop.recipes.add({ name, note, on, sets }).id;
  const stickers = keep('Stickers on gloss', 'Cut at their edge where the file says nothing', null, {
    bleed: { when: 'missing', mm: 3, from: 'mirror', colour: '#ffffff' },
    media: { is: 'condition', conditionId: gloss },
    mayTurn: true,
    cut: { when: 'missing', cut: true, lines: { ...DEFAULT_CUT, made: [AT_THE_EDGE] } }
  });
  keep('Stickers, urgent', '', stickers, { priority: 'high' });
  const panes = keep('Window, seen through glass', 'White behind the colour, printed mirrored', null, {
    part: { box: 'trim', crop: { left: 0, top: 0, right: 0, bottom: 0 }, turn: 0, mirror: true },
    media: { is: 'condition', conditionId: glass },
    layers: { stack: window }
  });
  shop.intake.changeRules(0, [{ when: IntakeWhen.parse({ customer: 'Tea Room on the Slip', mostMm: 400 }), recipeId: stickers }]);
  shop.networkPrinters.add(
    NetworkPrinter.parse({ name: 'Stickers on gloss', recipeId: stickers, way: 'lay out', port: FIRST_PORT })
  );
  const folder = (path: string, recipeId: number, way: WatchedFolder['way']) =>
    shop.watchedFolders.add(WatchedFolder.parse({ path, recipeId, way })).path;
  const counter = folder('Counter', stickers, 'make dockets');
  const windows = folder('Windows', panes, 'lay out');
  mkdirSync(join(counter, 'Tea Room on the Slip'));
  writeFileSync(join(counter, 'Tea Room on the Slip', 'Scones_8x.svg'), svg(120, 80, SCONE));
  writeFileSync(join(counter, 'Kettle_24x.svg'), svg(90, 60, KETTLE));
  writeFileSync(join(counter, 'Menu scan.pdf'), 'not a picture');
  writeFileSync(join(windows, 'Shopfront.svg'), svg(4200, 2800, FRONT));
  await wait(() => {
    const { done = 0, waiting = 0, refused = 0 } = shop.arrivalStore.counts();
    return done + waiting + refused === 4;
  });
}
