/** Films, sounds and subtitles as the packets of a game's film: only the streams that a file brings are replaced. */
import { open, readdir, readFile, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { FaultError, throwIfStopped } from '../../../core/faults';
import { readSubtitles, streamsOf, type Film, type FilmStream } from '../../../core/forms/film';
import { encodeSound, mostSamples } from '../../../core/forms/sound';
import type { Note } from '../../../core/notes';
import { asPicture } from '../../../core/forms/picture';
import type { FilmOptions } from '../../shapes';
import { soundFormat } from './film-source';
import { bitsFor, expectedBytes } from './expected-size';
import { bitsOf, isLossy, pictureCodec } from './picture-codecs';
import { input, probeFilm, runFfmpeg } from '../../../programs';

/** A packet of a stream as it is to be. */
export interface NewPacket {
  /** Milliseconds from the start. */
  readonly time: number;
  read(): Promise<Uint8Array>;
}

export interface FittedStream {
  readonly stream: FilmStream;
  readonly packets: readonly NewPacket[];
  /** What was done to it. */
  readonly notes: readonly Note[];
}

interface FitOrder {
  readonly film: Film;
  /** The file that was dropped, with an ending that says what it is. */
  readonly given: string;
  readonly fileName: string;
  /** The first picture of the game's: new ones have the same channels. */
  readonly like: Uint8Array | undefined;
  /** The stream of the packet that the file was dropped on. */
  readonly near: number | undefined;
  readonly fitOptions: FilmOptions;
  /** A folder for what is made on the way; it has to be there until all packets are read. */
  readonly room: string;
  readonly signal: AbortSignal;
  readonly onMilliseconds?: (done: number, total: number) => void;
}

const isSubtitles = (name: string): boolean => /\.(srt|vtt)$/i.test(name);

/** Whether a file is for the film as a whole, and not for one of its packets. */
export const isForFilm = (fileName: string): boolean =>
  isSubtitles(fileName) || /\.(mp4|m4v|webm|mkv|mov|avi|mpe?g|ts|ogv|wav|ogg|opus|flac|mp3|m4a|aac)$/i.test(fileName);

/**
 * @throws FormatError `wrong-kind` for subtitles with a fault, with its line, and for what ffmpeg cannot read
 * @throws FaultError `wrong-kind` when nothing of the file has a stream it could go into
 */
export async function fitFilm(order: FitOrder): Promise<FittedStream[]> {
  if (isSubtitles(order.fileName)) return [fitSubtitles(order, await readFile(order.given))];
  const { film, given: file, fileName, fitOptions } = order;
  const probed = await probeFilm(file);
  const has = (is: 'pictures' | 'sound') => probed?.streams.some((one) => one.is === is) === true;
  if (probed === undefined || !(has('pictures') || has('sound')))
    throw new FaultError({
      code: 'wrong-kind',
      file: fileName,
      what: 'there are neither pictures nor sound in it',
      expected: 'a film, a sound, or subtitles as SRT or WebVTT',
    });
  const [pictures] = streamsOf(film, 'pictures');
  const fitted: FittedStream[] = [];
  if (pictures !== undefined && has('pictures') && fitOptions.only !== 'sound')
    fitted.push(await fitPictures(pictures, file, probed.seconds, order));
  for (const sound of soundsFor(order))
    if (has('sound') && fitOptions.only !== 'pictures') fitted.push(await fitSound(sound, file, order));
  if (fitted.length === 0)
    throw new FaultError({
      code: 'wrong-kind',
      file: fileName,
      what: has('pictures') ? 'the film of the game has no pictures' : 'the film of the game has no sound',
    });
  const notes: Note[] = [];
  if (Math.abs(probed.seconds - film.seconds) > 0.1)
    notes.push({ code: 'film-length', yours: probed.seconds, original: film.seconds });
  if (!isSoundFile(fileName) && !has('pictures')) notes.push({ code: 'film-only-sound' });
  if (!has('sound') && fitOptions.only !== 'pictures') notes.push({ code: 'film-no-sound' });
  return fitted.map((one) => ({ ...one, notes: [...notes, ...one.notes] }));
}

const isSoundFile = (name: string) => /\.(wav|ogg|opus|flac|mp3|m4a|aac)$/i.test(name);

/** A language in the name of a file, such as `arrival.de.srt`. */
const localeIn = (fileName: string): string | undefined => /\.([a-z]{2,4})\.\w+$/i.exec(fileName)?.[1]?.toLowerCase();

/** All sound, unless the file or the place it was dropped on says of which language it is. */
function soundsFor({ film, fileName, near, fitOptions }: FitOrder): FilmStream[] {
  const sounds = streamsOf(film, 'sound');
  const on = sounds.find(({ number }) => number === near);
  if (on !== undefined && sounds.length > 1) return [on];
  const locale = fitOptions.locale ?? localeIn(fileName);
  const named = sounds.filter((one) => one.locale.toLowerCase() === locale);
  return named.length > 0 ? named : sounds;
}

function fitSubtitles({ film, fileName, near, fitOptions }: FitOrder, given: Uint8Array): FittedStream {
  const all = streamsOf(film, 'subtitles');
  const locale = fitOptions.locale ?? localeIn(fileName);
  const stream =
    all.find((one) => one.locale.toLowerCase() === locale) ??
    all.find(({ number }) => number === near) ??
    (all.length === 1 ? all[0] : undefined);
  if (stream === undefined)
    throw new FaultError({
      code: 'wrong-kind',
      file: fileName,
      what: all.length === 0 ? 'the film of the game has no subtitles' : 'it does not say of which language it is',
      ...(all.length === 0
        ? {}
        : {
            expected: `one of ${all.map((one) => one.locale).join(', ')}`,
            hint: `Call it ${fileName.replace(/(\.\w+)$/, `.${all[0]!.locale}$1`)}, or drop it on a subtitle of that language.`,
          }),
    });
  const subtitles = readSubtitles(given, fileName);
  const late = subtitles.filter(({ from }) => from > film.seconds * 1000).length;
  const { shownFor } = film;
  const longer =
    shownFor === undefined ? 0 : subtitles.filter(({ from, to }) => Math.abs(to - from - shownFor) > 50).length;
  return {
    stream,
    packets: subtitles.map(({ from, text }) => ({ time: from, read: () => Promise.resolve(Buffer.from(text)) })),
    notes: [
      {
        code: 'film-subtitles',
        count: subtitles.length,
        locale: stream.locale,
        before: stream.packets.length,
      },
      ...(late > 0 ? [{ code: 'film-subtitles-late', count: late } as const] : []),
      ...(longer > 0 ? [{ code: 'film-subtitles-fixed-length', milliseconds: shownFor! } as const] : []),
    ],
  };
}

async function fitPictures(
  stream: FilmStream,
  file: string,
  seconds: number,
  { like, room, fileName, fitOptions, signal, onMilliseconds }: FitOrder,
): Promise<FittedStream> {
  const { width, height, rate, codec } = stream;
  const kept = pictureCodec(stream);
  const { channels } =
    like === undefined || codec !== 'png'
      ? { channels: 3 }
      : await asPicture(like, fileName, (picture) => picture.metadata());
  const expected = expectedBytes(bitsOf(stream), seconds, fitOptions);
  const bits = bitsFor(expected, seconds);
  const args = [
    '-vf',
    `fps=${rate},scale=${width}:${height}:force_original_aspect_ratio=decrease:flags=lanczos,pad=${width}:${height}:(ow-iw)/2:(oh-ih)/2`,
    ...kept.write({ stream, bits, channels, fitOptions }),
  ];
  const total = Math.round(seconds * 1000);
  await runFfmpeg({
    args: [...input(file), '-map', '0:v:0', ...args, '-f', 'image2', join(room, `picture-%07d.${kept.ending}`)],
    ...{ file: fileName, signal },
    onSeconds: (done) => onMilliseconds?.(Math.min(total, Math.round(done * 1000)), total),
  });
  const names = (await readdir(room)).filter((name) => name.startsWith('picture-')).sort();
  return {
    stream,
    packets: names.map((name, i) => ({ time: Math.round((i * 1000) / rate), read: () => readFile(join(room, name)) })),
    notes: [
      { code: 'film-pictures', count: names.length, size: [width, height], rate, codec },
      ...(isLossy(stream) ? [{ code: 'film-size', expected, made: await sizeOf(room, names) } as const] : []),
      { code: 'film-command', args },
    ],
  };
}

/** Bytes of several files of a folder. */
async function sizeOf(room: string, names: readonly string[]): Promise<number> {
  let made = 0;
  for (const name of names) made += (await stat(join(room, name))).size;
  return made;
}

/** Sound in packets as long as those of the original. */
async function fitSound(
  stream: FilmStream,
  file: string,
  { room, fileName, fitOptions, signal }: FitOrder,
): Promise<FittedStream> {
  const format = soundFormat(stream);
  const { rate, channels } = format;
  const raw = join(room, `sound-${stream.number}.raw`);
  const args = [
    ...(fitOptions.gain === undefined || fitOptions.gain === 0 ? [] : ['-af', `volume=${fitOptions.gain}dB`]),
    ...['-ar', String(rate), '-ac', String(channels), '-c:a', 'pcm_s16le'],
  ];
  await runFfmpeg({ args: [...input(file), '-map', '0:a:0', ...args, '-f', 's16le', raw], file: fileName, signal });
  const handle = await open(raw);
  const frames = Math.floor((await handle.stat()).size / 2 / channels);
  await handle.close();
  if (frames === 0) throw new FaultError({ code: 'wrong-kind', file: fileName, what: 'the sound is 0 seconds long' });
  const [first, second] = stream.packets;
  const step = second === undefined ? 250 : second.time - first!.time;
  // Codecs of blocks have whole ones in each packet.
  const whole = mostSamples({ ...format, most: Math.floor((step * rate) / 1000) });
  const isBlocks = format.codec.endsWith('adpcm');
  const edge = (i: number) => (isBlocks ? i * whole : Math.floor((i * step * rate) / 1000));
  const packets: NewPacket[] = [];
  for (let i = 0; edge(i) < frames; i++) {
    const [from, to] = [edge(i), Math.min(frames, edge(i + 1))];
    packets.push({
      time: isBlocks ? Math.round((from * 1000) / rate) : i * step,
      read: async () => {
        throwIfStopped(signal);
        const part = await open(raw);
        try {
          const bytes = Buffer.alloc((to - from) * channels * 2);
          await part.read(bytes, 0, bytes.length, from * channels * 2);
          const samples = Int16Array.from({ length: bytes.length / 2 }, (_, j) => bytes.readInt16LE(j * 2));
          return encodeSound({ rate, channels, samples }, format);
        } finally {
          await part.close();
        }
      },
    });
  }
  return {
    stream,
    packets,
    notes: [
      { code: 'film-sound', seconds: frames / rate, rate, channels },
      { code: 'film-command', args },
    ],
  };
}
