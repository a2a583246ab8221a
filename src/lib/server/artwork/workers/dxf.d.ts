/** What is used of the package that reads DXF, which has no types of its own. */
declare module 'dxf' {
  export class Helper {
    constructor(text: string);
    readonly parsed: { header: { insUnits?: number } };
    toPolylines(): { polylines: { vertices: [number, number][] }[] };
  }
}
