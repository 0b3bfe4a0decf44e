/** New bytes for a thing that was found in a file: as long as the old ones, for nothing says where else its end would be. */
import { crc32 } from '@node-rs/crc32';
import { FaultError } from '../faults';
import { readWavFacts } from '../forms/sound';

const PNG = Buffer.from('\x89PNG\r\n\x1a\n', 'latin1');
/** Bytes of a chunk of PNG without what is in it. */
const CHUNK = 12;

/**
 * @param length bytes of the place
 * @returns the bytes, made exactly that long in the manner of their format
 * @throws FaultError `limit-reached` when there is not enough room, or the rest of it cannot be filled
 */
export function fillPlace(bytes: Uint8Array, length: number, entry: string): Uint8Array {
  const left = length - bytes.length;
  if (left === 0) return bytes;
  const refuse = (what: string, hint: string) =>
    new FaultError({
      code: 'limit-reached',
      entry,
      what,
      expected: `${length.toLocaleString('en')} bytes`,
      found: bytes.length.toLocaleString('en'),
      limit: 'bytes of the place it was found in, since no recipe describes how the file is put together',
      hint,
    });
  if (left < 0)
    throw refuse('it does not fit into its place', 'Fewer colours, a shorter sound or plainer content takes less.');
  if (Buffer.compare(bytes.subarray(0, 8), PNG) === 0) {
    if (left < CHUNK)
      throw refuse(
        'the rest of its place is too small to be filled',
        'Change the picture a little, so that it takes some bytes less.',
      );
    return withChunk(bytes, left);
  }
  if (Buffer.from(bytes.subarray(8, 12)).toString('latin1') === 'WAVE') return withSilence(bytes, left, entry);
  throw refuse(
    'only pictures in PNG and sounds in WAVE can be shorter than what they replace',
    'Make it as long as the original.',
  );
}

/** A chunk that no reader knows, and that PNG lets every reader skip, in front of the last one. */
function withChunk(png: Uint8Array, bytes: number): Uint8Array {
  const out = Buffer.alloc(png.length + bytes);
  const end = png.length - CHUNK;
  out.set(png.subarray(0, end));
  out.writeUInt32BE(bytes - CHUNK, end);
  out.write('fiLl', end + 4, 'latin1');
  out.writeUInt32BE(crc32(out.subarray(end + 4, end + bytes - 4)), end + bytes - 4);
  out.set(png.subarray(end), end + bytes);
  return new Uint8Array(out);
}

/** Silence behind the samples; what is behind them moves on. */
function withSilence(wav: Uint8Array, bytes: number, entry: string): Uint8Array {
  const { dataAt, dataBytes, bits } = readWavFacts(wav, entry);
  const end = dataAt + dataBytes;
  const out = Buffer.alloc(wav.length + bytes, bits === 8 ? 128 : 0);
  out.set(wav.subarray(0, end));
  out.set(wav.subarray(end), end + bytes);
  out.writeUInt32LE(dataBytes + bytes, dataAt - 4);
  out.writeUInt32LE(out.length - 8, 4);
  return new Uint8Array(out);
}
