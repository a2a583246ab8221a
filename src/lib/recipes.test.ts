import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { DEFAULT_CUT } from '$core/artwork/cut-choices';
import { readPageFacts } from '$core/artwork/read-facts';
import { NO_ADJUSTMENT } from '$core/colour/adjustment';
import { PLAIN_STACK } from '$core/inks/stack';
import { NO_FINISHING } from '$core/marks/finishing';
import { DEFAULT_RULES } from '$core/artwork/roles';
import { newWall } from '$core/panels/wall';
import { NO_RECORDS } from '$core/records/choices';
import { nameField } from '../../tests/made/fields';
import { openBytes } from '../../tests/made/opened';
import { cmykBox, madePdf, spotStroke, type MadePage } from '../../tests/made/pdf';
import { USUAL_IN_POCKET } from './in-jig';
import { CHOICE_GROUPS, DocketChoices, type DocketDocument } from './docket-choices';
import { toTrace, withRecipe, type Ground } from './recipe-applied';
import { changesWords, recipeWords, type RecipeNames } from './recipe-words';
import { Recipe, RECIPE_PARTS, RecipeSets, setsOf, togetherOf, WHEN } from './recipes';

const plain: MadePage = { width: 100, height: 60, content: cmykBox('0.4 0.1 0 0', 20, 20, 40, 20) };
const withBleed: MadePage = { ...plain, width: 110, height: 70, trim: [5, 5, 100, 60], bleed: [0, 0, 110, 70] };
const withLine: MadePage = { ...plain, spots: { 'Cut line': [0, 1, 0, 0] }, content: `${plain.content} ${spotStroke('10 10 m 90 10 l 90 50 l 10 50 l h')}` }; // prettier-ignore

const TABLE = { hash: 'a'.repeat(64), name: 'Guests.csv', columns: ['name'], count: 3 };

const conditions = [
  { id: 1, machineId: 1, machine: 'Petrel 13', media: 'Film', mode: { name: '720 × 720, 8 passes' }, rollWidthMm: 1300 },
  { id: 2, machineId: 1, machine: 'Petrel 13', media: 'Cloth', mode: { name: '360 × 360, 4 passes' }, rollWidthMm: 2600 }
];
const printerWith = (media: string) => [{ id: 1, name: 'Petrel 13', printer: { media: { name: media } } }];
const jigs = [{ id: 3, name: 'Buoy tags' }];
const NAMES: RecipeNames = { unit: 'mm', conditions, machines: printerWith('Film'), jigs };

function made(
  page: MadePage,
  choices: Partial<DocketChoices> = {},
  ground: Partial<Ground> = {}
): { before: DocketDocument; ground: Ground } {
  const { facts, lines } = readPageFacts(openBytes(madePdf(page)), 0);
  const before: DocketDocument = {
    artworkId: 1,
    page: 0,
    name: 'Sign',
    customer: '',
    dueOn: '',
    note: '',
    priority: 'normal',
    choices: DocketChoices.parse({ widthMm: facts.widthMm, heightMm: facts.heightMm, copies: 1, bleedMm: 0, conditionId: 1, cut: false, mayTurn: true, intent: 'relative', ...choices }) // prettier-ignore
  };
  return { before, ground: { facts, lines, rules: DEFAULT_RULES, conditions, machines: printerWith('Film'), jigs, ...ground } };
}
const applied = (sets: RecipeSets, page = plain, choices: Partial<DocketChoices> = {}, more: Partial<Ground> = {}) => {
  const { before, ground } = made(page, choices, more);
  const { document, lacking } = withRecipe(sets, before, ground);
  return { ...document.choices, priority: document.priority, lacking };
};

describe('a recipe’s rules', () => {
  it('give a size by what the artwork and the roll are', () => {
    const cases: [RecipeSets, number, number][] = [
      [{ size: { is: 'own' } }, 100, 60],
      [{ size: { is: 'at', widthMm: 70, heightMm: 20 } }, 70, 20],
      [{ size: { is: 'width', mm: 500 } }, 500, 300],
      [{ size: { is: 'height', mm: 30 } }, 50, 30],
      [{ size: { is: 'scale', percent: 250 } }, 250, 150],
      // 1300 less 5 at each edge.
      [{ size: { is: 'roll' } }, 1290, 774],
      // Bleed is printed too; the media that it sets itself counts, and the turn.
      [{ size: { is: 'roll' }, bleed: { when: 'always', mm: 10, from: 'mirror', colour: '#ffffff' } }, 1270, 762],
      [{ size: { is: 'roll' }, media: { is: 'condition', conditionId: 2 } }, 2590, 1554],
      [{ size: { is: 'own' }, part: { box: 'trim', crop: { left: 0, top: 0, right: 0, bottom: 0 }, turn: 90, mirror: false } }, 60, 100] // prettier-ignore
    ];
    for (const [sets, widthMm, heightMm] of cases) {
      const after = applied(sets, plain, { widthMm: 33, heightMm: 19.8 });
      expect(
        [after.widthMm, after.heightMm].map((mm) => Math.round(mm * 100) / 100),
        JSON.stringify(sets)
      ).toEqual([widthMm, heightMm]);
      expect(after.lacking).toEqual([]);
    }
    expect(applied({ size: { is: 'scale', percent: 50_000 } }, { ...plain, width: 300 }).lacking[0]).toContain(
      'sides are 1 mm to 100 m'
    );
    expect(applied({ size: { is: 'roll' } }, plain, { conditionId: null }).lacking[0]).toContain('no media is chosen');
  });

  it('make bleed and cut lines where the file has none of its own, and keep the file’s', () => {
    const bleed = { when: 'missing' as const, mm: 3, from: 'mirror' as const, colour: '#ffffff' };
    expect(applied({ bleed })).toMatchObject({ bleedMm: 3, bleedFrom: 'mirror' });
    expect(applied({ bleed }, withBleed)).toMatchObject({ bleedMm: 3, bleedFrom: 'page' });
    expect(applied({ bleed: { ...bleed, mm: 8 } }, withBleed)).toMatchObject({ bleedMm: 8, bleedFrom: 'mirror' });
    expect(applied({ bleed: { ...bleed, when: 'always' } }, withBleed)).toMatchObject({ bleedFrom: 'mirror' });
    const line = {
      id: 'line-1',
      tool: 'kiss cut' as const,
      from: { kind: 'found' as const, how: 'opaque' as const, threshold: 0.5, background: null, outline: 'M0 0L9 0L9 9Z' },
      offsetMm: 2,
      corners: 'round' as const,
      smoothMm: 0.1,
      holes: false,
      smallestMm2: 1,
      bridgeMm: 0
    };
    const cut = { when: 'missing' as const, cut: true, lines: { ...DEFAULT_CUT, made: [line] } };
    const own = applied({ cut }, withLine);
    expect([own.cut, own.lines.customer.use, own.lines.made]).toEqual([true, true, []]);
    const none = applied({ cut });
    expect(none.cut).toBe(true);
    // It is found anew on this page: not where it was on the one that the recipe came from.
    expect(toTrace(none).map(({ id }) => id)).toEqual(['line-1']);
    expect(setsOf({ choices: none, priority: 'low' }).cut!.lines.made[0]!.from).toMatchObject({ outline: '' });
    const traced = { ...none, lines: { ...none.lines, made: [line] } };
    expect(toTrace(applied({ cut }, plain, traced))).toEqual([]);
    expect(applied({ cut: { ...cut, when: 'always' } }, withLine).lines.made).toHaveLength(1);
  });

  it('take the media by its condition, by what is loaded, or by its name; what is not here is said', () => {
    const media = (rule: NonNullable<RecipeSets['media']>, more: Partial<Ground> = {}) =>
      applied({ media: rule }, plain, {}, more);
    expect(media({ is: 'condition', conditionId: 2 })).toMatchObject({ conditionId: 2, lacking: [] });
    expect(media({ is: 'condition', conditionId: 9 })).toMatchObject({
      conditionId: 1,
      lacking: [expect.stringContaining('are gone')]
    });
    expect(media({ is: 'loaded', machineId: 1 }, { machines: printerWith('Cloth') })).toMatchObject({ conditionId: 2 });
    expect(media({ is: 'loaded', machineId: 1 }, { machines: printerWith('Mesh') }).lacking[0]).toContain(
      'has Mesh loaded, and there is no print mode'
    );
    expect(
      media({ is: 'loaded', machineId: 1 }, { machines: [{ id: 1, name: 'Petrel 13', printer: null }] }).lacking[0]
    ).toContain('does not answer');
    expect(media({ is: 'loaded', machineId: 4 }).lacking[0]).toContain('machine of this recipe is gone');
    const named = { is: 'named' as const, machine: 'Petrel 13', media: 'Cloth', mode: '360 × 360, 4 passes' };
    expect(media(named)).toMatchObject({ conditionId: 2 });
    // Jigs are told alike.
    const jig = (rule: RecipeSets['jig'], more: Partial<Ground> = {}) => applied({ jig: rule }, plain, {}, more);
    const lies = USUAL_IN_POCKET;
    expect(jig({ is: 'jig', id: 3, lies })).toMatchObject({ jig: { id: 3, lies }, lacking: [] });
    expect(jig({ is: 'named', name: 'Buoy tags', lies })).toMatchObject({ jig: { id: 3, lies }, lacking: [] });
    expect(jig({ is: 'jig', id: 3, lies }, { jigs: [] })).toMatchObject({
      jig: null,
      lacking: ['The jig of this recipe is gone. Choose another one for it.']
    });
    expect(jig({ is: 'named', name: 'Cups', lies }).lacking[0]).toContain('There is no jig Cups here');
    expect(applied({ jig: null }, plain, { jig: { id: 3, lies } }).jig).toBeNull();
    expect(media({ ...named, mode: 'draft' }).lacking[0]).toContain('There is no Cloth on Petrel 13 in draft here');
  });
});

describe('a recipe', () => {
  const full: Partial<DocketChoices> = { viewingMm: 4000, layersOff: ['Notes'], jig: { id: 3, lies: { ...USUAL_IN_POCKET, size: 'fill' } }, platesKept: 14, copies: 7, mirror: true, bleedMm: 4, bleedFrom: 'stretch', blackText: true, thinnestMm: 0.2, records: { ...NO_RECORDS, fields: [nameField], each: 2, table: TABLE }, wall: { ...newWall(), photo: { artworkId: 3, aspect: 1, points: [{ u: 0, v: 0, x: 0, y: 0 }, { u: 1, v: 0, x: 100, y: 0 }] } } }; // prettier-ignore

  it('and what is copied from docket to docket leave nothing out that a docket says', () => {
    const copied = new Set<string>(Object.values(CHOICE_GROUPS).flat());
    expect(Object.keys(DocketChoices.shape).filter((key) => !copied.has(key))).toEqual([]);
    // Of all choices, each otherwise than usual in itself: what a recipe takes is told from what it was before.
    const { before } = made(plain);
    const usual = JSON.stringify(setsOf(before));
    const others: Partial<DocketChoices> = { ...full, box: 'media', crop: { left: 1, top: 0, right: 0, bottom: 0 }, turn: 90, bleedColour: '#102030', roles: { Gold: 'guide' }, fieldsOff: true, enlarged: 'crisp', blackPictures: true, overprint: false, richBlack: true, colours: [{ what: { spot: 'Gold' }, to: null }], stack: PLAIN_STACK, cut: true, lines: { ...DEFAULT_CUT, perforation: { cutMm: 4, skipMm: 2 } }, widthMm: 55, heightMm: 44, conditionId: 2, mayTurn: false, intent: 'file', sources: { rgb: 'shop', cmyk: '', grey: '' }, adjustment: { ...NO_ADJUSTMENT, contrast: 0.2 }, tone: { all: { points: [[0, 0], [1, 0.9]], mayFall: false } }, finishing: { ...NO_FINISHING, hem: 9 } }; // prettier-ignore
    for (const key of Object.keys(DocketChoices.shape) as (keyof DocketChoices)[]) {
      expect(others[key], key).toBeDefined();
      const { choices } = { choices: { ...before.choices, [key]: others[key] } };
      expect(JSON.stringify(setsOf({ ...before, choices })), key).not.toBe(usual);
    }
  });

  it('taken from a docket makes another the same in all that it sets, and leaves the rest alone', () => {
    const { before } = made(plain, full);
    const all = setsOf({ ...before, priority: 'high' });
    expect(Object.keys(all).sort()).toEqual([...RECIPE_PARTS].sort());
    for (const part of RECIPE_PARTS) {
      const { before: other, ground } = made(plain);
      const { document } = withRecipe({ [part]: all[part] }, other, ground);
      const changed = changesWords(other, document, NAMES).map(({ part: one }) => one);
      // Mirroring a page keeps its size.
      expect(
        changed.filter((one) => one !== part),
        part
      ).toEqual([]);
    }
    const { before: third, ground } = made(plain);
    const { document } = withRecipe(all, third, ground);
    expect(document.choices).toEqual({
      ...before.choices,
      records: { ...before.choices.records, table: null },
      wall: { ...before.choices.wall!, photo: null }
    });
    expect(document.priority).toBe('high');
  });

  it('applied twice changes nothing more, whatever it sets', () => {
    const { before } = made(withBleed, full);
    const all = setsOf(before);
    const anySize: fc.Arbitrary<RecipeSets['size']> = fc.oneof(
      fc.constant({ is: 'own' as const }),
      fc.constant({ is: 'roll' as const }),
      fc.record({ is: fc.constant('width' as const), mm: fc.integer({ min: 5, max: 3000 }) }),
      fc.record({ is: fc.constant('scale' as const), percent: fc.integer({ min: 10, max: 900 }) })
    );
    const anyBleed = fc.record({ when: fc.constantFrom(...WHEN), mm: fc.integer({ min: 0, max: 20 }), from: fc.constantFrom('page' as const, 'mirror' as const), colour: fc.constant('#123456') }); // prettier-ignore
    fc.assert(
      fc.property(
        fc.subarray(RECIPE_PARTS),
        anySize,
        anyBleed,
        fc.constantFrom(plain, withBleed, withLine),
        (parts, size, bleed, page) => {
          const kept = Object.fromEntries(parts.map((part) => [part, all[part]])) as RecipeSets;
          const sets = RecipeSets.parse({
            ...kept,
            ...(parts.includes('size') && { size }),
            ...(parts.includes('bleed') && { bleed })
          });
          const { before: docket, ground } = made(page);
          const once = withRecipe(sets, docket, ground);
          const twice = withRecipe(sets, once.document, ground);
          expect(twice.document).toEqual(once.document);
        }
      ),
      { numRuns: 40 }
    );
  });

  it('builds on others: its own sets go before theirs', () => {
    expect(togetherOf([{ sets: { copies: 3 } }, { sets: { copies: 9, mayTurn: false } }, { sets: { priority: 'low' } }])).toEqual(
      {
        copies: 3,
        mayTurn: false,
        priority: 'low'
      }
    );
  });

  it('is told in sentences, part by part', () => {
    const said = (sets: RecipeSets) => recipeWords(sets, NAMES).map(({ words }) => words);
    expect(
      said({
        size: { is: 'roll' },
        bleed: { when: 'missing', mm: 3, from: 'mirror', colour: '#ffffff' },
        copies: 24,
        media: { is: 'condition', conditionId: 1 },
        cut: { when: 'missing', cut: true, lines: { ...DEFAULT_CUT, made: [{ id: 'a', tool: 'kiss cut', from: { kind: 'found', how: 'opaque', threshold: 0.5, background: null, outline: '' }, offsetMm: 2, corners: 'round', smoothMm: 0.1, holes: false, smallestMm2: 1, bridgeMm: 0 }] } }, // prettier-ignore
        priority: 'high'
      })
    ).toEqual([
      'As wide as what of the roll can be used, in proportion.',
      '3 mm of bleed, by mirroring the edge where the file has none.',
      '24 copies.',
      'On Film, Petrel 13, 720 × 720, 8 passes.',
      'Cut on the file’s own lines; where it has none: kiss cut at the opaque edge, 2 mm outside.',
      'High priority.'
    ]);
    const { before } = made(plain, full);
    // Every part has words, also in an empty shop.
    for (const { part, words } of recipeWords(setsOf(before), { unit: 'in', conditions: [], machines: [], jigs: [] }))
      expect(words, part).toMatch(/^[A-Z0-9“].+\.$/);
    const lies = { ...USUAL_IN_POCKET, size: 'fit' as const, marginMm: 2, turn: 90 as const, side: 'back' as const };
    expect(said({ jig: { is: 'jig', id: 3, lies }, plates: 1 })).toEqual([
      'In the jig Buoy tags: as large as it fits whole, 2 mm from the edge, turned right, things turned over.',
      'Its plates are kept 1 day after the last print.'
    ]);
    expect(said({ viewing: 4000, layersOff: ['Notes', 'Fold'] })).toEqual([
      'Looked at from 4000 mm.',
      '“Notes”, “Fold” do not print.'
    ]);
    expect(said({ viewing: null, layersOff: [] })).toEqual([
      'Looked at from as far as the shop says.',
      'All layers of the file print.'
    ]);
    expect(said({ jig: { is: 'jig', id: 9, lies } })).toEqual(['In a jig that is gone.']);
    expect(said({ jig: null, wall: null, plates: 'always' })).toEqual([
      'In no jig.',
      'No wall.',
      'Its plates are kept until a person deletes them.'
    ]);
    expect(said({ media: { is: 'condition', conditionId: 8 } })).toEqual(['On a media and print mode that are gone.']);
  });

  it('takes the fields of a docket, and leaves its table to each docket', () => {
    const { before } = made(plain, full);
    const { records } = setsOf(before);
    expect(records).toEqual({ fields: [nameField], chosen: {}, each: 2, order: 'rows' });
    expect(applied({ records })).toMatchObject({ records: { fields: [nameField], each: 2, table: null } });
    const own = { ...TABLE, name: 'Other.csv' };
    expect(applied({ records }, plain, { records: { ...NO_RECORDS, table: own } }).records.table).toEqual(own);
    expect(setsOf(made(plain).before).records).toBeUndefined();
  });

  it('is refused without a name, and with figures that no docket may have', () => {
    const wrong = (recipe: unknown) => Recipe.safeParse(recipe).error?.issues[0]?.message;
    expect(wrong({ name: ' ', sets: {} })).toBe('A recipe needs a name.');
    expect(wrong({ name: 'A', sets: { copies: 0 } })).toBe('At least 1 copy.');
    expect(wrong({ name: 'A', sets: { size: { is: 'width', mm: 1e9 } } })).toContain('at most 100 m');
    expect(wrong({ name: 'A', sets: { bleed: { when: 'always', mm: 999, from: 'page', colour: '#ffffff' } } })).toContain(
      'at most 200 mm'
    );
  });
});
