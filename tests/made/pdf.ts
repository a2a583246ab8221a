/** Small PDFs written by hand, so that a test says exactly what is in them. Lengths are mm, y up, as PDF has it. */

const PT = 72 / 25.4;

export interface MadePage {
  width: number;
  height: number;
  /** Boxes as x, y, width, height. */
  trim?: readonly number[];
  bleed?: readonly number[];
  crop?: readonly number[];
  /** Drawing operators; the unit is mm. */
  content: string;
  /** Spot colours: name → CMYK of the full tint. */
  spots?: Record<string, readonly [number, number, number, number]>;
  /** Optional content: name → whether it is switched on. */
  layers?: Record<string, boolean>;
  /** Graphics states by name. */
  states?: Record<string, string>;
  /** A picture /P of so many pixels of mid grey (or the samples given, RGB). */
  picture?: { width: number; height: number; rgb?: Uint8Array; alpha?: Uint8Array };
  /** Fonts /F (held in no file) as their base names. */
  font?: string;
  /** A stamp on the page, 20 mm wide. */
  stamp?: boolean;
  /** Fields of a form: their names, and their boxes in mm. */
  forms?: readonly { name: string; rect: readonly number[]; is?: 'text' | 'tick' | 'picture' }[];
}

/** @returns a PDF of these pages */
export function madePdf(...pages: MadePage[]): Buffer {
  const parts: Buffer[] = [];
  const offsets: number[] = [];
  let length = 0;
  let next = 3;
  const put = (bytes: Buffer | string) => {
    const buffer = typeof bytes === 'string' ? Buffer.from(bytes, 'latin1') : bytes;
    parts.push(buffer);
    length += buffer.length;
  };
  const object = (dictionary: string, stream?: Buffer, number = next++): number => {
    offsets[number] = length;
    put(`${number} 0 obj\n`);
    if (stream) {
      put(`<<${dictionary}/Length ${stream.length}>>\nstream\n`);
      put(stream);
      put('\nendstream\nendobj\n');
    } else put(`${dictionary}\nendobj\n`);
    return number;
  };
  put('%PDF-1.6\n');
  const formFields: number[] = [];
  const layerNumbers = new Map<string, { number: number; on: boolean }>();
  const kids = pages.map((page) => {
    const box = (b: readonly number[]) => `[${b[0]! * PT} ${b[1]! * PT} ${(b[0]! + b[2]!) * PT} ${(b[1]! + b[3]!) * PT}]`;
    const spots = Object.entries(page.spots ?? {}).map(([name, cmyk], i) => {
      const shade = `<</FunctionType 2/Domain[0 1]/C0[0 0 0 0]/C1[${cmyk.join(' ')}]/N 1>>`;
      return `/S${i} [/Separation /${name.replace(/[^A-Za-z0-9]/g, (c) => `#${c.charCodeAt(0).toString(16).padStart(2, '0')}`)} /DeviceCMYK ${shade}]`;
    });
    const layers = Object.entries(page.layers ?? {}).map(([name, on], i) => {
      const number = layerNumbers.get(name)?.number ?? object(`<</Type/OCG/Name(${name})>>`);
      layerNumbers.set(name, { number, on });
      return `/L${i} ${number} 0 R`;
    });
    let picture = '';
    if (page.picture) {
      const { width, height, rgb, alpha } = page.picture;
      const mask = alpha
        ? `/SMask ${object(`/Type/XObject/Subtype/Image/Width ${width}/Height ${height}/BitsPerComponent 8/ColorSpace/DeviceGray`, Buffer.from(alpha))} 0 R`
        : '';
      const data = Buffer.from(rgb ?? new Uint8Array(width * height * 3).fill(128));
      picture = `/XObject<</P ${object(`/Type/XObject/Subtype/Image/Width ${width}/Height ${height}/BitsPerComponent 8/ColorSpace/DeviceRGB${mask}`, data)} 0 R>>`;
    }
    const usesFont = page.content.includes(' Tf');
    const font = usesFont ? `/Font<</F ${object(`<</Type/Font/Subtype/Type1/BaseFont/${page.font ?? 'Helvetica'}>>`)} 0 R>>` : '';
    const states = `/ExtGState<<${Object.entries(page.states ?? {})
      .map(([name, dictionary]) => `/${name} <<${dictionary}>>`)
      .join('')}>>`;
    const contents = object('', Buffer.from(`${PT} 0 0 ${PT} 0 0 cm\n${page.content}`, 'latin1'));
    const resources = `<</ColorSpace<<${spots.join('')}>>/Properties<<${layers.join('')}>>${states}${picture}${font}>>`;
    const boxes = `/MediaBox${box([0, 0, page.width, page.height])}${page.trim ? `/TrimBox${box(page.trim)}` : ''}${page.bleed ? `/BleedBox${box(page.bleed)}` : ''}${page.crop ? `/CropBox${box(page.crop)}` : ''}`;
    const look = page.stamp && object('/Type/XObject/Subtype/Form/BBox[0 0 20 10]', Buffer.from('1 0 0 rg 0 0 20 10 re f'));
    const stamp = look ? `/Annots[<</Type/Annot/Subtype/Stamp/F 4/Rect${box([5, 5, 20, 10])}/AP<</N ${look} 0 R>>>>]` : '';
    const kinds = { text: '/FT/Tx', tick: '/FT/Btn', picture: '/FT/Btn/Ff 65536' };
    const fields = (page.forms ?? []).map(({ name, rect, is = 'text' }) =>
      object(`<</Type/Annot/Subtype/Widget${kinds[is]}/F 4/T(${name})/Rect${box(rect)}>>`)
    );
    formFields.push(...fields);
    const annotations = fields.length > 0 ? `/Annots[${fields.map((field) => `${field} 0 R`).join(' ')}]` : stamp;
    return object(`<</Type/Page/Parent 2 0 R${boxes}${annotations}/Contents ${contents} 0 R/Resources${resources}>>`);
  });
  const all = [...layerNumbers.values()];
  const refs = (list: typeof all) => list.map(({ number }) => `${number} 0 R`).join(' ');
  const optional = all.length
    ? `/OCProperties<</OCGs[${refs(all)}]/D<</Order[${refs(all)}]/OFF[${refs(all.filter(({ on }) => !on))}]>>>>`
    : '';
  object(
    `<</Type/Catalog/Pages 2 0 R${optional}${formFields.length ? `/AcroForm<</Fields[${formFields.map((n) => `${n} 0 R`).join(' ')}]>>` : ''}>>`,
    undefined,
    1
  );
  object(`<</Type/Pages/Kids[${kids.map((n) => `${n} 0 R`).join(' ')}]/Count ${kids.length}>>`, undefined, 2);
  const start = length;
  put(`xref\n0 ${next}\n0000000000 65535 f \n`);
  for (let n = 1; n < next; n++) put(`${String(offsets[n] ?? 0).padStart(10, '0')} 00000 n \n`);
  put(`trailer\n<</Size ${next}/Root 1 0 R>>\nstartxref\n${start}\n%%EOF\n`);
  return Buffer.concat(parts);
}

/** A filled box in CMYK. */
export const cmykBox = (colour: string, x: number, y: number, w: number, h: number) => `${colour} k ${x} ${y} ${w} ${h} re f\n`;
/** A line of lettering in Helvetica, size in mm. */
export const lettering = (colour: string, x: number, y: number, size: number, text = 'Regatta') =>
  `BT ${colour} /F ${size} Tf ${x} ${y} Td (${text}) Tj ET\n`;
/** An outline in the spot colour /S0. */
export const spotStroke = (path: string, space = 0) => `/S${space} CS 1 SCN 0.1 w ${path} S\n`;

/** A PDF of objects written out as they are; the first is the catalogue. */
export function rawPdf(objects: readonly string[]): Buffer {
  let text = '%PDF-1.6\n';
  const rows = objects.map((object, i) => {
    const at = text.length;
    text += `${i + 1} 0 obj\n${object}\nendobj\n`;
    return `${String(at).padStart(10, '0')} 00000 n \n`;
  });
  const start = text.length;
  text += `xref\n0 ${objects.length + 1}\n0000000000 65535 f \n${rows.join('')}trailer\n<</Size ${objects.length + 1}/Root 1 0 R>>\nstartxref\n${start}\n%%EOF\n`;
  return Buffer.from(text, 'latin1');
}

/** A stream object for `rawPdf`. */
export const rawStream = (dictionary: string, text: string): string =>
  `<<${dictionary}/Length ${text.length}>>\nstream\n${text}\nendstream`;
