import { readFileSync, writeFileSync } from 'node:fs';
import { gunzipSync } from 'node:zlib';
import { embedPage } from '$core/artwork/embedded-page';
import { forwarding, without } from '$core/artwork/page';
import { fieldLines, type FieldLine } from '$core/cutting/field-lines';
import * as mupdf from '$core/interpreter/interpreter';
import type { RecordChoices } from '$core/records/choices';
import { fontsOfField } from '$core/records/code-field';
import { CodeError } from '$core/records/codes';
import { ContentError } from '$core/records/content';
import type { KeptTable } from '$core/records/kept-table';
import { OverlayWriter, type FinishedBox, type OpenedFont, type SeenSpots } from '$core/records/overlay';
import { Filling, lookAt, sizesForAll } from '$core/records/records';
import type { Risk, RiskKind } from '$core/records/risks';
import type { ShopList } from '$core/records/lists';
import { TextFace } from '$core/records/shaping';
import type { ShopUnit } from '$core/units/length';
import { Problem } from '../../platform/problem';
import { openPdfFile } from '../../platform/workers/open-pdf';
import { FieldPictures, PictureError, type FoundPicture } from './field-pictures';

/** Records of a docket, wherever they are drawn or looked at. */
export interface RecordsRequest {
  /** The file of the table. */
  table: string;
  records: Pick<RecordChoices, 'fields' | 'chosen' | 'overrides'> & { lists?: readonly ShopList[] };
  /** All that are printed: sizes are for all of them. */
  numbers: readonly number[];
  faces: readonly { name: string; path: string }[];
  /** By what fields of pictures say, those that there are. */
  pictures: Readonly<Record<string, FoundPicture>>;
  size: FinishedBox;
  /** Modules of codes are whole drops of it. */
  dpi: number | null;
}

export interface OverlaysRequest extends RecordsRequest {
  /** Those that have a page, in the order of the pages. */
  pages: readonly number[];
  /** Where the pages go. */
  to: string;
}

export interface RecordPicturesRequest extends RecordsRequest {
  pages: readonly number[];
  /** The width of each, pixels. */
  px: number;
  /** Of spot colours that print in named colours of the shop. */
  seen: SeenSpots;
}

export interface LookRequest extends RecordsRequest {
  scale: number;
  leastPt: number;
  leastPpi: number;
  unit: ShopUnit;
}

/** What all records come to, as plain data. */
export interface RecordsLooked {
  count: number;
  /** By field. */
  fields: {
    id: number;
    sizeMm: number | null;
    smallest: { record: number; sizeMm: number } | null;
    longest: { record: number; text: string } | null;
  }[];
  risks: Risk[];
  counts: Record<RiskKind, number>;
}

/** What was opened last: pictures of the same table and fonts are asked for one after the other. */
let lastTable: { path: string; table: KeptTable } | undefined;
const fonts = new Map<string, OpenedFont>();
const MOST_FONTS = 40;

function tableAt(path: string): KeptTable {
  if (lastTable?.path !== path) lastTable = { path, table: JSON.parse(gunzipSync(readFileSync(path)).toString()) as KeptTable };
  return lastTable.table;
}

/** The fonts that fields ask for, by name. */
function fontsOf({ records, faces }: RecordsRequest): Map<string, OpenedFont> {
  const wanted = new Set(records.fields.flatMap(fontsOfField));
  const found = faces.filter(({ name }) => wanted.has(name));
  return new Map(
    found.map(({ name, path }) => {
      let font = fonts.get(path);
      if (!font) {
        const file = readFileSync(path);
        font = { face: new TextFace(file), file };
        if (fonts.size >= MOST_FONTS) fonts.clear();
        fonts.set(path, font);
      }
      return [name, font];
    })
  );
}

/** What core says of fields is said to a person. */
async function told<T>(work: () => T | Promise<T>): Promise<T> {
  try {
    return await work();
  } catch (error) {
    if (error instanceof CodeError || error instanceof ContentError || error instanceof RangeError)
      throw new Problem(422, error.message);
    throw error;
  }
}

/** The last sizes for all: pictures of the same records are asked for one after the other. */
let lastSizes: { key: string; sizes: Map<number, number> } | undefined;

function sizesOf(request: RecordsRequest, filling: Filling, faces: ReadonlyMap<string, TextFace>): Map<number, number> {
  const { fields, ...others } = request.records;
  // Fields with sizes of their own change nothing of those for all.
  const shared = fields.filter((field) => field.is === 'text' && field.size.is === 'one for all');
  const key = JSON.stringify([request.table, shared, others, request.numbers]);
  const sizes = lastSizes?.key === key ? lastSizes.sizes : sizesForAll(filling, fields, faces);
  lastSizes = { key, sizes };
  return sizes;
}

function opened(request: RecordsRequest) {
  const fonts = fontsOf(request);
  const faces = new Map([...fonts].map(([name, { face }]) => [name, face]));
  const filling = new Filling({ table: tableAt(request.table), ...request.records }, request.numbers);
  return { fonts, faces, filling };
}

/** A page for each of some records. */
async function written(
  request: RecordsRequest,
  pages: readonly number[],
  forgiving: boolean,
  seen?: SeenSpots
): Promise<Uint8Array> {
  const { fonts, faces, filling } = opened(request);
  const sizes = sizesOf(request, filling, faces);
  const writer = new OverlayWriter(request.size, fonts, request.dpi ?? undefined, seen);
  const pictures = new FieldPictures(request.pictures, request.dpi ?? undefined);
  for (const record of pages) {
    const texts = filling.texts(record);
    // Lines for tools are seen, and never printed.
    const lines = forgiving ? fieldLines(texts, faces, sizes).map(({ path }) => path) : [];
    try {
      writer.add(texts, sizes, await pictures.of(texts, forgiving), lines);
    } catch (error) {
      // A code that cannot be is left out of what is looked at, and told there; it is never printed.
      if (!(error instanceof CodeError || error instanceof PictureError)) throw error;
      if (!forgiving) throw new CodeError(`Record ${record}: ${error.message}`);
      const others = texts.filter(({ field }) => field.is !== 'code');
      writer.add(others, sizes, await pictures.of(others, forgiving), lines);
    }
  }
  return withPages(writer.finish(), writer.places);
}

/** Puts the pages of other files into the places that are kept for them. */
function withPages(file: Uint8Array, places: OverlayWriter['places']): Uint8Array {
  if (places.length === 0) return file;
  const whole = mupdf.Document.openDocument(file, 'application/pdf').asPDF()!;
  try {
    for (const { object, page } of places) {
      const opened = openPdfFile(page.path);
      try {
        embedPage(whole, object, opened.document, page.leftOut);
      } finally {
        opened.close();
      }
    }
    return Uint8Array.from(whole.saveToBuffer('compress').asUint8Array());
  } finally {
    whole.destroy();
  }
}

/** Writes the pages that are drawn over copies. @throws Problem for a record that cannot be printed */
export async function overlays(request: OverlaysRequest): Promise<void> {
  writeFileSync(request.to, await told(() => written(request, request.pages, false)));
}

/** The lines that follow the lettering of some records, in their order. */
export function recordLines(request: Omit<OverlaysRequest, 'to'>): Promise<FieldLine[][]> {
  return told(() => {
    const { faces, filling } = opened(request);
    const sizes = sizesOf(request, filling, faces);
    return request.pages.map((record) => fieldLines(filling.texts(record), faces, sizes));
  });
}

/** What the fields of pictures say of some records, each name once. */
export function picturesAsked({
  table,
  records,
  pages
}: Pick<OverlaysRequest, 'table' | 'records' | 'pages'>): Promise<string[]> {
  return told(() => {
    const fields = records.fields.filter((field) => field.is === 'picture');
    const filling = new Filling({ table: tableAt(table), ...records, fields }, pages);
    return [...new Set(pages.flatMap((record) => filling.texts(record).map(({ text }) => text.trim())))].filter(Boolean);
  });
}

/** Pictures of some records without their artwork, one below the other. @returns PNG, what is not printed on is clear */
export async function recordPictures(request: RecordPicturesRequest): Promise<Uint8Array> {
  const file = await told(() => written(request, request.pages, true, request.seen));
  const { widthMm, heightMm } = request.size;
  const height = Math.max(1, Math.round((request.px * heightMm) / widthMm));
  const all = new mupdf.Pixmap(mupdf.ColorSpace.DeviceRGB, [0, 0, request.px, height * request.pages.length], true);
  all.clear();
  const document = mupdf.Document.openDocument(file, 'application/pdf');
  const device = new mupdf.DrawDevice(mupdf.Matrix.identity, all);
  const seen = new mupdf.Device(without(forwarding(device), { spots: [] }));
  try {
    request.pages.forEach((_, i) => {
      const page = document.loadPage(i);
      const [x0, y0, x1, y1] = page.getBounds();
      const matrix: mupdf.Matrix = [request.px / (x1 - x0), 0, 0, height / (y1 - y0), 0, i * height];
      page.run(seen, matrix);
      page.destroy();
    });
    device.close();
    return Uint8Array.from(all.asPNG());
  } finally {
    seen.destroy();
    device.destroy();
    document.destroy();
    all.destroy();
  }
}

/** Looks at all records: what of them is at risk. */
export function lookAtRecords(request: LookRequest, _: unknown, done: (share: number) => void): Promise<RecordsLooked> {
  return told(() => {
    const { faces, filling } = opened(request);
    const looking = lookAt(filling, {
      faces,
      pictures: new Map(Object.entries(request.pictures)),
      scale: request.scale,
      leastPt: request.leastPt,
      leastPpi: request.leastPpi,
      unit: request.unit,
      dpi: request.dpi ?? undefined
    });
    let step = looking.next();
    while (!step.done) {
      done(step.value / Math.max(1, filling.numbers.length));
      step = looking.next();
    }
    const { sizes, smallest, longest, risks, counts } = step.value;
    return {
      count: filling.numbers.length,
      fields: request.records.fields.map(({ id }) => {
        const least = smallest.get(id);
        return {
          id,
          sizeMm: sizes.get(id) ?? null,
          smallest: least ? { record: least.record, sizeMm: least.size } : null,
          longest: longest.get(id) ?? null
        };
      }),
      risks,
      counts
    };
  });
}
