/** Standard sound codecs, read and written by ffmpeg in a process of its own. */
import { spawn } from 'node:child_process';
import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { extname, join } from 'node:path';
import { FormatError } from '../../core/faults';
import type { Sound } from '../../core/forms/sound';

/** A conversion that takes longer is ended. */
const LIMIT_MS = 120_000;
/** Bytes that come out at most: an hour of stereo at 48,000 Hz. */
const MOST_BYTES = 700 << 20;

/** @throws FormatError `wrong-kind` with what ffmpeg has to say, when it reads no sound in the file */
export async function soundByFfmpeg(
  bytes: Uint8Array,
  name: string,
  { rate, channels }: Pick<Sound, 'rate' | 'channels'>,
): Promise<Sound> {
  const out = await ffmpeg(bytes, name, ['-vn', '-f', 's16le', '-ar', String(rate), '-ac', String(channels)]);
  const view = new DataView(out.buffer, out.byteOffset, out.byteLength);
  return {
    rate,
    channels,
    samples: Int16Array.from({ length: out.length >> 1 }, (_, i) => view.getInt16(i * 2, true)),
  };
}

const ENCODINGS = {
  flac: ['-c:a', 'flac', '-f', 'flac'],
  ogg: ['-c:a', 'libvorbis', '-q:a', '6', '-f', 'ogg'],
} as const;

/** A WAVE file in another format. */
export function wavAs(wav: Uint8Array, as: keyof typeof ENCODINGS): Promise<Uint8Array> {
  return ffmpeg(wav, 'sound.wav', ENCODINGS[as]);
}

/** What holds sounds and refers to nothing outside of itself. */
const FORMATS = 'wav,w64,ogg,flac,mp3,aac,mov,matroska,aiff,au,caf';

/** Runs it on a file: some formats are not read from a stream. */
async function ffmpeg(bytes: Uint8Array, name: string, to: readonly string[]): Promise<Uint8Array> {
  const folder = await mkdtemp(join(tmpdir(), 'zero-latch-sound-'));
  try {
    // Only the ending of the name is used: it helps to tell formats without a signature.
    const ending = /^\.\w{1,8}$/.exec(extname(name))?.[0] ?? '';
    const input = join(folder, `in${ending}`);
    await writeFile(input, bytes);
    // Nothing but that file is opened: formats that name other files, such as play lists, are not among these.
    const from = ['-hide_banner', '-nostdin', '-v', 'error', '-format_whitelist', FORMATS, '-i', input];
    const { code, out, said } = await output('ffmpeg', [...from, ...to, 'pipe:1']);
    if (code === 0) return out;
    throw new FormatError({
      code: 'wrong-kind',
      file: name,
      what: `the sound cannot be read (${said.replaceAll(folder, '').trim().split('\n').at(-1) || 'for no reason that was told'})`,
      hint: 'Is it whole? Save it again as WAV.',
    });
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}

function output(program: string, args: readonly string[]): Promise<{ code: number; out: Buffer; said: string }> {
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
    child.on('error', reject);
    child.on('close', (code) => {
      clearTimeout(timer);
      resolve({ code: code ?? 1, out: Buffer.concat(chunks), said: code === null ? 'it took too long' : said });
    });
  });
}
