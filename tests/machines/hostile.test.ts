import { existsSync, readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import sharp from 'sharp';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { writeCgats, readCgats, CgatsError } from '$core/colour/cgats';
import { srgbProfile } from '$core/colour/icc-write';
import { newHpglState, runHpgl } from '$core/cutting/hpgl';
import { seededRandom } from '$core/geometry/random';
import { NEW_CARD } from '$core/media/card';
import { DocketDocument } from '$lib/docket-choices';
import { SettingsChange } from '$lib/shop-settings';
import { unneeded } from '$lib/server/app/check';
import { Shop } from '$lib/server/app/shop';
import { Problem } from '$lib/server/platform/problem';
import { decodeRequest, encodeRequest } from '$protocol/ipp';
import { oneChunk, temporaryFolder, until } from '../harness';
import { pressProfile } from '../made/press';
import { cmykBox, lettering, madePdf, rawPdf, rawStream, spotStroke } from '../made/pdf';
import { madeTiff } from '../made/tiff';

/** Files and messages that were spoilt on purpose: each is taken or gets a sentence, and nothing of it stays behind. */

const folder = temporaryFolder();
let shop: Shop;

beforeAll(() => {
  shop = new Shop(folder.path);
  shop.settings.change({ intake: { seconds: 6, megabytes: 800 } });
  shop.start();
});
afterAll(async () => {
  await shop.close();
  folder.remove();
});

/** The bytes with a few of them changed, cut off, doubled or moved: the same for the same seed. */
function spoilt(bytes: Uint8Array, seed: number): Buffer {
  const random = seededRandom(seed);
  const at = (length: number) => Math.floor(random() * length);
  let out = Buffer.from(bytes);
  for (let i = 1 + at(6); i > 0; i--) {
    const from = at(out.length);
    const some = out.subarray(from, from + 1 + at(Math.min(64, out.length)));
    switch (at(6)) {
      case 0:
        out[from] = at(256);
        break;
      case 1:
        // A figure at its ends.
        out.writeUInt32BE([0, 1, 0x7fffffff, 0xffffffff][at(4)]!, Math.min(from, Math.max(0, out.length - 4)));
        break;
      case 2:
        out = Buffer.from(out.subarray(0, Math.max(1, from)));
        break;
      case 3:
        out = Buffer.concat([out.subarray(0, from), some, some, out.subarray(from)]);
        break;
      case 4:
        out = Buffer.concat([out.subarray(0, from), out.subarray(from + some.length)]);
        break;
      default:
        out = Buffer.concat([
          out.subarray(0, from),
          Buffer.from(['<<', '/', '&#0;', '1e99', '-1', '\u0000', ']]>'][at(7)]!),
          out.subarray(from)
        ]);
    }
    if (out.length < 5) out = Buffer.concat([out, Buffer.alloc(5)]);
  }
  return out;
}

const picture = (format: 'png' | 'jpeg' | 'webp' | 'gif') =>
  sharp({ create: { width: 40, height: 30, channels: 3, background: '#06c' } })
    .toFormat(format)
    .toBuffer();
const FORMATS: [string, number, () => Buffer | Promise<Buffer>][] = [
  [
    'pdf',
    200,
    () =>
      madePdf({
        width: 60,
        height: 40,
        spots: { Cut: [0, 1, 0, 0] },
        layers: { Notes: true },
        states: { G: '/OP true/ca .5' },
        picture: { width: 4, height: 4 },
        font: 'Nowhere-Regular',
        stamp: true,
        content: `/G gs ${cmykBox('1 0 0 0', 0, 0, 60, 40)}${spotStroke('5 5 m 55 5 l 55 35 l h')}${lettering('0 0 0 1 k', 5, 5, 6)}q 9 0 0 9 1 1 cm /P Do Q`
      })
  ],
  [
    'pdf with gradients',
    80,
    () =>
      rawPdf([
        '<</Type/Catalog/Pages 2 0 R>>',
        '<</Type/Pages/Kids[3 0 R]/Count 1>>',
        '<</Type/Page/Parent 2 0 R/MediaBox[0 0 99 99]/Contents 4 0 R/Resources<</Shading<</S 5 0 R>>>>>>',
        rawStream('', '/S sh'),
        '<</ShadingType 2/ColorSpace/DeviceCMYK/Coords[0 0 99 99]/Function<</FunctionType 2/Domain[0 1]/C0[0 0 0 0]/C1[1 0 0 0]/N 1>>>>'
      ])
  ],
  [
    'svg',
    200,
    () =>
      Buffer.from(
        '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 40 30" width="40mm"><style>.a{fill:#f00}</style><linearGradient id="g"><stop offset="0" stop-color="red"/><stop offset="1"/></linearGradient><clipPath id="c"><circle r="9"/></clipPath><g clip-path="url(#c)" id="Cut"><path class="a" d="M0 0C1 2 3 4 5 6L9 9Z"/><use href="#g"/></g><text x="3" y="9" font-family="Nowhere">Łódź</text><rect width="9" height="9" fill="url(#g)"/></svg>'
      )
  ],
  ['png', 120, () => picture('png')],
  ['jpeg', 120, () => picture('jpeg')],
  ['webp', 60, () => picture('webp')],
  ['gif', 60, () => picture('gif')],
  ['tiff', 120, () => madeTiff({ width: 20, height: 20, photometric: 5, bits: 8, channels: 5, pixel: [0, 99, 99, 0, 9] })],
  ...(existsSync('/usr/bin/gs')
    ? [
        [
          'eps',
          25,
          () =>
            Buffer.from(
              '%!PS-Adobe-3.0 EPSF-3.0\n%%BoundingBox: 0 0 90 60\n0 1 0 0 setcmykcolor 5 5 50 30 rectfill showpage\n%%EOF\n'
            )
        ] as [string, number, () => Buffer]
      ]
    : [])
];

describe('artwork', () => {
  it.each(FORMATS)('of %s, spoilt in %i ways, is taken or gets a sentence, and leaves nothing', async (name, ways, make) => {
    const sound = await make();
    const ids = await Promise.all(
      Array.from({ length: ways }, async (_, seed) => {
        const { id } = await shop.artworks.take(`${name}-${seed}`, oneChunk(spoilt(sound, seed + 1)));
        return id;
      })
    );
    const all = await Promise.all(
      ids.map((id) => until(() => (shop.artworks.get(id).state === 'reading' ? undefined : shop.artworks.get(id))))
    );
    for (const { state, reason } of all) {
      if (state === 'ready') continue;
      expect(reason).toMatch(/^(\p{Lu}|EPS|“)[^_{}]*[.]$/u);
      expect(reason).not.toMatch(/undefined|NaN|TypeError|RuntimeError|stack|memory access|\/tmp/);
    }
    // What is drawn of those that were taken may be refused too, in words.
    for (const { id } of all.filter(({ state }) => state === 'ready').slice(0, 12))
      await shop.pictures.page(id, 0, 60).catch((error: unknown) => expect(error).toBeInstanceOf(Problem));
    // Good files are taken as before.
    const { id } = await shop.artworks.take('good', oneChunk(sound));
    await until(() => shop.artworks.get(id).state !== 'reading');
    expect(shop.artworks.get(id)).toMatchObject({ state: 'ready', reason: null });
    await until(() => readdirSync(join(folder.path, 'incoming')).length === 0);
    expect(await unneeded(shop.db, folder.path, 0)).toEqual([]);
  });
});

/** Carries something out on many spoilt copies. What it may throw is said; anything else is a fault. */
async function withstands(
  bytes: Uint8Array,
  ways: number,
  take: (bytes: Buffer) => unknown,
  ...told: (new (...given: never[]) => Error)[]
): Promise<void> {
  for (let seed = 1; seed <= ways; seed++) {
    try {
      await take(spoilt(bytes, seed));
    } catch (error) {
      if (!told.some((kind) => error instanceof kind)) throw new Error(`Seed ${seed}: ${String(error)}`, { cause: error });
      expect((error as Error).message).not.toMatch(/undefined|NaN|is not a function|Cannot read/);
    }
  }
}

describe('what is not artwork', () => {
  it('profiles are taken or get a sentence', async () => {
    await withstands(srgbProfile(), 300, (bytes) => shop.sources.take(Uint8Array.from(bytes)), Problem);
    await withstands(pressProfile(), 60, (bytes) => shop.sources.take(Uint8Array.from(bytes)), Problem);
  });

  it('readings get a sentence', async () => {
    const text = writeCgats({ head: { ORIGINATOR: 'x' }, patches: [{ id: 'A1', inks: [0, 0.5, 1, 0], lab: [50, 1, 2] }] });
    await withstands(Buffer.from(text), 500, (bytes) => readCgats(bytes.toString()), CgatsError);
  });

  it('media cards get a sentence, and none of a spoilt file is taken', async () => {
    const { id } = shop.media.add({ ...NEW_CARD, name: 'Film' });
    const file = await shop.cardFiles.write([id]);
    const before = shop.media.list().length;
    await withstands(file, 300, (bytes) => shop.cardFiles.look(bytes), Problem);
    await withstands(file, 100, (bytes) => shop.cardFiles.take(bytes, [{ index: 0, replace: false }]), Problem);
    // What is signed is whole or not at all: what was taken is the same card.
    expect(
      new Set(
        shop.media
          .list()
          .slice(before)
          .map(({ card }) => card.family)
      )
    ).toEqual(new Set(shop.media.list().length > before ? [NEW_CARD.family] : []));
  });

  it('fonts are tried out in a process of their own', async () => {
    const font = readFileSync('node_modules/dejavu-fonts-ttf/ttf/DejaVuSans.ttf');
    await withstands(font, 40, (bytes) => shop.fonts.take(Uint8Array.from(bytes)), Problem);
  });

  it('messages in IPP and HPGL break nothing', async () => {
    const ipp = encodeRequest(0x0b, 7, [{ tag: 0x45, name: 'printer-uri', values: ['ipp://127.0.0.1/ipp/print'] }]);
    await withstands(ipp, 1000, (bytes) => decodeRequest(bytes), Error);
    const hpgl = Buffer.from('IN;PA;SP1;VS30;FS100;PU400,400;PD800,400,800,800;PU0,0;SP0;');
    await withstands(hpgl, 1000, (bytes) => {
      const state = newHpglState();
      for (const instruction of bytes.toString('latin1').split(';')) runHpgl(state, instruction);
      for (const line of state.lines) for (const { x, y } of line) expect(Number.isFinite(x) && Number.isFinite(y)).toBe(true);
    });
  });

  it('choices and settings are as they should be, or refused', async () => {
    const settings = Buffer.from(JSON.stringify(shop.settings.current));
    const parse = (bytes: Buffer): unknown => {
      try {
        return JSON.parse(bytes.toString()) as unknown;
      } catch {
        return undefined;
      }
    };
    await withstands(settings, 1000, (bytes) => {
      const change = SettingsChange.safeParse(parse(bytes));
      if (change.success) expect(SettingsChange.parse(change.data)).toEqual(change.data);
    });
    const { id } = await shop.artworks.take(
      'a.svg',
      oneChunk('<svg xmlns="http://www.w3.org/2000/svg" width="9" height="9"><path d="M0 0h9v9z"/></svg>')
    );
    await until(() => shop.artworks.get(id).state === 'ready');
    const docket = shop.dockets.add(id, 0);
    const document = Buffer.from(JSON.stringify(docket));
    await withstands(
      document,
      500,
      (bytes) => {
        const change = DocketDocument.partial().safeParse(parse(bytes));
        if (change.success && change.data)
          shop.docketEditing.change(docket.id, shop.dockets.get(docket.id).version, change.data as never);
      },
      Problem
    );
    expect(shop.dockets.get(docket.id).id).toBe(docket.id);
  });
});
