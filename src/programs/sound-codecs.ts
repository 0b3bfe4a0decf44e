/** Standard sound codecs, read and written by ffmpeg in a process of its own. */
import { spawn } from 'node:child_process';
import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { extname, join } from 'node:path';
import { z } from 'zod';
import { FormatError } from '../core/faults';
import type { Sound } from '../core/forms/sound';
import { startFault } from './missing-program';

/** A conversion that takes longer is ended. */
const LIMIT_MS = 120_000;
/** Bytes that come out at most: an hour of stereo at 48,000 Hz. */
const MOST_BYTES = 700 << 20;

/** @throws FormatError `wrong-kind` with what ffmpeg has to say, when it reads no sound in the file */
export async function soundByFfmpeg(bytes: Uint8Array, name: string, target: SoundTarget): Promise<Sound> {
  const out = await samplesAs(bytes, name, 's16le', target);
  const view = new DataView(out.buffer, out.byteOffset, out.byteLength);
  const samples = Int16Array.from({ length: out.length >> 1 }, (_, i) => view.getInt16(i * 2, true));
  return { rate: target.rate, channels: target.channels, samples };
}

/** How each codec is written, by the name ffmpeg has for it. */
const ENCODINGS: Readonly<Record<string, readonly string[]>> = {
  vorbis: ['-c:a', 'libvorbis', '-q:a', '6', '-f', 'ogg'],
  opus: ['-c:a', 'libopus', '-b:a', '128k', '-f', 'ogg'],
  flac: ['-c:a', 'flac', '-f', 'flac'],
  mp3: ['-c:a', 'libmp3lame', '-q:a', '2', '-f', 'mp3'],
};

/** Codecs of files with a header, other than WAVE, that are written. */
export const isWritten = (codec: string): boolean => codec in ENCODINGS;

/** What a conversion makes. */
export interface SoundTarget {
  readonly rate: number;
  readonly channels: number;
  /** Gain in decibels. */
  readonly gain?: number;
}

const rated = ({ rate, channels, gain = 0 }: SoundTarget): string[] => [
  ...(gain === 0 ? [] : ['-af', `volume=${gain.toFixed(2)}dB`]),
  ...['-ar', String(rate), '-ac', String(channels)],
];

/** Any sound file in a codec of {@link isWritten}; as it was recorded, when no target is given. */
export function encodedAs(bytes: Uint8Array, name: string, codec: string, target?: SoundTarget): Promise<Uint8Array> {
  return ffmpeg(bytes, name, ['-vn', ...(target === undefined ? [] : rated(target)), ...ENCODINGS[codec]!]);
}

/** Any sound file as WAVE; `codec` by ffmpeg's name, `block` the bytes of a block, of codecs that have them. */
export function waveAs(
  bytes: Uint8Array,
  name: string,
  codec: string,
  target?: SoundTarget,
  block?: number,
): Promise<Uint8Array> {
  const blocks = block === undefined ? [] : ['-block_size', String(block)];
  const to = target === undefined ? [] : rated(target);
  return wholeWave(ffmpeg(bytes, name, ['-vn', ...to, '-c:a', codec, ...blocks, '-f', 'wav', '-bitexact']));
}

/** ffmpeg cannot go back in what it writes to a pipe: the lengths in the header are filled in here. */
async function wholeWave(written: Promise<Uint8Array>): Promise<Uint8Array> {
  const bytes = Uint8Array.from(await written);
  const view = new DataView(bytes.buffer);
  view.setUint32(4, bytes.length - 8, true);
  for (let at = 12; at + 8 <= bytes.length;) {
    const length = view.getUint32(at + 4, true);
    if (view.getUint32(at, false) === 0x64617461) {
      view.setUint32(at + 4, Math.min(length, bytes.length - at - 8), true);
      break;
    }
    at += 8 + length + (length % 2);
  }
  return bytes;
}

/** Plain samples of any width, by ffmpeg's name for them. */
export function samplesAs(bytes: Uint8Array, name: string, format: string, target: SoundTarget): Promise<Uint8Array> {
  return ffmpeg(bytes, name, ['-vn', ...rated(target), '-f', format, '-c:a', `pcm_${format}`]);
}

const probed = z.object({
  streams: z.array(z.object({ codec_name: z.string(), sample_rate: z.coerce.number(), channels: z.number().int() })),
});

interface ProbedSound {
  /** By ffmpeg's name, such as `vorbis`. */
  readonly codec: string;
  readonly rate: number;
  readonly channels: number;
}

/** What a sound file is; undefined when there is no sound in it. */
export async function probeSound(bytes: Uint8Array, name: string): Promise<ProbedSound | undefined> {
  return withInput(bytes, name, async (input) => {
    const what = ['-select_streams', 'a:0', '-show_entries', 'stream=codec_name,sample_rate,channels', '-of', 'json'];
    const { code, out } = await output('ffprobe', ['-v', 'error', '-format_whitelist', FORMATS, ...what, input]);
    const found = code === 0 ? probed.safeParse(JSON.parse(out.toString())) : undefined;
    const [stream] = found?.data?.streams ?? [];
    return stream && { codec: stream.codec_name, rate: stream.sample_rate, channels: stream.channels };
  });
}

/** What holds sounds and refers to nothing outside of itself. */
const FORMATS = 'wav,w64,ogg,flac,mp3,aac,mov,matroska,aiff,au,caf,libopenmpt';

/** Runs it on a file: some formats are not read from a stream. */
function ffmpeg(bytes: Uint8Array, name: string, to: readonly string[]): Promise<Uint8Array> {
  return withInput(bytes, name, async (input) => {
    // Nothing but that file is opened: formats that name other files, such as play lists, are not among these.
    const from = ['-hide_banner', '-nostdin', '-v', 'error', '-format_whitelist', FORMATS, '-i', input];
    const { code, out, said } = await output('ffmpeg', [...from, ...to, 'pipe:1']);
    if (code === 0) return out;
    const last = said.replaceAll(input, 'it').trim().split('\n').at(-1);
    throw new FormatError({
      code: 'wrong-kind',
      file: name,
      what: `the sound cannot be read (${last || 'no reason was given'})`,
      hint: 'Is it whole? Save it again as WAV.',
    });
  });
}

async function withInput<T>(bytes: Uint8Array, name: string, work: (path: string) => Promise<T>): Promise<T> {
  const folder = await mkdtemp(join(tmpdir(), 'zero-latch-sound-'));
  try {
    // Only the ending of the name is used: it helps to tell formats without a signature.
    const ending = /^\.\w{1,8}$/.exec(extname(name))?.[0] ?? '';
    const input = join(folder, `in${ending}`);
    await writeFile(input, bytes);
    return await work(input);
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}

function output(
  program: 'ffmpeg' | 'ffprobe',
  args: readonly string[],
): Promise<{ code: number; out: Buffer; said: string }> {
  return new Promise((resolve, reject) => {
    const child = spawn(program, args, { stdio: ['ignore', 'pipe', 'pipe'] });
    const chunks: Buffer[] = [];
    let bytes = 0;
    let said = '';
    const timer = setTimeout(() => child.kill('SIGKILL'), LIMIT_MS);
    child.stdout.on('data', (chunk: Buffer) => {
      bytes += chunk.length;
      if (bytes > MOST_BYTES) child.kill('SIGKILL');
      else chunks.push(chunk);
    });
    child.stderr.on('data', (chunk: Buffer) => (said = `${said}${String(chunk)}`.slice(-4000)));
    child.on('error', (error) => {
      clearTimeout(timer);
      reject(startFault(program, error));
    });
    child.on('close', (code) => {
      clearTimeout(timer);
      resolve({ code: code ?? 1, out: Buffer.concat(chunks), said: code === null ? 'it took too long' : said });
    });
  });
}
