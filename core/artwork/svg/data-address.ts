/** `data:` addresses: files written into a file. */

export interface DataFile {
  /** In small letters. */
  type: string;
  bytes: Uint8Array;
}

/** @returns undefined for what is no data address or cannot be read */
export function readDataAddress(address: string): DataFile | undefined {
  const [, type = '', base, body = ''] =
    /^data:([^;,]*)(?:;(?!base64)[^;,]*)*(;\s*base64)?,([\s\S]*)$/i.exec(address.trim()) ?? [];
  if (!type && !body) return undefined;
  try {
    const bytes = base ? bytesOf(body) : new TextEncoder().encode(decodeURIComponent(body));
    return { type: type.trim().toLowerCase(), bytes };
  } catch {
    return undefined;
  }
}

/** @throws Error when it is no base64 */
export function bytesOf(base: string): Uint8Array {
  const text = base.includes('%') ? decodeURIComponent(base) : base;
  return Uint8Array.from(atob(text.replace(/\s+/g, '')), (c) => c.charCodeAt(0));
}

export function dataAddress(type: string, bytes: Uint8Array): string {
  let text = '';
  for (let i = 0; i < bytes.length; i += 8192) text += String.fromCharCode(...bytes.subarray(i, i + 8192));
  return `data:${type};base64,${btoa(text)}`;
}
