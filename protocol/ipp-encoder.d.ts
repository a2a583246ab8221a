declare module 'ipp-encoder' {
  export interface IppAttribute {
    tag: number;
    name: string;
    value: unknown;
  }
  export interface IppGroup {
    tag: number;
    attributes: IppAttribute[];
  }
  export interface IppMessage {
    version?: { major: number; minor: number };
    operationId?: number;
    statusCode?: number;
    requestId: number;
    groups: IppGroup[];
  }
  interface Codec {
    encode(message: IppMessage): Buffer;
    decode: { (buffer: Buffer): IppMessage; bytes: number };
  }
  const ipp: { CONSTANTS: Record<string, number>; STATUS_CODES: Record<number, string>; request: Codec; response: Codec };
  export default ipp;
}
