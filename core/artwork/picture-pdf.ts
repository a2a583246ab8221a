/** A picture for a PDF page: its data already coded as `filter` says. */
export interface PdfPicture {
  width: number;
  height: number;
  data: Uint8Array;
  filter: 'DCTDecode' | 'FlateDecode';
  channels: 1 | 3 | 4;
  icc: Uint8Array | undefined;
  /** A deflated soft mask of 8 bits. */
  alpha?: Uint8Array | undefined;
  /** The page that it fills, points. */
  page: { width: number; height: number };
}

const SPACES = { 1: '/DeviceGray', 3: '/DeviceRGB', 4: '/DeviceCMYK' } as const;

/** A PDF 1.4 of pages that a picture fills each. */
export function picturesPdf(pictures: readonly PdfPicture[]): Uint8Array {
  const parts: Uint8Array[] = [];
  const offsets: number[] = [];
  const encoder = new TextEncoder();
  let length = 0;
  const put = (part: Uint8Array | string) => {
    const bytes = typeof part === 'string' ? encoder.encode(part) : part;
    parts.push(bytes);
    length += bytes.length;
  };
  const write = (number: number, dictionary: string, stream?: Uint8Array) => {
    offsets[number] = length;
    put(`${number} 0 obj\n`);
    if (stream) {
      put(`<<${dictionary}/Length ${stream.length}>>\nstream\n`);
      put(stream);
      put('\nendstream\nendobj\n');
    } else put(`<<${dictionary}>>\nendobj\n`);
  };
  put('%PDF-1.4\n');
  let next = 3;
  const kids = pictures.map((picture) => {
    const { page } = picture;
    const w = page.width.toFixed(4);
    const h = page.height.toFixed(4);
    const [number, contents, image] = [next, next + 1, next + 2];
    next += 3;
    const icc = picture.icc && next++;
    const mask = picture.alpha && next++;
    const space = icc ? ` [/ICCBased ${icc} 0 R]` : SPACES[picture.channels];
    const shape = `/Type/XObject/Subtype/Image/Width ${picture.width}/Height ${picture.height}/BitsPerComponent 8`;
    write(
      number,
      `/Type/Page/Parent 2 0 R/MediaBox[0 0 ${w} ${h}]/Contents ${contents} 0 R/Resources<</XObject<</P ${image} 0 R>>>>`
    );
    write(contents, '', encoder.encode(`q ${w} 0 0 ${h} 0 0 cm /P Do Q`));
    write(image, `${shape}/ColorSpace${space}/Filter/${picture.filter}${mask ? `/SMask ${mask} 0 R` : ''}`, picture.data);
    if (icc) write(icc, `/N ${picture.channels}`, picture.icc);
    if (mask) write(mask, `${shape}/ColorSpace/DeviceGray/Filter/FlateDecode`, picture.alpha);
    return `${number} 0 R`;
  });
  write(1, '/Type/Catalog/Pages 2 0 R');
  write(2, `/Type/Pages/Kids[${kids.join(' ')}]/Count ${kids.length}`);
  const start = length;
  put(`xref\n0 ${next}\n0000000000 65535 f \n`);
  for (let number = 1; number < next; number++) put(`${String(offsets[number] ?? 0).padStart(10, '0')} 00000 n \n`);
  put(`trailer\n<</Size ${next}/Root 1 0 R>>\nstartxref\n${start}\n%%EOF\n`);
  const out = new Uint8Array(length);
  let at = 0;
  for (const part of parts) {
    out.set(part, at);
    at += part.length;
  }
  return out;
}
