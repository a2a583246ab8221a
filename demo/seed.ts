import {
  berthMarker,
  buoyTagSvg,
  chandleryWindow,
  crewPass,
  flagBoard,
  gangwayHoarding,
  slipwayWall,
  gullSticker,
  harbourPicture,
  lanternPoster,
  menuBoard,
  netLoftPhoto,
  pierBanner,
  sailSticker,
  slipSign,
  windowSticker
} from './artwork';
import { burgees, CREW_RECORDS, crewList } from './crew';
import { comesByItself } from './by-itself';
import { climb, watch } from './climb';
import { Shop } from '$lib/server/app/shop';
import type { PrintMode } from '$core/media/modes';
import { ALL_MODES } from '$standins/printer/modes';
import { pageLine } from '$core/checks/cut-lines';
import type { MadeLine } from '$core/artwork/cut-choices';
import { readyStacks, withStack } from '$core/artwork/docket-stack';
import { newLayer } from '$core/inks/stack';
import { DEFAULT_POCKETS } from '$core/layout/in-pockets';
import { newWall } from '$core/panels/wall';
import { Jig, NEW_JIG } from '$core/layout/jig';
import { DEFAULT_EYELETS, NO_FINISHING } from '$core/marks/finishing';
import type { DocketChoices } from '$lib/docket-choices';
import type { RunRule } from '$lib/run-rule';

/**
 * Fills an empty data folder with a day's made-up work, or finds the stand-ins again in one that is filled.
 * Settings by environment: ZING_DATA, PRINTER_URL, WIDE_URL, FLATBED_URL, CUTTER_URL, INSTRUMENT_URL, LIBRARY_URL.
 */

const { ZING_DATA: folder, PRINTER_URL, WIDE_URL, FLATBED_URL, CUTTER_URL, INSTRUMENT_URL, LIBRARY_URL } = process.env;
if (!folder || !PRINTER_URL || !WIDE_URL || !FLATBED_URL || !CUTTER_URL || !INSTRUMENT_URL || !LIBRARY_URL)
  throw new Error('ZING_DATA and the addresses of the six stand-ins say what to fill.');
/** By the name of the machine. */
const urls: Record<string, string> = {
  'Petrel 13': PRINTER_URL,
  'Gannet 32': WIDE_URL,
  'Skua 25': FLATBED_URL,
  'Tern 130': CUTTER_URL,
  'Plover S2': INSTRUMENT_URL
};

const modeOf = (code: string) => ALL_MODES.find((mode) => mode.code === code) as PrintMode;
const modeFor = (family: string) => modeOf(`Petrel 13/Harbour/${family}/720/8/both ways/quality`);

async function settle(look: () => boolean, seconds = 120): Promise<void> {
  const end = Date.now() + seconds * 1000;
  while (!look()) {
    if (Date.now() > end) throw new Error('The demo data could not be made in time.');
    await new Promise((resolve) => setTimeout(resolve, 100));
  }
}

async function* bytesOf(content: Uint8Array | string): AsyncGenerator<Uint8Array> {
  yield await Promise.resolve(typeof content === 'string' ? Buffer.from(content) : content);
}

async function fill(shop: Shop): Promise<void> {
  shop.settings.change({ ...shop.settings.current, shopName: 'Gullway Signs', libraryUrl: LIBRARY_URL as string });
  const add = (kind: 'printer' | 'cutter' | 'instrument', name: string) => shop.machines.add(kind, name, urls[name] ?? '');
  const printer = add('printer', 'Petrel 13');
  const wide = add('printer', 'Gannet 32');
  const flatbed = add('printer', 'Skua 25');
  add('cutter', 'Tern 130');
  add('instrument', 'Plover S2');
  shop.start();
  await shop.machines.lookNow();
  // White is dearer than colours, and varnish is not.
  shop.machines.setInkPrices(flatbed, { 'White 1': 0.26, 'White 2': 0.26, Varnish: 0.1 });
  shop.modes.take(ALL_MODES);
  for (const id of ['shoal-white', 'lee-banner', 'fathom-gloss', 'ebb-photo', 'halyard-flag']) await shop.library.take(id);
  const glossFilm = shop.media.addNew({
    name: 'Gloss white film',
    maker: 'Fathom Films',
    costPerM2: 6.4,
    note: 'The usual for stickers and boards.',
    rolls: [
      { widthMm: 1300, lengthMm: 50_000, batch: 'FF 2231' },
      { widthMm: 1370, lengthMm: 12_400 }
    ]
  });
  const mattBanner = shop.media.addNew({
    name: 'Matt banner',
    maker: 'Lee Shore',
    family: 'banner',
    surface: 'matt',
    thicknessMm: 0.45,
    costPerM2: 3.9,
    rolls: [{ widthMm: 1300, lengthMm: 30_000 }]
  });
  const pierCloth = shop.media.addNew({
    name: 'Pier cloth',
    maker: 'Lee Shore',
    family: 'banner',
    surface: 'matt',
    widthMm: 2600,
    thicknessMm: 0.5,
    costPerM2: 4.2,
    black: 'matt',
    note: 'Wide banner, hemmed and eyeletted in the loft.',
    rolls: [{ widthMm: 3200, lengthMm: 50_000 }]
  });
  const board = shop.media.addNew({
    name: 'Skerry board 5',
    maker: 'Skerry',
    family: 'rigid',
    surface: 'matt',
    widthMm: 2000,
    thicknessMm: 5,
    costPerM2: 11.5,
    note: 'Foamed board for menus and berth signs.',
    sheets: [
      { widthMm: 2440, heightMm: 1220, count: 12 },
      { widthMm: 2000, heightMm: 1000, count: 30 }
    ]
  });
  const window = shop.media.addNew({
    name: 'Clear window film',
    maker: 'Fathom Films',
    family: 'cast',
    widthMm: 1400,
    thicknessMm: 0.1,
    costPerM2: 8.2,
    body: 'clear',
    printedSide: 'back',
    note: 'Printed on its back, and read through the glass.',
    sheets: [{ widthMm: 1400, heightMm: 1000, count: 20 }]
  });
  const tarred = shop.media.addNew({
    name: 'Tarred board 3',
    maker: 'Skerry',
    family: 'rigid',
    surface: 'matt',
    widthMm: 2000,
    thicknessMm: 3,
    costPerM2: 14,
    body: 'dark',
    colour: '#1d1e22',
    note: 'Black through and through.',
    sheets: [{ widthMm: 2000, heightMm: 1000, count: 16 }]
  });
  shop.media.addNew({
    name: 'Brushed buoy sheet',
    maker: 'Skerry',
    family: 'rigid',
    surface: 'satin',
    widthMm: 1250,
    thicknessMm: 1.5,
    costPerM2: 38,
    colour: '#cdb980',
    primer: true,
    note: 'Looks like brass. Ink holds on primer alone.',
    sheets: [{ widthMm: 1250, heightMm: 2500, count: 5 }]
  });
  shop.media.addNew({
    name: 'Deckglass 6',
    maker: 'Skerry',
    family: 'rigid',
    surface: 'gloss',
    widthMm: 2050,
    thicknessMm: 6,
    costPerM2: 46,
    body: 'clear',
    printedSide: 'back',
    primer: true,
    note: 'Clear sheet for signs that stand off a wall.',
    sheets: [{ widthMm: 2050, heightMm: 1520, count: 6 }]
  });
  const gloss = shop.conditionEditing.add(printer, glossFilm.id, modeFor('calendered'));
  const matt = shop.conditionEditing.add(printer, mattBanner.id, modeFor('banner'));
  const cloth = shop.conditionEditing.add(
    wide,
    pierCloth.id,
    modeOf('Gannet 32/Estuary with matt black/banner/540/6/both ways/quality')
  );
  const bed = shop.conditionEditing.add(flatbed, board.id, modeOf('Skua 25/Skerry/rigid/540/8/both ways/quality'));
  const glass = shop.conditionEditing.add(flatbed, window.id, modeOf('Skua 25/Skerry/cast/540/8/both ways/quality'));
  const dark = shop.conditionEditing.add(flatbed, tarred.id, modeOf('Skua 25/Skerry/rigid/540/8/both ways/quality'));
  const film = shop.conditionEditing.add(printer, shop.media.named('Fathom gloss cast')?.id ?? 0, modeFor('cast'));
  const photo = shop.conditionEditing.add(printer, shop.media.named('Ebb photo satin 220')?.id ?? 0, modeFor('paper'));
  for (const code of [modeFor('calendered').code, modeFor('banner').code]) shop.modes.pin(code, true);
  // One is climbed to the top, one half-way, one only begun.
  await climb(shop, matt, 'linear', 0);
  await climb(shop, gloss, 'verify', 900);
  await watch(shop, gloss);

  const files: [string, () => Promise<Uint8Array> | string][] = [
    ['Berth marker 9.pdf', () => berthMarker(9)],
    ['Berth marker 14.pdf', () => berthMarker(14)],
    ['Sail sticker regatta.pdf', sailSticker],
    ['Chandlery window.pdf', chandleryWindow],
    ['Tea room menu.pdf', menuBoard],
    ['Gangway hoarding.pdf', gangwayHoarding],
    ['Pier banner.pdf', pierBanner],
    ['Buoy tag B41.svg', buoyTagSvg],
    ['Lantern night.pdf', lanternPoster],
    ['Gull.png', gullSticker],
    ['Door sticker.pdf', windowSticker],
    ['The Slip.pdf', slipSign],
    ['Harbour evening.jpg', () => harbourPicture(3000, 1400)],
    ['Crew pass.pdf', crewPass],
    ['Slipway wall.pdf', slipwayWall],
    ['Flag board.pdf', flagBoard],
    ['Net loft.jpg', netLoftPhoto],
    ['Invoice scan.dat', () => 'not a picture']
  ];
  const ids: Record<string, number> = {};
  for (const [name, make] of files) ids[name] = (await shop.artworks.take(name, bytesOf(await make()))).id;
  await settle(() => !shop.artworks.isReading() && shop.conditions.list().every((c) => c.hasProfile));

  const docket = (file: string, customer: string, over: Partial<DocketChoices>) =>
    shop.dockets.add(ids[file] ?? 0, 0, { conditionId: gloss, ...over }, customer);
  const berth9 = docket('Berth marker 9.pdf', 'Harbour office', { copies: 24 });
  const berth14 = docket('Berth marker 14.pdf', 'Harbour office', { copies: 16 });
  const sail = docket('Sail sticker regatta.pdf', 'Regatta committee', { copies: 61 });
  const chandlery = docket('Chandlery window.pdf', 'Gullway Chandlery', {});
  const menus = docket('Tea room menu.pdf', 'Tea Room on the Slip', { conditionId: bed, copies: 8 });
  const hoarding = docket('Gangway hoarding.pdf', 'Ferry company', { conditionId: cloth, copies: 5 });
  const banner = docket('Pier banner.pdf', 'Regatta committee', {
    conditionId: cloth,
    mayTurn: true,
    finishing: {
      ...NO_FINISHING,
      hem: 30,
      eyelets: { ...DEFAULT_EYELETS, spacing: 400 },
      caption: true,
      ink: 'black'
    }
  });
  const stack = (name: string) => readyStacks({}).find((ready) => ready.name === name)!.stack;
  const sticker = docket('Door sticker.pdf', 'Gullway Chandlery', {
    conditionId: glass,
    copies: 4,
    ...withStack(stack('Colour under white'))
  });
  const sign = docket('The Slip.pdf', 'Tea Room on the Slip', {
    conditionId: dark,
    copies: 2,
    stack: { seen: 'front', layers: [...stack('White under colour').layers, newLayer(4, 'varnish', { cover: { is: 'marked' } })] }
  });
  docket('Buoy tag B41.svg', 'Gullway Moorings', { copies: 12 });
  const tags = docket('Buoy tag B41.svg', 'Gullway Moorings', { conditionId: bed, copies: 18 });
  const spare = docket('Berth marker 9.pdf', 'Harbour office', { conditionId: bed, copies: 11, cut: false });
  docket('Lantern night.pdf', 'Regatta committee', { copies: 3 });
  const boards = docket('Berth marker 14.pdf', 'Harbour office', { conditionId: bed, copies: 130 });
  const evening = docket('Harbour evening.jpg', 'Ferry company', { conditionId: cloth, copies: 7, widthMm: 1500, heightMm: 700 });
  // Its contour is traced from its pixels, 2 mm outside, with a through cut around it.
  const gull = docket('Gull.png', 'Gullway Chandlery', {
    conditionId: film,
    copies: 150,
    bleedMm: 4,
    bleedFrom: 'colour',
    cut: true
  });
  const outline = await shop.pictures.trace(gull.id, 'opaque', 0.5, null);
  const around: MadeLine = {
    ...pageLine(),
    id: 'line-1',
    from: { kind: 'found', how: 'opaque', threshold: 0.5, background: null, outline },
    offsetMm: 2,
    holes: false,
    smallestMm2: 30,
    bridgeMm: 4
  };
  const { choices } = gull;
  shop.docketEditing.change(gull.id, gull.version, {
    note: 'One contour, the splash bridged on.',
    dueOn: '2027-08-20',
    choices: { ...choices, lines: { ...choices.lines, made: [around] } }
  });

  // Passes for the crews, each with a name and a code of its own.
  const passes = docket('Crew pass.pdf', 'Regatta committee', { conditionId: photo, cut: true, records: CREW_RECORDS });
  const listed = await shop.docketRecords.take(passes.id, passes.version, {
    bytes: new TextEncoder().encode(crewList()),
    name: 'crews, final (2).csv',
    how: {},
    key: undefined
  });
  await shop.docketRecords.takePictures(passes.id, listed.docket.version, bytesOf(await burgees()), 'burgees.zip');
  shop.layingOut.add([passes.id]);

  // The port's colours by name; one of the board's flags has a letter wrong, and one is nobody's.
  for (const [name, lab, others, from] of [
    ['Ferry Red', [45, 54, 33], ['Lifebelt red'], 'Ferry company'],
    ['Lantern Amber', [74, 26, 78], [], 'Regatta committee'],
    ['Kelp Green', [38, -32, 18], [], 'Gullway Moorings'],
    ['Harbour Navy', [24, 4, -32], ['Quay navy'], 'Harbour office'],
    ['Slip Cream', [90, 2, 14], [], 'Tea Room on the Slip'],
    ['Beacon Orange', [62, 58, 82], [], 'Harbour office'],
    ['Brass Buoy', [62, 8, 42], [], 'Gullway Moorings'],
    ['Foam', [93, -3, -3], [], 'Ferry company'],
    ['Deep Channel', [32, 18, -62], [], 'Harbour office'],
    ['Tar', [18, 0, 1], [], 'Gullway Moorings']
  ] as const)
    shop.colours.add({ name, lab: [...lab], others: [...others], collection: 'Port colours', from, note: '' });
  docket('Flag board.pdf', 'Regatta committee', {});

  // Brass-look tags lie in a jig on the bed; one pocket was milled a little off, one holds nothing.
  const tagJig = shop.jigs.add(
    Jig.parse({
      ...NEW_JIG,
      name: 'Buoy tags, 6 × 4',
      note: 'Birch plate with a stop at the front left; tags face up, hole away from the front.',
      bed: { widthMm: 2000, lengthMm: 1000 },
      thing: { widthMm: 60, heightMm: 100, outline: { kind: 'rectangle', radiusMm: 8 } },
      columns: 6,
      rows: 4,
      gapX: 12,
      gapY: 15,
      linked: false,
      plate: { x: 130, y: 90, widthMm: 460, lengthMm: 485 },
      thicknessMm: 1.5,
      startX: 150,
      startY: 110,
      nudges: { '4.2': { dx: 0.6, dy: -0.4, turn: 0 } },
      off: ['6.4']
    })
  );

  // A roll of prints waits for the cutter, one run is RIPped, one is being laid out.
  const printed = shop.layingOut.add([berth9.id])[0]!;
  await shop.tasks.ended((await shop.ripping.rip(printed)).id);
  const prints = await shop.printing.start(printed, printer, 2);
  await settle(() => prints.every((print) => shop.prints.get(print.id).endedAt !== null));
  const others = shop.layingOut.add([berth14.id])[0]!;
  await shop.tasks.ended((await shop.ripping.rip(others)).id);
  prints.push(...(await shop.printing.start(others, printer, 1)));
  await settle(() => prints.every((print) => shop.prints.get(print.id).endedAt !== null));
  const ready = shop.layingOut.add([sail.id, chandlery.id])[0]!;
  await shop.tasks.ended((await shop.ripping.rip(ready)).id);

  // Seen through glass, and on black.
  const [onGlass] = shop.layingOut.add([sticker.id]);
  const [onTarred] = shop.layingOut.add([sign.id]);
  for (const id of [onGlass!, onTarred!]) await shop.tasks.ended((await shop.ripping.rip(id)).id);

  // The last weeks' prints, for the costs: what was printed today lies some days back.
  const ended = shop.db.prepare<[], { id: number }>('SELECT id FROM print ORDER BY id').all();
  const back = shop.db.prepare('UPDATE print SET ended_at = ended_at - ? WHERE id = ?');
  ended.forEach(({ id }, i) => back.run(((ended.length - 1 - i) * 2 + (i % 2)) * 86_400_000, id));

  // Every lane has something that waits: interlocking rectangles, true shape, sheets.
  const [onCloth] = shop.layingOut.add([hoarding.id, banner.id, evening.id]);
  const [onBoard] = shop.layingOut.add([menus.id, boards.id]);
  const place = (id: number, rule: Partial<RunRule>) => {
    const run = shop.runs.get(id);
    shop.runEditing.change(id, run.version, { rule: { ...run.rule, ...rule } });
  };
  const [onFilm] = shop.layingOut.add([gull.id]);
  place(onFilm!, { placing: 'shapes', gapX: 3, gapY: 3 });
  place(onCloth!, { placing: 'close' });
  place(onBoard!, { placing: 'straight', gapX: 6, gapY: 6 });
  // Tags lie in their jig: one load and a part of a second.
  const inJig = shop.runs.create(shop.lanes.ensure(bed), bed, {
    ...shop.runs.get(onBoard!).rule,
    placing: 'rows',
    jig: tagJig.id,
    pockets: { ...DEFAULT_POCKETS, size: 'fit' }
  });
  shop.runEditing.change(inJig, shop.runs.get(inJig).version, { docketIds: [tags.id, spare.id] });

  // Of cast film there are three widths.
  const cast = shop.media.named('Fathom gloss cast')!;
  const rolls = [[1370, 42_000, 'FC 118'], [1370, 18_500, 'FC 104'], [1220, 50_000, 'FC 118'], [1060, 26_000, 'FC 97']] as const; // prettier-ignore
  shop.media.stock(cast.id, {
    rolls: rolls.map(([widthMm, lengthMm, batch]) => ({ widthMm, lengthMm, batch })),
    sheets: cast.card.sheets
  });

  // A wall in panels, with the door of a net loft in it, and a photo of where it hangs.
  const wall = newWall();
  docket('Slipway wall.pdf', 'Regatta committee', {
    conditionId: film,
    widthMm: 9000,
    heightMm: 2600,
    bleedMm: 20,
    bleedFrom: 'page',
    cut: false,
    wall: {
      ...wall,
      openings: [
        { name: 'Door', x: 6420, y: 560, width: 960, height: 2040, shape: 'rectangle', outline: [], leftOut: true },
        { name: 'Porthole', x: 2260, y: 620, width: 460, height: 460, shape: 'round', outline: [], leftOut: false }
      ],
      photo: {
        artworkId: ids['Net loft.jpg'] ?? 0,
        aspect: 1100 / 2400,
        points: [
          { u: 300 / 2400, v: 940 / 1100, x: 0, y: 2600 },
          { u: 2100 / 2400, v: 940 / 1100, x: 9000, y: 2600 }
        ]
      }
    }
  });
  await comesByItself(shop, { gloss, glass, window: stack('Colour under white') }, settle);
}

const shop = new Shop(folder);
const machines = shop.machines.rows();
if (machines.length === 0) {
  process.stdout.write('Making the demo data: charts, profiles, artwork, a printed run. This takes about two minutes.\n');
  await fill(shop);
} else {
  for (const machine of machines) shop.machines.moveTo(machine.id, urls[machine.name] ?? machine.url);
  shop.settings.change({ ...shop.settings.current, libraryUrl: LIBRARY_URL });
}
await shop.close();
