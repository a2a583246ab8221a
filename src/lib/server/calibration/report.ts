import PDFDocument from 'pdfkit';
import { SHIPPED } from '$core/artwork/svg/fonts';
import { describe } from '$core/charts/check-readings';
import { labToXyz, xyzToSrgb, type Triple } from '$core/colour/lab';
import type { StepResult } from '$lib/calibration';
import { shippedFonts } from '../artwork/shipped-fonts';
import type { Condition } from '../conditions/condition';

const MARGIN = 48;
const ROW = 15;

/** A font that the program comes with; those that PDF readers have lack letters of names. */
const fontFile = (font: string): string => shippedFonts().find(({ name }) => name === font)!.path;

const rgb = (lab: Readonly<Triple>) => xyzToSrgb(labToXyz(lab)).map((v) => Math.round(v * 255)) as [number, number, number];

/** The verification of a condition as a PDF of A4 pages. `made` is the day that stands on it. */
export async function verificationReport(
  shopName: string,
  condition: Condition,
  verify: StepResult<'verify'>,
  profile: StepResult<'profile'> | undefined,
  white: string | null
): Promise<Uint8Array<ArrayBuffer>> {
  const doc = new PDFDocument({ size: 'A4', margin: MARGIN, info: { Title: `Verification of ${condition.media}` } });
  const chunks: Buffer[] = [];
  doc.on('data', (chunk: Buffer) => chunks.push(chunk));
  const done = new Promise((resolve) => doc.on('end', resolve));
  const { document } = verify;
  // The second has more scripts: names are lettered in it.
  doc.registerFont('figures', fontFile(SHIPPED.sans)).registerFont('names', fontFile(SHIPPED.symbols));
  const day = new Date(verify.madeAt).toLocaleString('en-GB', { dateStyle: 'long', timeStyle: 'short' });

  doc.font('names').fontSize(9).fillColor('#555555').text(shopName);
  doc.fontSize(18).fillColor('#000000').text(`Verification: ${condition.media}`);
  doc
    .fontSize(10)
    .fillColor('#333333')
    .text(`${condition.machine}, ${condition.mode.name}, ${condition.mode.inkSet} inks, ${condition.mode.quality}. ${day}.`)
    .moveDown();
  doc
    .font('figures')
    .fontSize(14)
    .fillColor(document.pass ? '#0b6b2e' : '#a51d12')
    .text(document.pass ? 'Passed' : 'Not passed')
    .fillColor('#000000')
    .fontSize(10);
  const figures: [string, string][] = [
    ['Patches, none of them in the chart', String(document.patches.length)],
    ['CIEDE2000 in the mean', `${document.mean.toFixed(2)}, at most ${document.tolerance.mean}`],
    ['95 % within', `${document.p95.toFixed(2)}, at most ${document.tolerance.p95}`],
    ['Worst', document.worst.toFixed(2)],
    ['Bare media', white ?? 'not measured'],
    ['Profile', profile ? `${profile.document.name}, ${profile.document.patches} patches` : 'as the machine says']
  ];
  doc.moveDown(0.5);
  for (const [words, value] of figures) {
    const { y } = doc;
    doc
      .font('figures')
      .text(words, MARGIN, y, { width: 220 })
      .font('names')
      .text(value, MARGIN + 230, y);
  }
  doc.font('figures').moveDown();
  table(doc, document.patches);
  doc.end();
  await done;
  return new Uint8Array(Buffer.concat(chunks));
}

type Patch = StepResult<'verify'>['document']['patches'][number];

/** Worst first: asked for beside measured. */
function table(doc: PDFKit.PDFDocument, patches: readonly Patch[]): void {
  const columns = [0, 42, 110, 220, 330, 445];
  const line = (cells: string[], y: number) =>
    cells.forEach((cell, i) => doc.text(cell, MARGIN + columns[i]!, y, { lineBreak: false }));
  const head = () => {
    doc.fontSize(8).fillColor('#555555');
    line(['Patch', 'asked, read', 'asked L* a* b*', 'read L* a* b*', 'inks', 'CIEDE2000'], doc.y);
    doc.y += ROW;
  };
  head();
  for (const patch of [...patches].sort((p, q) => q.deltaE - p.deltaE)) {
    if (doc.y > doc.page.height - MARGIN - ROW) {
      doc.addPage();
      head();
    }
    const { y } = doc;
    doc.rect(MARGIN + columns[1]!, y - 2, 28, 11).fill(rgb(patch.asked));
    doc.rect(MARGIN + columns[1]! + 28, y - 2, 28, 11).fill(rgb(patch.lab));
    doc.fillColor('#000000').fontSize(8);
    const say = (lab: Triple) => lab.map((v) => v.toFixed(1)).join('  ');
    line([patch.id, '', say(patch.asked), say(patch.lab), describe(patch.inks), patch.deltaE.toFixed(2)], y);
    doc.y = y + ROW;
  }
}
