import PDFDocument from 'pdfkit';
import type { CutFile } from '$core/cutting/cut-files';

const POINTS_A_MM = 72 / 25.4;
const LINE_PT = 0.25;
const MOST_UNITS = 14_400;
/** How each tool's spot colour looks where it is not known, CMYK in percent. */
const LOOKS = {
  'kiss cut': [0, 100, 0, 0],
  crease: [100, 50, 0, 0],
  perforation: [0, 0, 100, 50],
  'through cut': [0, 100, 100, 0]
} as const;

/** PDF: lines stroked in a spot colour of their tool's name, marks in black. */
export async function writeCutPdf({ widthMm, lengthMm, lines, marks }: CutFile): Promise<Uint8Array> {
  // A page is 14,400 units at most (ISO 32000): of a longer print each is larger.
  const userUnit = Math.max(1, Math.ceil((Math.max(widthMm, lengthMm) * POINTS_A_MM) / MOST_UNITS));
  const unitsAMm = POINTS_A_MM / userUnit;
  const page = { size: [widthMm * unitsAMm, lengthMm * unitsAMm], margin: 0, userUnit };
  const doc = new PDFDocument(page as PDFKit.PDFDocumentOptions);
  const chunks: Buffer[] = [];
  const ended = new Promise<void>((resolve, reject) => {
    doc.on('end', resolve).on('error', reject);
    doc.on('data', (chunk: Buffer) => chunks.push(chunk));
  });
  const spots = doc as unknown as { addSpotColor(name: string, c: number, m: number, y: number, k: number): void };
  for (const [tool, [c, m, y, k]] of Object.entries(LOOKS)) spots.addSpotColor(tool, c, m, y, k);
  doc.scale(unitsAMm).lineWidth(LINE_PT / POINTS_A_MM);
  for (const { x, y, diameter } of marks) doc.circle(x, y, diameter / 2).fill([0, 0, 0, 100]);
  for (const { points, closed, tool } of lines) {
    points.forEach(({ x, y }, i) => (i === 0 ? doc.moveTo(x, y) : doc.lineTo(x, y)));
    if (closed) doc.closePath();
    doc.stroke(tool);
  }
  doc.end();
  await ended;
  return new Uint8Array(Buffer.concat(chunks));
}
