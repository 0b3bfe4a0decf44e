/** Standard sound codecs, read and written by ffmpeg in a process of its own. */
import { spawn } from 'node:child_process';
import { mkdtemp, readFile, rm, stat, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { extname, join } from 'node:path';
import { z } from 'zod';
import { FormatError, LimitError } from '../core/faults';
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

/** How a sound file is coded, by ffmpeg's names. */
export interface SoundCoding {
  /** Such as `vorbis`. */
  readonly codec: string;
  /** What holds it, such as `ogg`. */
  readonly container: string;
}

/** Encoders, by the codec they write; those of plain samples are called as their codec is. */
const ENCODERS: Readonly<Record<string, readonly string[]>> = {
  vorbis: ['-c:a', 'libvorbis', '-q:a', '6'],
  opus: ['-c:a', 'libopus', '-b:a', '128k'],
  flac: ['-c:a', 'flac'],
  mp3: ['-c:a', 'libmp3lame', '-q:a', '2'],
  aac: ['-c:a', 'aac', '-b:a', '192k'],
  wavpack: ['-c:a', 'wavpack'],
};

const PLAIN = /^pcm_/;

/** Muxers, by the demuxer that reads what they write, with the codecs that go into each. */
const MUXERS: Readonly<Record<string, { readonly muxer: string; readonly takes: RegExp }>> = {
  ogg: { muxer: 'ogg', takes: /^(vorbis|opus|flac)$/ },
  flac: { muxer: 'flac', takes: /^flac$/ },
  mp3: { muxer: 'mp3', takes: /^mp3$/ },
  mov: { muxer: 'ipod', takes: /^aac$/ },
  wv: { muxer: 'wv', takes: /^wavpack$/ },
  aiff: { muxer: 'aiff', takes: PLAIN },
  au: { muxer: 'au', takes: PLAIN },
  voc: { muxer: 'voc', takes: PLAIN },
  caf: { muxer: 'caf', takes: PLAIN },
  matroska: { muxer: 'matroska', takes: /^(vorbis|opus|flac|mp3|aac|pcm_.*)$/ },
};

const encoderOf = (codec: string): readonly string[] | undefined =>
  PLAIN.test(codec) ? ['-c:a', codec] : ENCODERS[codec];

/** Files with a header, other than WAVE, that are written. */
export const isWritten = ({ codec, container }: SoundCoding): boolean =>
  encoderOf(codec) !== undefined && MUXERS[container]?.takes.test(codec) === true;

/** What files in open formats are coded as. */
export const OPEN_CODINGS = {
  flac: { codec: 'flac', container: 'flac' },
  ogg: { codec: 'vorbis', container: 'ogg' },
} as const;

/** Of tracker music, which is played and not decoded. */
export const TRACKER = 'libopenmpt';

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

/** Any sound file in a coding of {@link isWritten}; at its own rate, when no target is given. */
export function encodedAs(
  bytes: Uint8Array,
  name: string,
  { codec, container }: SoundCoding,
  target?: SoundTarget,
): Promise<Uint8Array> {
  const to = target === undefined ? [] : rated(target);
  return madeFile(bytes, name, ['-vn', ...to, ...encoderOf(codec)!, '-f', MUXERS[container]!.muxer]);
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
  return madeFile(bytes, name, ['-vn', ...to, '-c:a', codec, ...blocks, '-f', 'wav', '-bitexact']);
}

/** Plain samples of any width, by ffmpeg's name for them. */
export function samplesAs(bytes: Uint8Array, name: string, format: string, target: SoundTarget): Promise<Uint8Array> {
  return withInput(bytes, name, (input) =>
    ffmpeg(input, name, ['-vn', ...rated(target), '-f', format, '-c:a', `pcm_${format}`, 'pipe:1']),
  );
}

const probed = z.object({
  format: z.object({ format_name: z.string() }),
  streams: z.array(z.object({ codec_name: z.string(), sample_rate: z.coerce.number(), channels: z.number().int() })),
});

export interface ProbedSound extends SoundCoding {
  readonly rate: number;
  readonly channels: number;
}

/** What a sound file is; undefined when there is no sound in it. */
export async function probeSound(bytes: Uint8Array, name: string): Promise<ProbedSound | undefined> {
  return withInput(bytes, name, async (input) => {
    const what = [
      '-select_streams',
      'a:0',
      '-show_entries',
      'stream=codec_name,sample_rate,channels:format=format_name',
      '-of',
      'json',
    ];
    const { code, out } = await output('ffprobe', ['-v', 'error', '-format_whitelist', FORMATS, ...what, input]);
    const found = code === 0 ? probed.safeParse(JSON.parse(out.toString())) : undefined;
    const [stream] = found?.data?.streams ?? [];
    if (found?.success !== true || stream === undefined) return undefined;
    // Readers of several formats are called by all of them: `mov,mp4,m4a`.
    const [container] = found.data.format.format_name.split(',') as [string];
    return { codec: stream.codec_name, container, rate: stream.sample_rate, channels: stream.channels };
  });
}

/** What holds sounds and refers to nothing outside of itself. */
const FORMATS = 'wav,w64,ogg,flac,mp3,aac,mov,matroska,aiff,au,caf,wv,voc,libopenmpt';

/** A sound file: ffmpeg goes back in it, to fill in lengths. */
async function madeFile(bytes: Uint8Array, name: string, to: readonly string[]): Promise<Uint8Array> {
  return withInput(bytes, name, async (input, folder) => {
    const made = join(folder, 'made');
    // More than that is no sound of a game: what would be longer ends there, and is refused.
    await ffmpeg(input, name, [...to, '-fs', String(MOST_BYTES), made]);
    const { size } = await stat(made);
    if (size < MOST_BYTES * 0.99) return readFile(made);
    throw new LimitError({
      code: 'limit-reached',
      file: name,
      limit: `bytes of a sound, ${MOST_BYTES.toLocaleString('en')}`,
    });
  });
}

/** @returns what it writes to its output */
async function ffmpeg(input: string, name: string, to: readonly string[]): Promise<Uint8Array> {
  // Nothing but that file is opened: formats that name other files, such as play lists, are not among these.
  const from = ['-hide_banner', '-nostdin', '-v', 'error', '-format_whitelist', FORMATS, '-i', input];
  const { code, out, said } = await output('ffmpeg', [...from, ...to]);
  if (code === 0) return out;
  const last = said.replaceAll(input, 'it').trim().split('\n').at(-1);
  throw new FormatError({
    code: 'wrong-kind',
    file: name,
    what: `the sound cannot be read (${last || 'no reason was given'})`,
    hint: 'Is it whole? Save it again as WAV.',
  });
}

/** Runs it on a file: some formats are not read from a stream. */
async function withInput<T>(
  bytes: Uint8Array,
  name: string,
  work: (path: string, folder: string) => Promise<T>,
): Promise<T> {
  const folder = await mkdtemp(join(tmpdir(), 'zero-latch-sound-'));
  try {
    // Only the ending of the name is used: it helps to tell formats without a signature.
    const ending = /^\.\w{1,8}$/.exec(extname(name))?.[0] ?? '';
    const input = join(folder, `in${ending}`);
    await writeFile(input, bytes);
    return await work(input, folder);
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
