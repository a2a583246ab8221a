declare module 'wawoff2' {
  /** WOFF2 → sfnt. */
  export function decompress(woff2: Uint8Array): Promise<Uint8Array>;
}
