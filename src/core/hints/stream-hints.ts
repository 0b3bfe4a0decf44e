/** Hints from packed streams and random stretches. */
import { inflateRawSync, inflateSync } from 'node:zlib';
import type { ByteSource } from '../bytes';
import { entropy } from './randomness';
import { hex, type Hint } from './hint';

const SIGNATURES: readonly {
  readonly name: string;
  readonly step: string | undefined;
  readonly bytes: readonly number[];
}[] = [
  { name: 'gzip', step: 'gzip', bytes: [0x1f, 0x8b, 0x08] },
  { name: 'zstd', step: 'zstd', bytes: [0x28, 0xb5, 0x2f, 0xfd] },
  { name: 'LZ4 frame', step: 'lz4-frame', bytes: [0x04, 0x22, 0x4d, 0x18] },
  { name: 'xz', step: 'xz', bytes: [0xfd, 0x37, 0x7a, 0x58, 0x5a, 0x00] },
  { name: 'PNG picture', step: undefined, bytes: [0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a] },
  { name: 'RIFF sound or film', step: undefined, bytes: [0x52, 0x49, 0x46, 0x46] },
  { name: 'OGG sound', step: undefined, bytes: [0x4f, 0x67, 0x67, 0x53, 0x00] },
  { name: 'DDS picture', step: undefined, bytes: [0x44, 0x44, 0x53, 0x20, 0x7c] },
];

/** Streams found by their signatures, and zlib by trial. */
export function packedStreams(front: Uint8Array): Hint[] {
  const buffer = Buffer.from(front.buffer, front.byteOffset, front.byteLength);
  const hints: Hint[] = [];
  for (const { name, step, bytes } of SIGNATURES) {
    const places: number[] = [];
    for (
      let at = buffer.indexOf(Buffer.from(bytes));
      at >= 0 && places.length < 100;
      at = buffer.indexOf(Buffer.from(bytes), at + 1)
    )
      places.push(at);
    if (places.length > 0 && !(places.length === 1 && places[0] === 0)) hints.push(streamHint(name, step, places));
  }
  const zlibPlaces: number[] = [];
  for (let at = 0; at + 8 < front.length && zlibPlaces.length < 100; at++) {
    const header = (front[at]! << 8) | front[at + 1]!;
    if (front[at] === 0x78 && header % 31 === 0 && inflates(buffer.subarray(at, at + 4096))) zlibPlaces.push(at);
  }
  if (zlibPlaces.length > 0) hints.push(streamHint('zlib', 'zlib', zlibPlaces));
  return hints;
}

/** True when the bytes unpack, or would if there were more of them. */
function inflates(bytes: Uint8Array): boolean {
  try {
    inflateSync(bytes, { maxOutputLength: 1 << 20 });
    return true;
  } catch (error) {
    const { code } = error as { code?: string };
    if (code !== 'Z_BUF_ERROR' && code !== 'ERR_BUFFER_TOO_LARGE') return false;
    return bytes.length > 64 && entropy(inflateStart(bytes)) < 7.9;
  }
}

function inflateStart(bytes: Uint8Array): Uint8Array {
  try {
    return inflateRawSync(bytes.subarray(2), { finishFlush: 2, maxOutputLength: 1 << 20 });
  } catch {
    return new Uint8Array(0);
  }
}

function streamHint(name: string, step: string | undefined, places: readonly number[]): Hint {
  const shown = places.slice(0, 3).map(hex).join(', ');
  return {
    what: `${name} ${places.length === 1 ? 'is' : 'begins'} at ${shown}${places.length > 3 ? ` and ${places.length - 3} more` : ''}`,
    at: places[0]!,
    length: 8,
    lines: step === undefined ? [] : [{ part: 'entries', text: `through: [${step}]` }],
  };
}

/** Long stretches that look locked or packed. */
export async function randomStretches(source: ByteSource): Promise<Hint[]> {
  const cells = 64;
  const width = source.size / cells;
  if (width < 512) return [];
  const hints: Hint[] = [];
  let from = -1;
  for (let cell = 0; cell <= cells; cell++) {
    const at = Math.floor(cell * width);
    const high = cell < cells && entropy(await source.read(at, Math.min(4096, Math.floor(width)))) > 7.85;
    if (high && from < 0) from = at;
    if (!high && from >= 0) {
      const length = at - from;
      if (length > width * 1.5)
        hints.push({
          what: `${hex(from)} to ${hex(at)} looks packed or locked (nearly 8 bits a byte)`,
          at: from,
          length,
          lines: [],
        });
      from = -1;
    }
  }
  return hints.slice(0, 4);
}
