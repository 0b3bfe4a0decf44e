/** Reads a bank of spoken cues: the table, and the wave data next to it. */
import { checkStretches, Walk } from './walk';

const IMA_BLOCK = 256;
const IMA_SAMPLES = 505;
const MOST_SECONDS = 20;

export interface VoiceCue {
  readonly number: number;
  readonly codec: 'pcm' | 'adpcm';
  readonly rate: number;
  readonly samples: number;
  /** As the codec has it, unscrambled. */
  readonly bytes: Buffer;
}

export interface Voices {
  readonly file: string;
  readonly locale: string;
  readonly cues: readonly VoiceCue[];
}

export function readCues(
  file: string,
  table: Buffer,
  wax: { file: string; bytes: Buffer } | undefined,
  key: Buffer,
): Voices {
  const walk = new Walk(file, 'CUE', table);
  const seed = key.readBigUInt64LE();
  walk.magic('CUES');
  walk.is('VERSION', 1, walk.u16(), 4, 'This game reads version 1.');
  walk.take(2);
  const locale = walk.fixed(4);
  const count = walk.u32();
  const mark = keystream(seed, walk.take(8)).toString('latin1');
  walk.is('KEY', 'CUEMARK!', mark, 16, 'The key of this program fits.');
  if (wax === undefined) return walk.stop('WAX', 0, 'The wave data is beside the table.', 'nothing');
  const waves = new Walk(wax.file, 'WAX', wax.bytes);
  waves.magic('WAXD');
  waves.is('LOCALE', locale, waves.fixed(4), 4, 'Table and wave data are of one language.');
  const stretches: { at: number; end: number }[] = [];
  const cues: VoiceCue[] = [];
  for (let i = 0; i < count; i++) {
    const row = walk.at;
    const number = walk.u32();
    const before = cues.at(-1)?.number ?? -1;
    if (number <= before) walk.stop('ORDER', row, 'Numbers ascend.', number);
    const codec = walk.u8();
    const loops = walk.u8();
    const rate = walk.u16();
    const samples = walk.u32();
    const [loopStart, loopEnd] = [walk.u32(), walk.u32()];
    const [at, size] = [walk.u32(), walk.u32()];
    stretches.push({ at, end: at + size });
    walk.is('RATE', 22_050, rate, row + 6, 'Cues have 22,050 samples a second.');
    if (samples > MOST_SECONDS * rate)
      walk.stop('LENGTH', row + 8, `A cue lasts ${MOST_SECONDS} seconds at most.`, samples);
    if (loops === 1 && !(loopStart < loopEnd && loopEnd < samples))
      walk.stop('LOOP', row + 12, 'A loop lies in the sound.', `${loopStart} to ${loopEnd} of ${samples}`);
    if (codec === 0) walk.is('SIZE', samples * 2, size, row + 24, 'A sample of PCM has two bytes.');
    else if (codec === 1)
      walk.is('SIZE', (samples / IMA_SAMPLES) * IMA_BLOCK, size, row + 24, 'ADPCM comes in whole blocks.');
    else walk.stop('CODEC', row + 4, 'A cue is PCM or ADPCM.', codec);
    const bytes = keystream(seed ^ BigInt(number), wax.bytes.subarray(at, at + size));
    if (codec === 1) checkIma(waves, at, bytes);
    cues.push({ number, codec: codec === 0 ? 'pcm' : 'adpcm', rate, samples, bytes });
  }
  walk.ended();
  checkStretches(waves, stretches, { from: 8, align: 32, fill: 0 });
  return { file, locale, cues };
}

/** A block starts with a sample, a step index up to 88, and a zero. */
function checkIma(waves: Walk, at: number, bytes: Buffer): void {
  for (let block = 0; block < bytes.length; block += IMA_BLOCK)
    if (bytes[block + 2]! > 88 || bytes[block + 3] !== 0)
      waves.stop('BLOCK', at + block, 'A block of ADPCM starts with a step index.', bytes[block + 2]);
}

/** The 64-bit generator of Marsaglia with the shifts 13, 7, 17; eight bytes a step, lowest first. */
function keystream(seed: bigint, bytes: Buffer): Buffer {
  const mask = 0xffffffffffffffffn;
  const out = Buffer.alloc(bytes.length);
  let x = seed;
  for (let i = 0; i < bytes.length; i++) {
    if (i % 8 === 0) {
      x = (x ^ (x << 13n)) & mask;
      x ^= x >> 7n;
      x = (x ^ (x << 17n)) & mask;
    }
    out[i] = bytes[i]! ^ Number((x >> BigInt((i % 8) * 8)) & 0xffn);
  }
  return out;
}
