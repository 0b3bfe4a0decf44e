/** A dropped film, sound or subtitle file as the film file that it replaces: MP4, WebM and the like. */
import type { Note } from '../../../core/notes';
import { createReadStream } from 'node:fs';
import { readFile } from 'node:fs/promises';
import { extname, join } from 'node:path';
import { FaultError } from '../../../core/faults';
import { readSubtitles } from '../../../core/forms/film';
import type { FilmOptions } from '../../shapes';
import { keepBlob, type Blob } from '../../storage';
import { bitsFor, expectedBytes } from './expected-size';
import { withTempDir } from './film-source';
import { input, probeFilm, runFfmpeg, type ProbedFilm } from '../../../programs';

/** How each codec is written, by ffmpeg's name of it. */
const WRITERS: Readonly<Record<string, { readonly codec: string; readonly args?: readonly string[] }>> = {
  h264: { codec: 'libx264', args: ['-pix_fmt', 'yuv420p'] },
  vp8: { codec: 'libvpx', args: ['-cpu-used', '2', '-pix_fmt', 'yuv420p'] },
  vp9: { codec: 'libvpx-vp9', args: ['-cpu-used', '4', '-row-mt', '1', '-pix_fmt', 'yuv420p'] },
  mpeg4: { codec: 'mpeg4' },
  mpeg2video: { codec: 'mpeg2video' },
  mjpeg: { codec: 'mjpeg', args: ['-pix_fmt', 'yuvj420p'] },
  aac: { codec: 'aac' },
  mp3: { codec: 'libmp3lame' },
  vorbis: { codec: 'libvorbis' },
  opus: { codec: 'libopus' },
  pcm_s16le: { codec: 'pcm_s16le' },
};

/** What a container of each ending is called. */
const CONTAINERS: Readonly<Record<string, string>> = {
  '.mp4': 'mp4',
  '.m4v': 'mp4',
  '.mov': 'mov',
  '.webm': 'webm',
  '.mkv': 'matroska',
  '.avi': 'avi',
  '.mpg': 'mpeg',
  '.mpeg': 'mpeg',
  '.ts': 'mpegts',
};

export interface FittedFilm {
  readonly blob: Blob;
  readonly notes: readonly Note[];
}

export interface FitFileOrder {
  /** Of the entry: its ending says what holds the film. */
  readonly path: string;
  /** The file of the original. */
  readonly was: string;
  /** The file that was dropped, with an ending that says what it is. */
  readonly given: string;
  readonly fileName: string;
  readonly fitOptions: FilmOptions;
  readonly signal: AbortSignal;
  readonly onMilliseconds?: (done: number, total: number) => void;
}

/** @throws FaultError `wrong-kind` when the original or the file cannot be read, or is of a codec that is not written here */
export async function fitFilmFile(order: FitFileOrder): Promise<FittedFilm> {
  const { path, was, given, fileName, fitOptions, signal, onMilliseconds } = order;
  return withTempDir(async (room) => {
    const subtitles = /\.(srt|vtt)$/i.test(fileName);
    if (subtitles) readSubtitles(await readFile(given), fileName);
    const [wanted, found] = await Promise.all([probeFilm(was), probeFilm(given)]);
    const refuse = (what: string, expected?: string, hint?: string) =>
      new FaultError({
        code: 'wrong-kind',
        file: fileName,
        entry: path,
        what,
        ...(expected === undefined ? {} : { expected }),
        ...(hint === undefined ? {} : { hint }),
      });
    const container = CONTAINERS[extname(path).toLowerCase()];
    if (wanted === undefined || container === undefined) throw refuse('nothing is known of how the original is kept');
    if (found === undefined)
      throw refuse('it cannot be read as a film or a sound', 'MP4, WebM, a sound, or subtitles as SRT or WebVTT');
    const stream = (film: ProbedFilm, is: 'pictures' | 'sound') => film.streams.find((one) => one.is === is);
    const [picture, sound] = [stream(wanted, 'pictures'), stream(wanted, 'sound')];
    const brings = {
      pictures: picture !== undefined && stream(found, 'pictures') !== undefined,
      sound: sound !== undefined && stream(found, 'sound') !== undefined,
    };
    if (!brings.pictures && !brings.sound && !subtitles)
      throw refuse('there is nothing in it that the original has', 'pictures or sound');
    const writer = (codec: string) => {
      const known = WRITERS[codec];
      if (known === undefined)
        throw refuse(
          'films of that codec are read and not written',
          codec,
          'Make yours of that codec with a program that writes it: it then goes in as it is.',
        );
      return known;
    };
    const seconds = brings.pictures ? found.seconds : wanted.seconds;
    const bytes = expectedBytes(wanted.bits, seconds, fitOptions);
    const soundBits = sound === undefined ? 0 : 128_000;
    const bits = bitsFor(bytes, seconds, soundBits);
    const pictureArgs = () => {
      const { codec, args = [] } = writer(picture!.codec);
      const { width, height, rate } = picture!;
      return [
        ...[
          '-vf',
          `fps=${rate},scale=${width}:${height}:force_original_aspect_ratio=decrease,pad=${width}:${height}:(ow-iw)/2:(oh-ih)/2`,
        ],
        ...[
          '-c:v',
          codec,
          ...args,
          '-b:v',
          String(bits),
          '-g',
          String(fitOptions.keyframes ?? Math.max(1, Math.round(rate * 2))),
        ],
        ...(codec === 'libx264' ? ['-preset', fitOptions.preset ?? 'medium'] : []),
      ];
    };
    const soundArgs = () => [
      '-c:a',
      writer(sound!.codec).codec,
      '-ar',
      String(sound!.rate),
      '-ac',
      String(sound!.channels),
      ...(fitOptions.gain === undefined ? [] : ['-af', `volume=${fitOptions.gain}dB`]),
    ];
    const args = [
      ...['-map', brings.pictures ? '1:v:0' : '0:v:0?', ...(brings.pictures ? pictureArgs() : ['-c:v', 'copy'])],
      ...(sound === undefined
        ? []
        : ['-map', brings.sound ? '1:a:0' : '0:a:0', ...(brings.sound ? soundArgs() : ['-c:a', 'copy'])]),
      ...(subtitles ? ['-map', '1:s:0', '-c:s', container === 'webm' ? 'webvtt' : 'mov_text'] : []),
    ];
    const to = join(room, `made${extname(path)}`);
    const total = Math.round(seconds * 1000);
    await runFfmpeg({
      args: [...input(was), ...input(given), ...args, '-f', container, to],
      ...{ file: fileName, signal },
      onSeconds: (done) => onMilliseconds?.(Math.min(total, Math.round(done * 1000)), total),
    });
    const blob = await keepBlob(createReadStream(to, { highWaterMark: 1 << 20 }));
    const notes: Note[] = [];
    if (brings.pictures) {
      const { width, height, rate, codec } = picture!;
      notes.push({ code: 'film-pictures', size: [width, height], rate, codec });
    }
    if (brings.sound) {
      const { rate, channels, codec } = sound!;
      notes.push({ code: 'film-sound', rate, channels, codec });
    }
    if (subtitles) notes.push({ code: 'film-subtitles' });
    if (Math.abs(found.seconds - wanted.seconds) > 0.1 && brings.pictures)
      notes.push({ code: 'film-length', yours: found.seconds, original: wanted.seconds });
    if (brings.pictures) notes.push({ code: 'film-size', expected: bytes, made: blob.size });
    notes.push({ code: 'film-command', args });
    return { blob, notes };
  });
}
