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
}

const SPACES = { 1: '/DeviceGray', 3: '/DeviceRGB', 4: '/DeviceCMYK' } as const;

/**
 * A PDF 1.4 of one page that a picture fills.
 *
 * @param size points
 */
export function picturePdf(picture: PdfPicture, size: { width: number; height: number }): Uint8Array {
  const parts: Uint8Array[] = [];
  const offsets: number[] = [];
  const encoder = new TextEncoder();
  let length = 0;
  const put = (part: Uint8Array | string) => {
    const bytes = typeof part === 'string' ? encoder.encode(part) : part;
    parts.push(bytes);
    length += bytes.length;
  };
  const object = (dictionary: string, stream?: Uint8Array) => {
    offsets.push(length);
    put(`${offsets.length} 0 obj\n`);
    if (stream) {
      put(`<<${dictionary}/Length ${stream.length}>>\nstream\n`);
      put(stream);
      put('\nendstream\nendobj\n');
    } else put(`<<${dictionary}>>\nendobj\n`);
  };
  const w = size.width.toFixed(4);
  const h = size.height.toFixed(4);
  const space = picture.icc ? '[/ICCBased 6 0 R]' : SPACES[picture.channels];
  const mask = picture.alpha ? `/SMask ${picture.icc ? 7 : 6} 0 R` : '';
  const shape = `/Type/XObject/Subtype/Image/Width ${picture.width}/Height ${picture.height}/BitsPerComponent 8`;
  put('%PDF-1.4\n');
  object('/Type/Catalog/Pages 2 0 R');
  object('/Type/Pages/Kids[3 0 R]/Count 1');
  object(`/Type/Page/Parent 2 0 R/MediaBox[0 0 ${w} ${h}]/Contents 4 0 R/Resources<</XObject<</P 5 0 R>>>>`);
  object('', encoder.encode(`q ${w} 0 0 ${h} 0 0 cm /P Do Q`));
  object(`${shape}/ColorSpace${space.startsWith('/') ? '' : ' '}${space}/Filter/${picture.filter}${mask}`, picture.data);
  if (picture.icc) object(`/N ${picture.channels}`, picture.icc);
  if (picture.alpha) object(`${shape}/ColorSpace/DeviceGray/Filter/FlateDecode`, picture.alpha);
  const start = length;
  put(`xref\n0 ${offsets.length + 1}\n0000000000 65535 f \n`);
  for (const offset of offsets) put(`${String(offset).padStart(10, '0')} 00000 n \n`);
  put(`trailer\n<</Size ${offsets.length + 1}/Root 1 0 R>>\nstartxref\n${start}\n%%EOF\n`);
  const out = new Uint8Array(length);
  let at = 0;
  for (const part of parts) {
    out.set(part, at);
    at += part.length;
  }
  return out;
}
