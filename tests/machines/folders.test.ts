import {
  copyFileSync,
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  renameSync,
  rmSync,
  symlinkSync,
  writeFileSync
} from 'node:fs';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { JobTicket, WatchedFolder, type Arrival } from '$lib/arrivals';
import { IntakeWhen } from '$lib/intake-rules';
import { setsOf } from '$lib/recipes';
import { Shop } from '$lib/server/app/shop';
import { oneChunk, startStandIn, temporaryFolder, until, USUAL_MODE, type StandIn } from '../harness';
import { cmykBox, madePdf, spotStroke } from '../made/pdf';

/** Folders that are watched: what lies there becomes dockets, once, and is moved aside. */

process.env['ZING_STILL_MS'] = '300';
process.env['ZING_FOLDERS_AGAIN_MS'] = '400';

const folder = temporaryFolder();
const outside = temporaryFolder();
const FILM = { name: 'Film', surface: 'gloss', widthMm: 1300, lengthMm: 90_000 };
let printer: StandIn;
let shop: Shop;
let conditionId: number;
let recipeId: number;
let count = 0;

beforeAll(async () => {
  printer = await startStandIn('printer', { MEDIA: JSON.stringify(FILM) });
  shop = new Shop(folder.path);
  const printerId = shop.machines.add('printer', 'Petrel 13', printer.url);
  shop.start();
  await shop.machines.lookNow();
  const media = shop.media.addNew({ name: 'Film', family: 'cast', widthMm: 1300 }).id;
  conditionId = shop.conditionEditing.add(printerId, media, USUAL_MODE);
  await until(() => shop.conditions.get(conditionId).hasProfile);
  recipeId = shop.recipes.add({ name: 'Labels', note: '', on: null, sets: { copies: 3, bleed: { when: 'missing', mm: 2, from: 'mirror', colour: '#ffffff' }, media: { is: 'condition', conditionId }, priority: 'high' } }).id; // prettier-ignore
});
afterAll(async () => {
  await shop.close();
  printer.stop();
  folder.remove();
  outside.remove();
});

/** A page of its own: no two files are the same. */
const page = (): Buffer => madePdf({ width: 80, height: 50, content: cmykBox(`0.${(count += 1) % 9} 0.1 0 0`, 10, 10, 40 + (count % 20), 20) }); // prettier-ignore

function watched(over: Partial<WatchedFolder> = {}): { id: number; path: string } {
  const path = mkdtempSync(join(outside.path, 'in-'));
  return shop.watchedFolders.add(WatchedFolder.parse({ path, recipeId, way: 'make dockets', ...over }));
}
const arrivals = (id: number): Arrival[] => shop.arrivalStore.list({ most: 1000 }).filter((one) => one.folder?.id === id);
const settled = (id: number, n = 1) =>
  until(() => {
    const all = arrivals(id).filter(({ state }) => !['reading', 'made', 'laid out'].includes(state));
    return all.length >= n ? all : undefined;
  });
const lies = (path: string) => readdirSync(path, { recursive: true, withFileTypes: true }).flatMap((one) => (one.isDirectory() ? [] : [join(one.parentPath, one.name).slice(path.length + 1)])).sort(); // prettier-ignore
/** The text that lies beside a refused file: it is written after the file was moved. */
const why = (path: string, name: string): Promise<string> => {
  const text = join(path, 'refused', `${name}.txt`);
  return until(() => (existsSync(text) ? readFileSync(text, 'utf8') : ''));
};

describe('a watched folder', () => {
  it('makes dockets by its recipe, of what lies there and of what comes, and moves it aside', async () => {
    const path = mkdtempSync(join(outside.path, 'in-'));
    writeFileSync(join(path, 'Before.pdf'), page());
    mkdirSync(join(path, 'Gull & Sons'));
    const { id } = shop.watchedFolders.add(WatchedFolder.parse({ path, recipeId, way: 'make dockets', withAll: true }));
    await settled(id);
    writeFileSync(join(path, 'Gull & Sons', 'Ярмарка_24x.pdf'), page());
    await settled(id, 2);
    await until(() => lies(path).length === 2 && lies(path).every((place) => place.startsWith('taken')));
    expect(lies(path)).toEqual(['taken/Before.pdf', 'taken/Gull & Sons/Ярмарка_24x.pdf']);
    const [second, first] = arrivals(id).map(({ dockets }) => shop.dockets.get(dockets[0]!.id));
    expect(first).toMatchObject({ customer: '', priority: 'high', choices: { copies: 3, bleedMm: 2, bleedFrom: 'mirror', conditionId } }); // prettier-ignore
    // What the name asks for goes before what the recipe says.
    expect(second).toMatchObject({ name: 'Ярмарка_24x', customer: 'Gull & Sons', choices: { copies: 24 } });
    expect(shop.recipes.list().find((one) => one.id === recipeId)!.used).toBe(2);
  });

  it('waits while a file grows, and leaves what other programs hide', async () => {
    const { id, path } = watched();
    const whole = page();
    writeFileSync(join(path, '.hidden.pdf'), page());
    writeFileSync(join(path, 'Copying.pdf.part'), page());
    const growing = join(path, 'Growing.pdf');
    for (let at = 0; at < whole.length; at += Math.ceil(whole.length / 8)) {
      writeFileSync(growing, whole.subarray(0, at + Math.ceil(whole.length / 8)));
      expect(arrivals(id)).toEqual([]);
      await new Promise((resolve) => setTimeout(resolve, 100));
    }
    const [one] = await settled(id);
    expect([one!.state, one!.bytes, arrivals(id).length]).toEqual(['done', whole.length, 1]);
    await until(() => existsSync(join(path, 'taken/Growing.pdf')));
    expect(lies(path)).toEqual(['.hidden.pdf', 'Copying.pdf.part', 'taken/Growing.pdf']);
  });

  it('refuses what is no artwork with a text that says why, and follows no link', async () => {
    const { id, path } = watched();
    const secret = join(outside.path, 'secret.pdf');
    writeFileSync(secret, page());
    symlinkSync(secret, join(path, 'Link.pdf'));
    symlinkSync(outside.path, join(path, 'Elsewhere'));
    writeFileSync(join(path, 'Empty.pdf'), '');
    writeFileSync(join(path, 'Letter.pdf'), 'Dear printers');
    await settled(id, 4);
    await until(() => readdirSync(path).join() === 'refused');
    expect(
      arrivals(id)
        .map(({ name, state, dockets }) => [name, state, dockets.length])
        .sort()
    ).toEqual(['Elsewhere', 'Empty.pdf', 'Letter.pdf', 'Link.pdf'].map((name) => [name, 'refused', 0]));
    expect(await why(path, 'Empty.pdf')).toMatch(/is empty/);
    expect(await why(path, 'Link.pdf')).toMatch(/Links are not followed/);
    expect((await why(path, 'Letter.pdf')).length).toBeGreaterThan(20);
    expect(existsSync(secret)).toBe(true);
  });

  it('does not keep a file waiting behind hundreds that are not whole yet', async () => {
    const { id, path } = watched();
    for (let n = 0; n < 230; n++) writeFileSync(join(path, `Empty ${n}.pdf`), '');
    await until(() => shop.folderWatching.states().find((one) => one.id === id)?.waiting === 230);
    writeFileSync(join(path, 'Whole.pdf'), page());
    await until(() => arrivals(id).length > 0);
    expect(arrivals(id).at(-1)!.name).toBe('Whole.pdf');
    // The others have their time, and are refused.
    await until(() => arrivals(id).filter(({ state }) => state === 'refused').length === 230);
  });

  it('fills what artwork keeps free from a table beside it, whichever comes first; a table alone is refused', async () => {
    const { id, path } = watched();
    const places = (ink: string): Buffer =>
      madePdf({
        width: 80,
        height: 50,
        spots: { 'Data area Name': [0, 1, 0, 0] },
        content: `${cmykBox(ink, 0, 0, 80, 50)} ${spotStroke('10 10 m 70 10 l 70 30 l 10 30 l h')}`
      });
    writeFileSync(join(path, 'Badges.csv'), 'Name,Copies\nAnna,2\nBjörn,1\nCleo,4\n');
    await new Promise((resolve) => setTimeout(resolve, 900));
    expect(arrivals(id)).toEqual([]);
    writeFileSync(join(path, 'Badges.pdf'), places('0.1 0 0 0'));
    const [badges] = await settled(id);
    expect(badges).toMatchObject({ state: 'done', table: 'Badges.csv', reason: null });
    const { choices } = shop.dockets.get(badges!.dockets[0]!.id);
    expect([choices.records.table!.columns, choices.records.table!.count]).toEqual([['Name', 'Copies'], 3]);
    expect(choices.records.fields.map(({ name }) => name)).toEqual(['Name']);
    // A column says how many of each.
    expect([choices.records.copiesFrom, choices.copies]).toEqual(['Copies', 7]);
    await until(() => existsSync(join(path, 'taken/Badges.csv')) && existsSync(join(path, 'taken/Badges.pdf')));
    // The same artwork with another table is another order.
    writeFileSync(join(path, 'Badges.pdf'), places('0.1 0 0 0'));
    writeFileSync(join(path, 'Badges.csv'), 'Name\nDora\n');
    const [again] = await settled(id, 2);
    expect([again!.state, shop.dockets.get(again!.dockets[0]!.id).choices.copies]).toEqual(['done', 1]);
    // With nothing to fill, or a table that cannot be read, it waits.
    writeFileSync(join(path, 'Plain.csv'), 'Name\nDora\n');
    writeFileSync(join(path, 'Plain.pdf'), page());
    expect((await settled(id, 3))[0]).toMatchObject({ state: 'waiting', reason: expect.stringMatching(/nothing on it is to be filled/) }); // prettier-ignore
    writeFileSync(join(path, 'Hurt.xlsx'), Buffer.from(`504b0304${'00'.repeat(60)}`, 'hex'));
    writeFileSync(join(path, 'Hurt.pdf'), places('0.3 0 0 0'));
    expect((await settled(id, 4))[0]).toMatchObject({ state: 'waiting', table: 'Hurt.xlsx', reason: expect.any(String) });
    writeFileSync(join(path, 'Lonely.csv'), 'Name\nDora\n');
    expect((await settled(id, 5))[0]).toMatchObject({ name: 'Lonely.csv', state: 'refused', reason: expect.stringMatching(/no artwork of the same name/) }); // prettier-ignore
    expect(await why(path, 'Lonely.csv')).toMatch(/Put both there together/);
  });

  it('takes the same file once: one that comes again waits for a person, who may want it again', async () => {
    const { id, path } = watched();
    const bytes = page();
    writeFileSync(join(path, 'Twice.pdf'), bytes);
    await settled(id);
    await until(() => existsSync(join(path, 'taken/Twice.pdf')));
    copyFileSync(join(path, 'taken/Twice.pdf'), join(path, 'Twice.pdf'));
    await settled(id, 2);
    await until(() => existsSync(join(path, 'taken/Twice (2).pdf')));
    const [again, first] = arrivals(id);
    expect(again).toMatchObject({ state: 'waiting', dockets: [], reason: expect.stringMatching(/came here before/) });
    shop.arrivals.again(again!.id);
    await until(() => arrivals(id)[0]!.state === 'done');
    expect(arrivals(id)[0]!.dockets).toHaveLength(1);
    // The same under another name is another order.
    writeFileSync(join(path, 'Other.pdf'), bytes);
    expect((await settled(id, 3)).map(({ state }) => state)).toEqual(['done', 'done', 'done']);
    // What was made is taken back, but not out of a run.
    await shop.arrivals.undo(first!.id);
    expect(arrivals(id).find((one) => one.id === first!.id)).toMatchObject({ state: 'undone', dockets: [] });
    const { dockets } = arrivals(id)[0]!;
    shop.layingOut.add([dockets[0]!.id]);
    await expect(shop.arrivals.undo(arrivals(id)[0]!.id)).rejects.toThrow(/lies in a run/);
    expect(arrivals(id)[0]!.dockets).toHaveLength(1);
  });

  it('lays out and releases what has nothing to be looked at, in a run of its own; the rest waits', async () => {
    const { id, path } = watched({ way: 'release' });
    writeFileSync(join(path, 'Fine.pdf'), page());
    await settled(id);
    const [fine] = arrivals(id);
    expect([fine!.state, fine!.reason]).toEqual(['done', null]);
    const { runId } = fine!.dockets[0]!;
    const run = shop.runs.get(runId!);
    expect([run.releasedAt !== null, run.dockets.length]).toEqual([true, 1]);
    await until(() => shop.runs.get(runId!).state === 'printed');
    // Three metres wide on a roll of 1.3 m.
    writeFileSync(
      join(path, 'Wide.pdf'),
      madePdf({ width: 3000, height: 2000, content: cmykBox('0.4 0.1 0 0', 100, 10, 2000, 20) })
    );
    await settled(id, 2);
    const [wide] = arrivals(id);
    expect(wide).toMatchObject({ state: 'waiting', reason: expect.stringMatching(/^Wide: /), dockets: [{ runId: null }] });
    shop.arrivals.settle(wide!.id);
    expect(arrivals(id)[0]!.state).toBe('done');
  });

  it('says what was deleted before it was through, and does nothing more by itself', async () => {
    const { id, path } = watched({ way: 'release' });
    writeFileSync(join(path, 'Gone.pdf'), page());
    await settled(id);
    const [one] = arrivals(id);
    const docket = one!.dockets[0]!;
    // As a server leaves it that was killed before a step, and a person deleted what the step before had made.
    const goesOnFrom = async (state: 'made' | 'laid out', with_: object) => {
      shop.arrivalStore.change(one!.id, { state, ...with_ });
      shop.arrivals.goOn(one!.id);
      await settled(id);
      return arrivals(id)[0];
    };
    expect(await goesOnFrom('laid out', { runs: '[99999]' })).toMatchObject({
      state: 'waiting',
      reason: 'Run 99999 was deleted before it was released. Make it again if it is to be printed; else it is seen to.'
    });
    expect(await goesOnFrom('made', { dockets: `[${docket.id},88888]` })).toMatchObject({
      state: 'waiting',
      reason: 'Docket 88888 was deleted before it was through. Make it again if it is to be printed; else it is seen to.'
    });
  });

  it('whose recipe lacks something lets what comes wait, and takes it up with another', async () => {
    const lost = shop.recipes.add({
      name: 'Lost',
      note: '',
      on: null,
      sets: { media: { is: 'condition', conditionId: 999 } }
    }).id;
    const { id, path } = watched({ recipeId: lost });
    writeFileSync(join(path, 'Lost.pdf'), page());
    const [one] = await settled(id);
    expect(one).toMatchObject({ state: 'waiting', dockets: [], reason: expect.stringMatching(/media and print mode of this recipe are gone/) }); // prettier-ignore
    shop.arrivals.again(one!.id, { recipeId });
    await until(() => arrivals(id)[0]!.state === 'done');
    expect(shop.dockets.get(arrivals(id)[0]!.dockets[0]!.id).choices.copies).toBe(3);
    shop.recipes.remove(lost);
    expect(() => watched({ recipeId: lost })).toThrow('was deleted');
  });

  it('is one for this alone: none that has other things in it, or lies in another', () => {
    const { path } = watched();
    for (const place of ['taken', 'deeper/still'])
      expect(() => watched({ path: join(path, place) })).toThrow(/files would go round/);
    for (const own of [folder.path, join(folder.path, 'files')]) expect(() => watched({ path: own })).toThrow(/own files/);
    expect(() => watched({ path: '../elsewhere' })).toThrow(/begins at the root/);
    const own = watched({ path: 'Counter' });
    expect(own.path).toBe(join(folder.path, 'watched', 'Counter'));
    expect(existsSync(own.path)).toBe(true);
    symlinkSync(folder.path, join(outside.path, 'shortcut'));
    expect(() => watched({ path: join(outside.path, 'shortcut') })).toThrow(/own files/);
    const filled = join(outside.path, 'filled');
    mkdirSync(filled);
    writeFileSync(join(filled, 'Diary.txt'), 'Not to be printed.');
    expect(() => watched({ path: filled })).toThrow(/lies one thing already: all files there would be taken/);
    expect(() => watched({ path: join(filled, 'Diary.txt') })).toThrow(/cannot be made: It is a file/);
    expect(lies(filled)).toEqual(['Diary.txt']);
  });

  it('that goes and comes back, as of a network, goes on; what lay there meanwhile is taken', async () => {
    const { id, path } = watched();
    await until(() => shop.folderWatching.states().find((one) => one.id === id)?.isThere);
    const away = `${path}-away`;
    renameSync(path, away);
    await until(() =>
      shop.folderWatching
        .states()
        .find((one) => one.id === id)
        ?.trouble?.includes('is not there')
    );
    writeFileSync(join(away, 'Meanwhile.pdf'), page());
    renameSync(away, path);
    expect((await settled(id))[0]).toMatchObject({ name: 'Meanwhile.pdf', state: 'done' });
    await until(() => existsSync(join(path, 'taken/Meanwhile.pdf')));
    // Switched off it is left alone.
    const kept = shop.watchedFolders.get(id);
    shop.watchedFolders.change(id, kept.version, { ...kept.folder, isOn: false });
    expect(() => shop.watchedFolders.change(id, kept.version, kept.folder)).toThrow('in another window');
    await until(() => !shop.folderWatching.states().some((one) => one.id === id));
    writeFileSync(join(path, 'Off.pdf'), page());
    shop.watchedFolders.remove(watched().id);
    rmSync(join(path, 'Off.pdf'));
  });

  it('has beside it what programs send: once a key, by a recipe’s name, as far as the ticket says', async () => {
    const send = (key: string | null, ticket: object, bytes = page()) => shop.arrivals.take('Sent.pdf', JobTicket.parse(ticket), oneChunk(bytes), key); // prettier-ignore
    const bytes = page();
    const id = await send('order-1', { customer: 'Ferry company', copies: 6, recipe: 'labels', way: 'lay out', despiteLooks: true }, bytes); // prettier-ignore
    await until(() => shop.arrivalStore.get(id).state === 'done');
    const made = shop.arrivalStore.get(id);
    expect(made).toMatchObject({ source: 'program', folder: null, customer: 'Ferry company', recipe: { name: 'Labels' } });
    expect(shop.dockets.get(made.dockets[0]!.id)).toMatchObject({ priority: 'high', choices: { copies: 6, bleedMm: 2 } });
    expect(made.dockets[0]!.runId).not.toBeNull();
    expect(await send('order-1', { copies: 99 }, bytes)).toBe(id);
    // The same file under another key is another order.
    expect(await send('order-2', {}, bytes)).not.toBe(id);
    await expect(send(null, { recipe: 'Nothing' })).rejects.toThrow('There is no recipe Nothing.');
    expect(() => JobTicket.parse({ copies: 0 })).toThrow('At least 1 copy.');
    expect(() => shop.arrivalStore.get(999_999)).toThrow('nothing like this');
  });

  it('without a recipe is made by the rule of the shop that fits, and so is what is made by hand', async () => {
    const when = (customer: string) => IntakeWhen.parse({ customer });
    const other = shop.recipes.add({ name: 'For the ferry', note: '', on: null, sets: { copies: 9 } }).id;
    const { version } = shop.intake.changeRules(0, [
      { when: when('Ferry company'), recipeId: other },
      { when: IntakeWhen.parse({ name: 'Hand*' }), recipeId }
    ]);
    expect(() => shop.intake.changeRules(0, [])).toThrow('in another window');
    const { id, path } = watched({ recipeId: null });
    mkdirSync(join(path, 'Ferry company'));
    writeFileSync(join(path, 'Ferry company', 'Plan.pdf'), page());
    writeFileSync(join(path, 'Other.pdf'), page());
    await settled(id, 2);
    const copies = (name: string) =>
      shop.dockets.get(arrivals(id).find((one) => one.name === name)!.dockets[0]!.id).choices.copies;
    expect([copies('Plan.pdf'), copies('Other.pdf')]).toEqual([9, 1]);
    const { id: artworkId } = await shop.artworks.take('Hand made.pdf', oneChunk(page()));
    await until(() => shop.artworks.get(artworkId).state === 'ready');
    const { rules } = shop.intake.rules();
    expect(shop.intake.try(rules, artworkId, 0, '')).toMatchObject({ place: 1, applied: { lacking: [] } });
    expect(shop.intake.try(rules, artworkId, 0, 'Ferry company').place).toBe(0);
    const [made] = await shop.intake.makeDockets([{ artworkId, page: 0 }]);
    expect(shop.dockets.get(made!).choices.copies).toBe(3);
    // One that was deleted is said, and the docket stays as it is.
    shop.recipes.remove(other);
    expect(() => shop.intake.changeRules(version, rules)).toThrow('was deleted');
    writeFileSync(join(path, 'Ferry company', 'Later.pdf'), page());
    await until(() => arrivals(id)[0]!.state === 'waiting');
    expect(arrivals(id)[0]!.reason).toContain('For the ferry was deleted');
    shop.recipes.bringBack(other);
    shop.intake.changeRules(version, []);
  });

  it('keeps a docket’s choices as they were for all that a recipe does not set', async () => {
    const { id, path } = watched({ recipeId: null });
    writeFileSync(join(path, 'Plain.pdf'), page());
    const [one] = await settled(id);
    const docket = shop.dockets.get(one!.dockets[0]!.id);
    expect(setsOf(docket)).toMatchObject({ copies: 1, priority: 'normal' });
    await shop.recipeApplying.apply(recipeId, [docket.id]);
    const after = shop.dockets.get(docket.id);
    expect(after.choices).toEqual({ ...docket.choices, copies: 3, bleedMm: 2, bleedFrom: 'mirror', conditionId });
    // One step, taken back as any other.
    expect(shop.docketEditing.go(docket.id, after.version, -1).choices).toEqual(docket.choices);
  });
});
