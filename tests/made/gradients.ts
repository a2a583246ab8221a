import { rawPdf, rawStream } from './pdf';
import { makeDrawing, drawInto } from '$core/artwork/drawing';
import * as mupdf from '$core/interpreter/interpreter';
import { openPdf } from '$core/artwork/page';
import { readPageFacts } from '$core/artwork/read-facts';
import { greyProfile, srgbProfile } from '$core/colour/icc-write';
import { offsetCoated } from '$core/colour/conditions';
import { DEFAULT_SEPARATION } from '$core/colour/black';
import { buildProfile, modelPress } from '$core/colour/profile-build';

/** A page with gradients of every kind that programs write: along a line, in a circle, by function, as mesh, in patterns, as masks. */
export function gradientPage(): Buffer {
  const ramp = '<</FunctionType 2/Domain[0 1]/C0[1 0 0]/C1[0 0 1]/N 1>>';
  const grey = '<</FunctionType 2/Domain[0 1]/C0[0]/C1[1]/N 1>>';
  const axial = (x: number, extra = '') =>
    `<</ShadingType 2/ColorSpace/DeviceRGB/Coords[${x} 0 ${x + 40} 20]/Function ${ramp}/Extend[true true]${extra}>>`;
  const mesh = Buffer.alloc(3 * 6);
  [
    [0, 0, 0, 255, 0, 0],
    [0, 255, 0, 0, 255, 0],
    [0, 128, 255, 0, 0, 255]
  ].forEach((vertex, i) => mesh.set(vertex, i * 6));
  const content = [
    'q 0 0 40 40 re W n /A sh Q',
    'q 40 0 40 40 re W n /R sh Q',
    'q 40 0 0 40 0 40 cm /M sh Q',
    '/Pattern cs /P scn 40 40 40 40 re f',
    '/Pattern CS /P SCN 3 w 5 5 70 70 re S',
    '/G gs 0 0 1 rg 0 0 80 80 re f'
  ].join('\n');
  const objects = [
    '<</Type/Catalog/Pages 2 0 R>>',
    '<</Type/Pages/Kids[3 0 R]/Count 1>>',
    `<</Type/Page/Parent 2 0 R/MediaBox[0 0 80 80]/Contents 4 0 R/Resources<</Shading<</A ${axial(0)}/R <</ShadingType 3/ColorSpace/DeviceRGB/Coords[60 20 0 60 20 20]/Function ${ramp}/Extend[true true]>>/M 6 0 R>>/Pattern<</P <</PatternType 2/Shading ${axial(40)}>>>>/ExtGState<</G <</SMask<</S/Luminosity/G 5 0 R>>>>>>>>>>`,
    rawStream('', content),
    rawStream(
      `/Type/XObject/Subtype/Form/BBox[0 0 80 80]/Group<</S/Transparency/CS/DeviceGray>>/Resources<</Shading<</A <</ShadingType 2/ColorSpace/DeviceGray/Coords[0 0 80 0]/Function ${grey}/Extend[true true]>>>>>>`,
      '/A sh'
    ),
    rawStream(
      '/ShadingType 4/ColorSpace/DeviceRGB/BitsPerCoordinate 8/BitsPerComponent 8/BitsPerFlag 8/Decode[0 1 0 1 0 1 0 1 0 1]/Filter/ASCIIHexDecode',
      mesh.toString('hex')
    )
  ];
  return rawPdf(objects);
}

export interface Soak {
  pages: number;
  /** Pages that could not be read or drawn, or came out otherwise than the first. */
  failures: number;
  first: string;
}

/**
 * Reads and draws a page of gradients again and again in this thread, half of them opened anew, for the screen and for inks
 * in turn. Stops where the interpreter breaks, since nothing after that is worth counting.
 */
export async function gradientSoak(pages: number): Promise<Soak> {
  const bytes = gradientPage();
  const open = () =>
    openPdf((into, position) => {
      const part = bytes.subarray(position, position + into.length);
      into.set(part);
      return part.length;
    }, bytes.length);
  const press = modelPress(offsetCoated());
  const cmyk = buildProfile(press, {
    name: 'Soak',
    version: 2,
    made: { year: 2026, month: 1, day: 1 },
    separation: DEFAULT_SEPARATION,
    forwardGrid: 5,
    backwardGrid: 7
  });
  const sources = { rgb: srgbProfile(), cmyk, grey: greyProfile() };
  const targets = [mupdf.ColorSpace.DeviceRGB, new mupdf.ColorSpace(cmyk, 'inks')];
  const choices = {
    leftOut: { spots: [], layers: [] },
    enlarged: 'as it suits' as const,
    blackText: false,
    blackPictures: false,
    overprint: true,
    richBlack: false,
    thinnestMm: 0,
    enlargement: 1
  };
  const wanted: (string | undefined)[] = [undefined, undefined];
  let kept = open();
  for (let i = 0; i < pages; i++) {
    const which = i % 2;
    // What is collected is let go of between pieces of work, as in the threads of the shop.
    await new Promise((resolve) => setImmediate(resolve));
    try {
      const fresh = i % 4 < 2;
      const document = fresh ? open() : kept;
      readPageFacts(document, 0);
      const drawing = makeDrawing(document, 0, choices, { target: targets[which]!, sources });
      const pixmap = new mupdf.Pixmap(targets[which]!, [0, 0, 80, 80], false);
      pixmap.clear(255);
      drawInto(pixmap, drawing, mupdf.Matrix.identity);
      const picture = Buffer.from(pixmap.getPixels()).toString('latin1');
      wanted[which] ??= picture;
      if (picture !== wanted[which]) return { pages: i, failures: 1, first: `Page ${i} came out otherwise.` };
      pixmap.destroy();
      drawing.list.destroy();
      if (fresh) document.destroy();
      if (i % 100 === 99) {
        kept.destroy();
        kept = open();
      }
    } catch (error) {
      return { pages: i, failures: pages - i, first: `Page ${i}: ${String(error)}` };
    }
  }
  return { pages, failures: 0, first: '' };
}
