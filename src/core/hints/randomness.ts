import type { ByteSource } from '../bytes';

/** Bytes that are looked at in each cell of a large file. */
const SAMPLE_BYTES = 8 << 10;

/** Shannon entropy of each of `cells` equal stretches, in bits a byte, from 0 to 8. Samples large stretches. */
export async function randomness(source: ByteSource, cells: number): Promise<number[]> {
  const width = source.size / cells;
  const result: number[] = [];
  for (let cell = 0; cell < cells; cell++) {
    const at = Math.floor(cell * width);
    const length = Math.min(SAMPLE_BYTES, Math.max(0, Math.floor((cell + 1) * width) - at));
    result.push(length === 0 ? 0 : entropy(await source.read(at, length)));
  }
  return result;
}

/** Bits a byte. A short stretch cannot reach 8, so it is measured against what it could reach. */
export function entropy(bytes: Uint8Array): number {
  const counts = new Uint32Array(256);
  for (const byte of bytes) counts[byte]!++;
  let bits = 0;
  for (const count of counts) if (count > 0) bits -= (count / bytes.length) * Math.log2(count / bytes.length);
  const most = Math.min(8, Math.log2(bytes.length));
  return most === 0 ? 0 : (8 * bits) / most;
}
