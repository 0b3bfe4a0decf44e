/**
 * Writes a bank of spoken cues: a `.cue` table and the `.wax` file with the wave data.
 *
 * Cues have numbers, no names. The data of each is scrambled with a 64-bit xorshift keystream seeded by the key of the
 * game's program and the number of the cue.
 */
import { ByteBuilder } from './byte-builder';
import type { ArchiveFile } from './entry';

export interface Cue {
  readonly number: number;
  /** 0: PCM of 16 bits; 1: IMA ADPCM in blocks of {@link IMA_BLOCK} bytes. */
  readonly codec: 0 | 1;
  readonly rate: number;
  readonly samples: number;
  /** First and last sample of the loop, when there is one. */
  readonly loop?: readonly [number, number];
  readonly bytes: Uint8Array;
}

/** `name` is without its ending, such as `voices.de`. */
export function writeCues(name: string, locale: string, cues: readonly Cue[], key: Uint8Array): ArchiveFile[] {
  const seed = Buffer.from(key).readBigUInt64LE();
  const waves = new ByteBuilder().text('WAXD').fixed(locale, 4);
  const table = new ByteBuilder()
    .text('CUES')
    .u16(1) // version
    .u16(0) // spare
    .fixed(locale, 4)
    .u32(cues.length)
    .raw(scramble(Buffer.from('CUEMARK!'), seed));
  for (const { number, codec, rate, samples, loop, bytes } of cues) {
    waves.align(32);
    table
      .u32(number)
      .u8(codec)
      .u8(loop === undefined ? 0 : 1)
      .u16(rate)
      .u32(samples)
      .u32(loop?.[0] ?? 0)
      .u32(loop?.[1] ?? 0)
      .u32(waves.length)
      .u32(bytes.length);
    waves.raw(scramble(bytes, seed ^ BigInt(number)));
  }
  return [
    { name: `${name}.cue`, bytes: table.bytes() },
    { name: `${name}.wax`, bytes: waves.bytes() },
  ];
}

/** XOR with the bytes of a 64-bit xorshift generator with the shifts 13, 7 and 17, lowest byte first. */
function scramble(bytes: Uint8Array, seed: bigint): Uint8Array {
  const out = Buffer.from(bytes);
  let state = seed;
  const word = Buffer.alloc(8);
  for (let at = 0; at < out.length; at += 8) {
    state ^= BigInt.asUintN(64, state << 13n);
    state ^= state >> 7n;
    state ^= BigInt.asUintN(64, state << 17n);
    word.writeBigUInt64LE(state);
    for (let i = 0; i < 8 && at + i < out.length; i++) out[at + i]! ^= word[i]!;
  }
  return out;
}
