/** ffmpeg and ffprobe on films, in processes of their own that can be stopped and say how far they are. */
import { spawn } from 'node:child_process';
import { once } from 'node:events';
import { z } from 'zod';
import { CancelledError, FormatError } from '../core/faults';
import { startFault } from './missing-program';

/** What holds films, sounds or pictures and refers to nothing outside of itself. */
const FORMATS =
  'mov,matroska,webm,avi,mpeg,mpegts,mpegvideo,h264,ivf,ogg,wav,w64,flac,mp3,aac,aiff,au,caf,gif,image2pipe,png_pipe,jpeg_pipe,srt,webvtt,s16le';

export interface FfmpegOrder {
  /** Everything but the general options: inputs, what is made of them, and where it goes. */
  readonly args: readonly string[];
  /** What an error is said of. */
  readonly file: string;
  readonly signal: AbortSignal;
  /** Bytes for an input that is `pipe:0`. */
  readonly feed?: AsyncIterable<Uint8Array>;
  /** Told how many seconds are made. */
  readonly onSeconds?: (seconds: number) => void;
}

/** An input file, of which nothing but itself is opened. */
export const input = (path: string): string[] => ['-format_whitelist', FORMATS, '-i', path];

/**
 * @throws CancelledError when it is stopped
 * @throws FormatError `wrong-kind` with what ffmpeg has to say
 * @throws FaultError `missing-program`
 */
export async function runFfmpeg({ args, file, signal, feed, onSeconds }: FfmpegOrder): Promise<void> {
  const general = [
    '-hide_banner',
    '-v',
    'error',
    '-y',
    '-progress',
    'pipe:1',
    ...(feed === undefined ? ['-nostdin'] : []),
  ];
  const child = spawn('ffmpeg', [...general, ...args], {
    stdio: [feed === undefined ? 'ignore' : 'pipe', 'pipe', 'pipe'],
  });
  const stop = () => void child.kill('SIGKILL');
  signal.addEventListener('abort', stop);
  let said = '';
  child.stderr!.on('data', (chunk: Buffer) => (said = `${said}${String(chunk)}`.slice(-4000)));
  child.stdout!.on('data', (chunk: Buffer) => {
    const made = /out_time_us=(\d+)/.exec(String(chunk));
    if (made !== null) onSeconds?.(Number(made[1]) / 1_000_000);
  });
  const ended = new Promise<number | null>((resolve, reject) => {
    child.on('error', (error) => reject(startFault('ffmpeg', error)));
    child.on('close', resolve);
  });
  try {
    if (feed !== undefined) await pour(feed, child.stdin!, ended);
    const code = await ended;
    if (signal.aborted) throw new CancelledError();
    if (code === 0) return;
    const last = said
      .trim()
      .split('\n')
      .at(-1)
      ?.replace(/^\[[^\]]*\]\s*/, '');
    throw new FormatError({
      code: 'wrong-kind',
      file,
      what: `the film cannot be converted (${last || 'no reason was given'})`,
      hint: 'Is the file whole? Save it again as MP4 or WebM.',
    });
  } finally {
    signal.removeEventListener('abort', stop);
    child.kill('SIGKILL');
  }
}

async function pour(
  feed: AsyncIterable<Uint8Array>,
  into: NodeJS.WritableStream,
  ended: Promise<unknown>,
): Promise<void> {
  let open = true;
  // A process that has ended closes its end: it says why, and not the pipe.
  into.on('error', () => (open = false));
  void ended.then(() => (open = false)).catch(() => (open = false));
  for await (const chunk of feed) {
    if (!open) return;
    if (!into.write(chunk)) await Promise.race([once(into as never, 'drain'), ended]).catch(() => {});
  }
  into.end();
}

const probedSchema = z.object({
  streams: z.array(
    z.object({
      codec_type: z.string(),
      codec_name: z.string().optional(),
      width: z.number().optional(),
      height: z.number().optional(),
      avg_frame_rate: z.string().optional(),
      sample_rate: z.coerce.number().optional(),
      channels: z.number().optional(),
      bit_rate: z.coerce.number().optional(),
      tags: z.object({ language: z.string().optional() }).optional(),
    }),
  ),
  format: z.object({ duration: z.coerce.number().optional(), bit_rate: z.coerce.number().optional() }),
});

export interface ProbedStream {
  readonly is: 'pictures' | 'sound' | 'subtitles';
  readonly codec: string;
  readonly locale: string;
  /** Frames or samples a second. */
  readonly rate: number;
  readonly width: number;
  readonly height: number;
  readonly channels: number;
}

export interface ProbedFilm {
  readonly streams: readonly ProbedStream[];
  readonly seconds: number;
  /** Bits a second of all together; 0 where it is unknown. */
  readonly bits: number;
}

/** What is in a film or sound file; undefined when nothing of it can be read. */
export async function probeFilm(path: string): Promise<ProbedFilm | undefined> {
  const what = ['-show_entries', 'stream:stream_tags=language:format=duration,bit_rate', '-of', 'json'];
  const child = spawn('ffprobe', ['-v', 'error', '-format_whitelist', FORMATS, ...what, path], {
    stdio: ['ignore', 'pipe', 'ignore'],
    timeout: 60_000,
  });
  let out = '';
  child.stdout.on('data', (chunk: Buffer) => (out += String(chunk)));
  const [code] = (await once(child, 'close')) as [number | null];
  const parsed = code === 0 ? probedSchema.safeParse(JSON.parse(out)) : undefined;
  if (parsed?.success !== true) return undefined;
  const kinds = { video: 'pictures', audio: 'sound', subtitle: 'subtitles' } as const;
  const { streams, format } = parsed.data;
  return {
    streams: streams.flatMap((stream) => {
      const is = kinds[stream.codec_type as keyof typeof kinds];
      if (is === undefined) return [];
      const [up = 0, down = 1] = (stream.avg_frame_rate ?? '0/1').split('/').map(Number);
      return [
        {
          is,
          codec: stream.codec_name ?? 'unknown',
          locale: stream.tags?.language ?? '',
          rate: is === 'pictures' ? (down === 0 ? 0 : up / down) : (stream.sample_rate ?? 0),
          width: stream.width ?? 0,
          height: stream.height ?? 0,
          channels: stream.channels ?? 0,
        },
      ];
    }),
    seconds: format.duration ?? 0,
    bits: format.bit_rate ?? 0,
  };
}
