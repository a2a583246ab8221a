/**
 * Unpacks a window of a PackBits strip: what lies outside is stepped over without being written.
 *
 * @param rowBytes bytes of a whole row
 * @param window rows and bytes of a row that are wanted
 * @returns window.rows × window.bytes, zero where the strip ends early
 */
export function unpackWindow(
  packed: Uint8Array,
  rowBytes: number,
  window: { row: number; rows: number; byte: number; bytes: number }
): Uint8Array {
  const out = new Uint8Array(window.rows * window.bytes);
  const last = (window.row + window.rows) * rowBytes;
  let at = 0;
  let to = 0;
  while (to < last && at < packed.length) {
    const head = packed[at++]!;
    if (head === 128) continue;
    const literal = head < 128;
    const count = literal ? head + 1 : 257 - head;
    // A run may, in other writers' files, go over the end of a row.
    for (let done = 0; done < count;) {
      const row = Math.floor((to + done) / rowBytes);
      const start = to + done - row * rowBytes;
      const here = Math.min(count - done, rowBytes - start);
      const from = Math.max(start, window.byte);
      const end = Math.min(start + here, window.byte + window.bytes);
      if (row >= window.row && row < window.row + window.rows && end > from) {
        const place = (row - window.row) * window.bytes + from - window.byte;
        if (literal) {
          const source = at + done + from - start;
          out.set(packed.subarray(source, source + end - from), place);
        } else if (packed[at] !== 0) out.fill(packed[at]!, place, place + end - from);
      }
      done += here;
    }
    at += literal ? count : 1;
    to += count;
  }
  return out;
}
