declare namespace PDFKit {
  interface PDFDocument {
    /** Percentages of a full tint. */
    addSpotColor(name: string, c: number, m: number, y: number, k: number): this;
  }
}
