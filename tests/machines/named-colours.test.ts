import { readFileSync } from 'node:fs';
import { gunzipSync } from 'node:zlib';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { straightTone, type Tone } from '$core/colour/tone';
import { NO_ADJUSTMENT } from '$core/colour/adjustment';
import { deltaE00, labOfRgb, xyzToLab, type Triple } from '$core/colour/lab';
import type { NamedColour } from '$core/colour/named-colour';
import type { Inks } from '$core/colour/separation';
import type { Point } from '$core/geometry/matrix';
import { search } from '$lib/server/app/search';
import { Shop } from '$lib/server/app/shop';
import type { ColourOn } from '$lib/named-colours';
import { variantsOf } from '$lib/variants';
import { oneChunk, startStandIn, temporaryFolder, until, USUAL_MODE, type StandIn } from '../harness';
import { smallPage } from '../made/small-page';

/** Named colours in a shop with machines: from a file's spot colour to what is measured of its print. */

let printer: StandIn;
let instrument: StandIn;
let shop: Shop;
let condition: number;
const folder = temporaryFolder();

const FERRY: Triple = [52, 38, 18];
const colour = (name: string, lab: Triple, over: Partial<NamedColour> = {}): NamedColour => ({
  name,
  lab,
  others: [],
  collection: '',
  from: '',
  note: '',
  ...over
});
/** A page whose finished size is filled with a spot colour that the file shows as a green. */
const spotPage = (name: string) =>
  smallPage(
    '/S cs 1 scn 0 0 20 20 re f',
    `/ColorSpace<</S [/Separation /${name.replaceAll(' ', '#20')} /DeviceCMYK <</FunctionType 2/Domain[0 1]/C0[0 0 0 0]/C1[0.8 0 1 0]/N 1>>]>>`
  );

beforeAll(async () => {
  [printer, instrument] = await Promise.all([startStandIn('printer'), startStandIn('instrument', { SEED: '5' })]);
  shop = new Shop(folder.path);
  const machine = shop.machines.add('printer', 'Petrel 13', printer.url);
  shop.machines.add('instrument', 'Plover S2', instrument.url);
  await shop.machines.lookNow();
  const media = shop.media.addNew({ name: 'Gloss white film', thicknessMm: 0.08 }).id;
  shop.start();
  condition = shop.conditionEditing.add(machine, media, USUAL_MODE);
  await until(() => shop.conditions.get(condition).hasProfile);
});
afterAll(async () => {
  await shop.close();
  for (const one of [printer, instrument]) one.stop();
  folder.remove();
});

const on = async (id: number): Promise<ColourOn> =>
  (await shop.colourInks.on(id)).find(({ conditionId }) => conditionId === condition)!;

async function docketOf(name: string) {
  const artwork = await shop.artworks.take(`${name}.pdf`, oneChunk(spotPage(name)));
  await until(() => shop.artworks.get(artwork.id).state === 'ready');
  const docket = shop.dockets.add(artwork.id, 0);
  return shop.docketEditing.change(docket.id, docket.version, {
    choices: { ...docket.choices, conditionId: condition, bleedMm: 0, cut: false }
  });
}

/** Prints the run of a docket. @returns what lies in the middle of its first copy, L*a*b* */
async function printed(docketId: number): Promise<Triple> {
  shop.layingOut.add([docketId]);
  const runId = shop.dockets.get(docketId).runId!;
  await shop.ripping.rip(runId);
  await until(() => shop.runs.get(runId).state === 'ripped');
  const [print] = await shop.printing.start(runId, shop.runs.get(runId).condition.machineId, 1);
  await until(() => shop.prints.get(print!.id).state === 'done');
  const { x, y } = shop.runs.frozen(runId).plan.pieces[0]!;
  return (await seenOn(print!.id, [{ x: x + 10, y: y + 10 }]))[0]!;
}

/** What lies at places of a print, L*a*b*. */
async function seenOn(printId: number, places: Point[]): Promise<Triple[]> {
  const { job } = shop.prints.row(printId);
  const reply = await fetch(`${printer.url}/output/${job}/look`, {
    method: 'POST',
    body: JSON.stringify({ apertureMm: 4, places })
  });
  return ((await reply.json()) as Triple[]).map((xyz) => xyzToLab(xyz));
}

async function read(chartId: number): Promise<void> {
  await until(() => shop.charts.get(chartId).state === 'ready');
  await shop.chartMaking.print(chartId);
  const chart = await until(() => (shop.charts.get(chartId).printId !== null ? shop.charts.get(chartId) : undefined));
  for (let strip = 0; strip < chart.layout.strips; strip++) await shop.chartReading.read(chartId, strip);
}

describe('the shop’s colours', () => {
  it('are found by any way of writing their name, and near ones are proposed', () => {
    const ferry = shop.colours.add(colour('Ferry Red', FERRY, { others: ['Lifebelt'] }));
    for (const name of ['ferry red', 'FERRY-RED coated', 'Ferry_Red Uncoated', 'lifebelt'])
      expect(shop.colours.match(name).colour?.id).toBe(ferry.id);
    const near = shop.colours.match('Fery Red');
    expect(near.colour).toBeNull();
    expect(near.near.map(({ name }) => name)).toEqual(['Ferry Red']);
    expect(shop.colours.match('Harbour blue')).toMatchObject({ colour: null, near: [] });
  });

  it('have each name once: another of the same is told which one has it', () => {
    expect(() => shop.colours.add(colour('ferry-red', [1, 2, 3]))).toThrow(/has Ferry Red already/);
    expect(() => shop.colours.add(colour('Other', [1, 2, 3], { others: ['LIFE BELT'] }))).toThrow(/has Ferry Red already/);
    expect(shop.colours.match('Other').colour).toBeNull();
  });

  it('of one name with two endings are told apart, and without an ending none is taken', () => {
    const [coated, other] = [
      shop.colours.add(colour('Kelp coated', [40, -30, 20])),
      shop.colours.add(colour('Kelp uncoated', [45, -25, 18]))
    ];
    expect(shop.colours.match('KELP COATED').colour?.id).toBe(coated.id);
    expect(shop.colours.match('kelp uncoated').colour?.id).toBe(other.id);
    expect(shop.colours.match('Kelp')).toMatchObject({
      colour: null,
      near: [{ name: 'Kelp coated' }, { name: 'Kelp uncoated' }]
    });
  });

  it('that are deleted can be brought back, unless their name was taken', () => {
    const dusk = shop.colours.add(colour('Dusk', [30, 10, -30]));
    expect(shop.colours.remove([dusk.id])).toBe(1);
    expect(shop.colours.match('Dusk').colour).toBeNull();
    expect(() => shop.colours.get(dusk.id)).toThrow(/no such colour/);
    shop.colours.bringBack([dusk.id]);
    expect(shop.colours.match('dusk').colour?.id).toBe(dusk.id);
    shop.colours.remove([dusk.id]);
    const again = shop.colours.add(colour('Dusk', [31, 10, -30]));
    expect(() => shop.colours.bringBack([dusk.id])).toThrow(/has Dusk already/);
    expect(shop.colours.match('dusk').colour?.id).toBe(again.id);
  });

  it('are not changed by one who saw them as they were before', () => {
    const line = shop.colours.get(shop.colours.match('Dusk').colour!.id);
    shop.colours.change(line.id, line.version, colour('Dusk', [33, 10, -30]));
    expect(() => shop.colours.change(line.id, line.version, colour('Dusk', [20, 0, 0]))).toThrow(/changed by somebody else/);
    expect(shop.colours.get(line.id).lab).toEqual([33, 10, -30]);
  });
});

describe('files of colours', () => {
  const bytes = (text: string) => new TextEncoder().encode(text);
  it('are looked at before they are taken: what has two colours is asked about', async () => {
    const csv =
      'Name,L*,a*,b*,Collection\nQuay grey,60,0,1,Pier\nFerry red,50,50,20,Pier\nDusk,33,10,-30,Pier\nBeam,80,0,70,Pier\nbeam,70,5,75,Pier';
    const look = await shop.colourFiles.look(bytes(csv));
    expect(look).toMatchObject({ kind: 'CSV', fresh: 1, same: 1, refused: [] });
    expect(look.twice.map(({ plain, choices }) => [plain, choices.map(({ where }) => where)])).toEqual([
      ['ferryred', ['here', 'file']],
      ['beam', ['file', 'file']]
    ]);
    expect(await shop.colourFiles.take({ hash: look.hash, chosen: { beam: 1 }, collection: '' })).toBe(2);
    expect(shop.colours.match('Beam').colour?.lab).toEqual([70, 5, 75]);
    expect(shop.colours.match('Ferry red').colour?.lab).toEqual(FERRY);
    expect(await shop.colourFiles.take({ hash: look.hash, chosen: { ferryred: 1 }, collection: '' })).toBe(1);
    expect(shop.colours.match('Ferry red').colour?.lab).toEqual([50, 50, 20]);
    const ferry = shop.colours.get(shop.colours.match('Ferry red').colour!.id);
    shop.colours.change(ferry.id, ferry.version, { ...ferry, lab: FERRY });
  });

  it('come back as they were written', async () => {
    for (const format of ['csv', 'cxf'] as const) {
      const look = await shop.colourFiles.look(bytes(shop.colourFiles.write(format)));
      expect(look).toMatchObject({ fresh: 0, twice: [], refused: [] });
      expect(look.same).toBe(shop.colours.all().length);
    }
  });

  it('that are none, or hostile, are refused in a sentence', async () => {
    await expect(shop.colourFiles.look(bytes('<!DOCTYPE a [<!ENTITY b "c">]><a>&b;</a>'))).rejects.toThrow(/document type/);
    await expect(shop.colourFiles.look(Uint8Array.from([0, 1, 2, 3]))).rejects.toThrow(/not text/);
    await expect(shop.colourFiles.take({ hash: '0'.repeat(64), chosen: {}, collection: '' })).rejects.toThrow(
      /Choose the file again/
    );
  });

  it('of fifty thousand names are taken, and a name among them is found at once', async () => {
    const rows = Array.from(
      { length: 50_000 },
      (_, i) => `Series ${i} ${'abcdefghij'[i % 10]},${i % 100},${(i % 81) - 40},${(i % 61) - 30}`
    );
    const look = await shop.colourFiles.look(bytes(['Name;L*;a*;b*'.replaceAll(';', ','), ...rows].join('\n')));
    expect(look.fresh).toBe(50_000);
    await shop.colourFiles.take({ hash: look.hash, chosen: {}, collection: 'Series' });
    expect(shop.colours.match('series 49999 j').colour?.name).toBe('Series 49999 j');
    expect(shop.colours.match('Fery Red').near[0]?.name).toBe('Ferry Red');
    expect(shop.colours.list({ words: '49999', sort: 'name', down: false, facets: {} }, 0).count).toBe(1);
  });
});

describe('a docket whose file has a spot colour that the shop knows', () => {
  it('prints it in that colour, whatever the file shows; another name prints as the file has it', async () => {
    const ferry = shop.colours.match('Ferry Red').colour!;
    const docket = await docketOf('Ferry Red Coated');
    expect(shop.preparedDockets.get(docket).preparation.named?.spots).toEqual({
      'Ferry Red Coated': { id: ferry.id, lab: FERRY }
    });
    const came = await printed(docket.id);
    const { made } = await on(ferry.id);
    // What the machine says of itself is not the truth, but it is no green.
    expect(deltaE00(came, FERRY)).toBeLessThan(8);
    expect(made!.deltaE).toBeLessThan(0.5);
    const unknown = await docketOf('Unheard of');
    expect(shop.preparedDockets.get(unknown).preparation.named).toBeUndefined();
  });

  it('makes its plates old when the colour is changed, and new ones are of the new colour', async () => {
    const docket = await docketOf('Ferry Red spot');
    shop.layingOut.add([docket.id]);
    const runId = shop.dockets.get(docket.id).runId!;
    await shop.ripping.rip(runId);
    await until(() => shop.runs.get(runId).state === 'ripped');
    expect(shop.runs.get(runId).stale).toBe(false);
    const ferry = shop.colours.get(shop.colours.match('Ferry Red').colour!.id);
    shop.colours.change(ferry.id, ferry.version, { ...ferry, lab: [40, 40, 10] });
    expect(shop.runs.get(runId).stale).toBe(true);
    expect(shop.preparedDockets.get(shop.dockets.get(docket.id)).preparation.named?.spots['Ferry Red spot']?.lab).toEqual([
      40, 40, 10
    ]);
    const now = shop.colours.get(ferry.id);
    shop.colours.change(ferry.id, now.version, { ...now, lab: FERRY });
    expect(shop.runs.get(runId).stale).toBe(false);
  });

  it('prints as the file has it where the docket says so, or in another of the shop’s', async () => {
    const docket = await docketOf('Ferry Red gloss');
    const beam = shop.colours.add(colour('Lamp', [85, 0, 60]));
    const withChange = (to: number | null) =>
      shop.preparedDockets.get({
        ...docket,
        version: docket.version + (to ?? 0) + 1,
        choices: { ...docket.choices, colours: [{ what: { spot: 'Ferry Red gloss' }, to }] }
      }).preparation.named;
    expect(withChange(null)).toBeUndefined();
    expect(withChange(beam.id)?.spots['Ferry Red gloss']).toEqual({ id: beam.id, lab: beam.lab });
  });
});

describe('a colour that is corrected by measuring', () => {
  it('comes nearer with each round, and prints with what was found', async () => {
    const ferry = shop.colours.match('Ferry Red').colour!;
    // A machine that is not what it says of itself.
    await fetch(`${printer.url}/unit`, {
      method: 'POST',
      body: JSON.stringify({ gain: [1.1, 0.9, 1.12, 1], strength: [1, 0.95, 1, 1] })
    });
    for (let round = 0; round < 3; round++) {
      const chart = await shop.colourInks.chart(ferry.id, condition, 'colour');
      await expect(shop.colourInks.correct(ferry.id, chart.id)).rejects.toThrow(/are not read yet/);
      await read(chart.id);
      await shop.colourInks.correct(ferry.id, chart.id);
      await expect(shop.colourInks.correct(ferry.id, chart.id)).rejects.toThrow(/taken already/);
    }
    const { own } = await on(ferry.id);
    expect(own).toMatchObject({ how: 'measured', old: false });
    const [first, , last] = own!.rounds;
    expect(first!.deltaE).toBeGreaterThan(1);
    expect(last!.deltaE).toBeLessThan(0.5);
    const docket = await docketOf('Ferry Red matt');
    expect(deltaE00(await printed(docket.id), FERRY)).toBeLessThan(0.8);
  });

  it('has the inks that are given by hand, and those of the profile again', async () => {
    const ferry = shop.colours.match('Ferry Red').colour!;
    const inks: Inks = [0.1, 0.8, 0.6, 0];
    shop.colourInks.byHand(ferry.id, condition, inks);
    const byHand = await on(ferry.id);
    expect(byHand.own?.how).toBe('by hand');
    byHand.made!.inks.forEach((v, i) => expect(v).toBeCloseTo(inks[i]!, 2));
    shop.colourInks.byHand(ferry.id, condition, [1, 1, 1, 1]);
    expect((await on(ferry.id)).made).toMatchObject({ isOver: true });
    shop.colourInks.byHand(ferry.id, condition, null);
    expect((await on(ferry.id)).own).toBeNull();
  });

  it('is chosen on a sheet of its neighbours by a code, for the condition or for all', async () => {
    const ferry = shop.colours.match('Ferry Red').colour!;
    const sheet = await shop.colourInks.chart(ferry.id, condition, 'neighbours');
    expect(sheet.layout.patches).toHaveLength(75);
    expect(() => shop.colourInks.pick(ferry.id, sheet.id, 'Z9', 'condition')).toThrow(/is on no patch/);
    shop.colourInks.pick(ferry.id, sheet.id, ' b24', 'condition');
    const patch = sheet.layout.patches.find(({ id }) => id === 'B24')!;
    expect((await on(ferry.id)).made!.inks).toEqual(patch.inks);
    shop.colourInks.byHand(ferry.id, condition, null);
    shop.colourInks.pick(ferry.id, sheet.id, 'A33', 'colour');
    const [l, a, b] = shop.colours.get(ferry.id).lab;
    expect(l).toBeGreaterThan(FERRY[0] + 1);
    expect([a, b]).toEqual([expect.closeTo(FERRY[1], 6), expect.closeTo(FERRY[2], 6)]);
  });

  it('is measured from a sample that lies under the instrument', async () => {
    await fetch(`${instrument.url}/sample`, { method: 'PUT', body: JSON.stringify({ lab: [71, -20, 33] }) });
    expect(deltaE00(await shop.colourInks.sample(), [71, -20, 33])).toBeLessThan(0.5);
  });
});

describe('a strip of variants', () => {
  it('is a part of the artwork in each variant, printed as it was asked for, with a letter under each', async () => {
    const docket = await docketOf('Plain names');
    const strip = shop.variantStrips.make(docket.id, {
      part: { x: 5, y: 5, width: 10, height: 10 },
      variants: variantsOf('brightness', 3, docket.choices)
    });
    expect(shop.charts.ofDocket(docket.id)?.id).toBe(strip.id);
    expect(strip.variants.map(({ words }) => words)).toEqual(['brightness −35', 'brightness 0', 'brightness +35']);
    await until(() => shop.charts.get(strip.id).state === 'ready');
    await shop.chartMaking.print(strip.id);
    const { printId } = await until(() => (shop.charts.get(strip.id).printId !== null ? shop.charts.get(strip.id) : undefined));
    const { pieces } = shop.runs.frozen(strip.runId).plan;
    const labs = await seenOn(
      printId!,
      pieces.map(({ x, y }) => ({ x: x + 5, y: y + 5 }))
    );
    expect(labs[1]![0] - labs[0]![0]).toBeGreaterThan(2.5);
    expect(labs[2]![0] - labs[1]![0]).toBeGreaterThan(2.5);
  });

  it('lays each halftone in rows of its own', async () => {
    const docket = await docketOf('Plainer names');
    const strip = shop.variantStrips.make(docket.id, {
      part: { x: 5, y: 5, width: 10, height: 10 },
      variants: variantsOf('halftones', 2, docket.choices)
    });
    await until(() => shop.charts.get(strip.id).state === 'ready');
    const { method, plan } = shop.runs.frozen(strip.runId);
    const [first, second] = plan.pieces;
    expect(second!.y).toBeGreaterThan(first!.y + 10);
    const dpi = shop.conditions.get(condition).mode.dpi;
    expect(method).toEqual([
      { fromRow: 0, method: 'blue-noise' },
      { fromRow: Math.round((second!.y / 25.4) * dpi), method: 'error-diffusion' }
    ]);
    // Of other drops, the same tone.
    await shop.chartMaking.print(strip.id);
    const { printId } = await until(() => (shop.charts.get(strip.id).printId !== null ? shop.charts.get(strip.id) : undefined));
    const [noise, diffused] = await seenOn(
      printId!,
      [first!, second!].map(({ x, y }) => ({ x: x + 5, y: y + 5 }))
    );
    expect(deltaE00(noise!, diffused!)).toBeLessThan(1);
    expect(noise![1]).toBeLessThan(-20);
  });

  it('is refused where the part is not on the docket, or too wide for the media', async () => {
    const docket = await docketOf('Another plain name');
    const variants = variantsOf('saturation', 2, docket.choices);
    expect(() => shop.variantStrips.make(docket.id, { part: { x: 15, y: 0, width: 10, height: 10 }, variants })).toThrow(
      /reaches beyond the docket, which is 20 × 20 mm/
    );
    const wide = shop.docketEditing.change(docket.id, docket.version, {
      choices: { ...docket.choices, widthMm: 3000, heightMm: 3000 }
    });
    expect(() => shop.variantStrips.make(wide.id, { part: { x: 0, y: 0, width: 1900, height: 50 }, variants })).toThrow(
      /can be used\. Choose a smaller one/
    );
  });
});

describe('the tone curves of a condition', () => {
  const darker: Tone = {
    all: {
      points: [
        [0, 0],
        [0.5, 0.7],
        [1, 1]
      ],
      mayFall: false
    }
  };

  it('are printed through after those of a docket; named colours stay what they are', async () => {
    const [plain, named] = [await docketOf('Nameless'), await docketOf('Lifebelt')];
    const [plainWas, namedWas] = [await printed(plain.id), await printed(named.id)];
    const ripped = await docketOf('Nameless yet');
    shop.layingOut.add([ripped.id]);
    const runId = shop.dockets.get(ripped.id).runId!;
    await shop.ripping.rip(runId);
    await until(() => shop.runs.get(runId).state === 'ripped');
    expect(shop.runs.get(runId).stale).toBe(false);
    shop.conditions.setTone(condition, darker);
    expect(shop.conditions.tone(condition)).toEqual(darker);
    expect(shop.runs.get(runId).stale).toBe(true);
    const namedAgain = await docketOf('LIFEBELT coated');
    const [plainNow, namedNow] = [await printed(ripped.id), await printed(namedAgain.id)];
    expect(plainNow[0]).toBeLessThan(plainWas[0] - 1);
    expect(deltaE00(namedNow, namedWas)).toBeLessThan(0.3);
    // The same again is no new state; none at all is one that is gone back from.
    const { length } = shop.conditions.states(condition);
    shop.conditions.setTone(condition, { ...darker, cyan: straightTone() });
    expect(shop.conditions.states(condition)).toHaveLength(length);
    shop.conditions.setTone(condition, {});
    expect(shop.conditions.states(condition)[0]!.what).toBe('Tone curves taken away');
    expect(shop.conditions.tone(condition)).toEqual({});
  });
});

describe('the shop’s search', () => {
  it('finds named colours that are there, and none that were deleted', () => {
    const found = (words: string) => search(shop.db, words).filter(({ kind }) => kind === 'Named colour');
    const gone = shop.colours.add(colour('Bilge brown', [30, 10, 15]));
    expect(found('bilge').map(({ href }) => href)).toEqual([`/colour/named/${gone.id}`]);
    shop.colours.remove([gone.id]);
    expect(found('bilge')).toEqual([]);
  });
});

describe('a docket with colours by name', () => {
  const page = () =>
    smallPage(
      '/F cs 1 scn 0 10 20 10 re f /P cs 0.5 scn 0 0 10 10 re f 0.8 0.1 0.1 rg 10 0 10 10 re f',
      `/ColorSpace<<${['Ferry Red coated', 'Nobody’s own']
        .map(
          (name, i) =>
            `/${'FP'[i]!} [/Separation /${[...name].map((c) => (/\w/.test(c) ? c : [...new TextEncoder().encode(c)].map((b) => `#${b.toString(16)}`).join(''))).join('')} [/Lab <</WhitePoint[0.9642 1 0.8249]/Range[-128 127 -128 127]>>] <</FunctionType 2/Domain[0 1]/C0[100 0 0]/C1[${i === 0 ? '50 0 -40' : '30 33 -20'}]/N 1>>]`
        )
        .join('')}>>`
    );
  async function colourful() {
    const { id } = await shop.artworks.take('Colours.pdf', oneChunk(page()));
    await until(() => shop.artworks.get(id).state === 'ready');
    const docket = shop.dockets.add(id, 0);
    return shop.docketEditing.change(docket.id, docket.version, {
      choices: { ...docket.choices, conditionId: condition, cut: false }
    });
  }

  it('is told what its file means, what it prints in, and what the condition makes of that', async () => {
    const docket = await colourful();
    const { spots, flats } = await shop.docketColours.of(docket.id);
    expect(flats).toEqual([]);
    const ferry = spots.find(({ name }) => name.startsWith('Ferry'))!;
    expect(ferry.file).toEqual([50, 0, -40]);
    expect(ferry.prints?.name).toBe('Ferry Red');
    expect(ferry.made!.deltaE).toBeLessThan(2);
    const other = spots.find(({ name }) => name.startsWith('Nobody'))!;
    expect(other).toMatchObject({ file: [30, 33, -20], prints: null, made: null, match: { colour: null, near: [] } });
  });

  it('has a flat colour picked on it, as its file has it, and printed in a named one', async () => {
    const docket = await colourful();
    const lab = await shop.docketColours.at(docket.id, 15, 15);
    expect(deltaE00(lab, labOfRgb(204, 25.5, 25.5))).toBeLessThan(1.5);
    // The named colour does not come in its way: the file's own is meant.
    expect(deltaE00(await shop.docketColours.at(docket.id, 5, 5), [50, 0, -40])).toBeLessThan(1.5);
    const lamp = shop.colours.match('Lamp').colour!;
    const changed = shop.docketEditing.change(docket.id, docket.version, {
      choices: { ...docket.choices, colours: [{ what: { flat: lab, within: 3 }, to: lamp.id }] }
    });
    const { flats } = await shop.docketColours.of(changed.id);
    expect(flats).toMatchObject([{ prints: { id: lamp.id, name: 'Lamp' } }]);
    // A colour that is deleted prints nothing in its place: the file's own does.
    shop.colours.remove([lamp.id]);
    expect((await shop.docketColours.of(changed.id)).flats).toEqual([{ prints: null, made: null }]);
    shop.colours.bringBack([lamp.id]);
  });

  it('is drawn in its inks for the proof, as it was sent and as it is adjusted', async () => {
    const docket = await colourful();
    const inks = async (adjusted: boolean) => {
      const bytes = gunzipSync(readFileSync(await shop.pictures.inks(docket.id, 40, adjusted)));
      const [width, height] = [bytes.readUInt32LE(0), bytes.readUInt32LE(4)];
      expect([width, height, bytes.length]).toEqual([40, 40, 8 + 40 * 40 * 4]);
      return (x: number, y: number) => [...bytes.subarray(8 + (y * 40 + x) * 4, 8 + (y * 40 + x) * 4 + 4)];
    };
    const sent = await inks(false);
    const changed = shop.docketEditing.change(docket.id, docket.version, {
      choices: { ...docket.choices, adjustment: { ...NO_ADJUSTMENT, brightness: 0.6 } }
    });
    expect(changed.choices.adjustment.brightness).toBe(0.6);
    const adjusted = await inks(true);
    // Above lies the named colour, which stays; at the right below a plain one, which does not.
    expect(adjusted(10, 5)).toEqual(sent(10, 5));
    expect(adjusted(30, 30)).not.toEqual(sent(30, 30));
  });

  it('is found in the shop’s list of colours by words, in a collection, ordered by hue', () => {
    const page = shop.lists.page('colours', new URLSearchParams('q=kelp&sort=hue'));
    expect(page.rows.map(({ name }) => name)).toEqual(['Kelp uncoated', 'Kelp coated']);
    const series = shop.lists.page('colours', new URLSearchParams('collection=Series'));
    expect(series.count).toBe(50_000);
    expect(series.facets['collection']!.map(({ value }) => value)).toContain('in no collection');
  });
});
