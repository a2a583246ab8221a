import sharp from 'sharp';
import type { MarksByInk } from '$core/artwork/docket-stack';
import { makeDrawing, type Drawing } from '$core/artwork/drawing';
import type { ColourTarget, InkSpace } from '$core/artwork/resolver/resolver';
import type { Kernels } from '$core/kernels/kernels';
import { makeMarkedDrawing } from '$core/artwork/marked';
import { drawingChoices, type Piece } from '$core/artwork/piece';
import { LayerDrawer, type LayerDrawings, type PieceLayer } from '$core/artwork/piece-layers';
import { tonePixels, toneTablesOf } from '$core/artwork/toned';
import { layerPicture, stackPicture, type DrawnLayer } from '$core/artwork/stack-picture';
import type { IntentChoice } from '$core/colour/icc-write';
import { xyzOf, type Ground } from '$core/colour/stack-look';
import { sizeBeyond } from '$core/geometry/box';
import type { ExtraInk } from '$core/inks/stack';
import * as mupdf from '$core/interpreter/interpreter';
import type { Press } from '$core/media/press';
import { MM_PER_INCH } from '$core/units/length';
import { openInkSpace, readSources, type InkSpaceFiles } from '../../conditions/workers/ink-space';
import { openKernels } from '../../platform/workers/kernels-file';
import { openPdfFile } from '../../platform/workers/open-pdf';
import { sizeOf } from './size';

/** The layers of a piece, and what they are drawn from. */
export interface LayersDrawn {
  pdf: string;
  page: number;
  piece: Piece;
  /** From the media upwards. */
  layers: PieceLayer[];
  marks: MarksByInk;
  channels: Press['channels'];
  /** A file whose first page lies over it. */
  over?: string | undefined;
}

export interface LayersRequest extends LayersDrawn {
  /** Of the condition; nothing before there is one. */
  profile: string | null;
  intent: IntentChoice;
  sources: InkSpaceFiles['sources'];
  limits: InkSpaceFiles['limits'];
  kernels: string;
  ground: { body: Ground['body']; colour: string };
  /** All of them on the media, from a side over a colour, or one by its number. */
  show: { from: 'front' | 'behind'; backing: string } | { layer: number };
  mostPx: number;
}

/** A picture of a piece with what lies under and over its colour, bleed included. @returns PNG */
export async function layers(request: LayersRequest): Promise<Uint8Array> {
  const { piece, show } = request;
  const kernels = openKernels(request.kernels);
  const { width, height } = sizeOf(piece, request.mostPx);
  // Without a condition the customer's own inks stand in for it.
  const inks = request.profile
    ? await openInkSpace({ ...request, profile: request.profile, adjustment: piece.prepare.adjustment }, kernels)
    : inkless(request.sources);
  const drawn = drawLayers(request, inks, kernels, width, height).map((pixels, i): DrawnLayer => {
    const { ink } = request.layers[i]!;
    if (ink !== 'colour') return { ink, pixels, channels: request.channels[ink] ?? 1 };
    return { ink, pixels: onScreen(pixels, inks.target, width, height), channels: 1 };
  });
  const count = width * height;
  const rgb = 'layer' in show ? alone(request.layers, drawn, show.layer, count) : together(request, drawn, count);
  return sharp(rgb, { raw: { width, height, channels: 3 } })
    .png()
    .toBuffer();
}

/** Each layer of a piece at a size: of colour its inks, of any other ink how much of each channel. */
export function drawLayers(
  { pdf, page, piece, layers: wanted, marks, channels, over }: LayersDrawn,
  inks: InkSpace | ColourTarget,
  kernels: Kernels,
  width: number,
  height: number
): Uint8Array[] {
  const opened: ReturnType<typeof openPdfFile>[] = [];
  const open = (file = pdf) => {
    const made = openPdfFile(file);
    opened.push(made);
    return made.document;
  };
  try {
    const [marked, markedOver]: [LayerDrawings['marked'], LayerDrawings['marked']] = [{}, {}];
    for (const [ink, named] of Object.entries(marks) as [ExtraInk, NonNullable<MarksByInk[ExtraInk]>][])
      if (wanted.some((one) => one.ink === ink && one.cover.is === 'marked')) {
        marked[ink] = makeMarkedDrawing(open(), page, named, piece.prepare.leftOut);
        if (over) markedOver[ink] = makeMarkedDrawing(open(over), 0, named, piece.prepare.leftOut);
      }
    const own = Object.fromEntries(
      wanted.flatMap(({ id, own: other }) =>
        other ? [[id, makeDrawing(open(), other.page, drawingChoices({ ...piece, prepare: other.prepare }), inks)]] : []
      )
    ) as Record<number, Drawing>;
    const drawings = {
      page: makeDrawing(open(), page, drawingChoices(piece), inks),
      own,
      marked,
      over: over ? { colour: makeDrawing(open(over), 0, drawingChoices(piece), inks), marked: markedOver } : undefined
    };
    const finished = sizeBeyond(piece.widthMm, piece.heightMm, piece.bleed);
    const dpi = { x: (width / finished.width) * MM_PER_INCH, y: (height / finished.height) * MM_PER_INCH };
    const drawer = new LayerDrawer({ dpi, channels, kernels });
    const made = drawer.draw(piece, wanted, drawings, { x: 0, y: 0, width, height, turn: 0 }, 0, height);
    const { tone } = piece.prepare;
    const drawn = made.layers.map((pixels, i) => {
      const own = Uint8Array.from(pixels());
      if (tone && wanted[i]!.ink === 'colour') tonePixels(own, toneTablesOf(tone));
      return own;
    });
    made.release();
    const lying = drawings.over ? [drawings.over.colour, ...Object.values(markedOver)] : [];
    for (const { list } of [drawings.page, ...Object.values(own), ...Object.values(marked), ...lying]) list.destroy();
    return drawn;
  } finally {
    for (const one of opened) one.close();
  }
}

function inkless(files: InkSpaceFiles['sources']) {
  const sources = readSources(files);
  return { target: new mupdf.ColorSpace(sources.cmyk, 'source-cmyk'), profile: sources.cmyk, sources };
}

/** Inks as they look on white. */
function onScreen(pixels: Uint8Array, inks: mupdf.ColorSpace, width: number, height: number): Uint8Array {
  const pixmap = new mupdf.Pixmap(inks, [0, 0, width, height], false);
  pixmap.getPixels().set(pixels);
  const shown = pixmap.convertToColorSpace(mupdf.ColorSpace.DeviceRGB, false);
  const rgb = Uint8Array.from(shown.getPixels());
  pixmap.destroy();
  shown.destroy();
  return rgb;
}

function together({ ground, show }: LayersRequest, drawn: readonly DrawnLayer[], count: number): Uint8Array {
  if ('layer' in show) throw new TypeError('One layer is asked for.');
  const on: Ground = { body: ground.body, colour: xyzOf(ground.colour) };
  return stackPicture(drawn, count, on, { from: show.from, backing: xyzOf(show.backing) });
}

/** One layer; bare where it has gone meanwhile. */
function alone(layers: readonly PieceLayer[], drawn: readonly DrawnLayer[], id: number, count: number): Uint8Array {
  const one = drawn[layers.findIndex((layer) => layer.id === id)];
  return one ? layerPicture(one) : new Uint8Array(count * 3).fill(255);
}
