declare module 'svg-to-pdfkit' {
  export default function svgToPdfkit(
    doc: PDFKit.PDFDocument,
    svg: string,
    x: number,
    y: number,
    options: Record<string, unknown>
  ): void;
}

declare namespace PDFKit {
  interface PDFDocument {
    /** A separation with its process alternate, per cent. */
    addSpotColor(name: string, c: number, m: number, y: number, k: number): this;
  }
}
