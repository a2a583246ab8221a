declare module 'lcms-wasm' {
  /** The few calls of Little CMS that are used here; handles are numbers, 0 being a failure. */
  export interface LCMS {
    cmsOpenProfileFromMem(bytes: Uint8Array, length: number): number;
    cmsCreateLab4Profile(white: null): number;
    cmsCreateTransform(from: number, fromFormat: number, to: number, toFormat: number, intent: number, flags: number): number;
    cmsDoTransform(transform: number, values: Float32Array, count: number): ArrayLike<number>;
    cmsDeleteTransform(transform: number): void;
    cmsCloseProfile(profile: number): void;
  }
  export function instantiate(): Promise<LCMS>;
}
