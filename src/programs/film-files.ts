/** Film files in formats that everything plays. */
import { input, runFfmpeg } from './run-ffmpeg';

/** Pixels are kept for every second one along each side: a side that is odd is filled up by one. */
const EVEN = ['-vf', 'pad=ceil(iw/2)*2:ceil(ih/2)*2', '-pix_fmt', 'yuv420p'];

/** How pictures and sound are encoded, by the container. */
export const FILM_ENCODINGS: Readonly<Record<'webm' | 'mp4', readonly string[]>> = {
  webm: [
    ...EVEN,
    ...['-c:v', 'libvpx', '-deadline', 'realtime', '-cpu-used', '4', '-crf', '8', '-b:v', '4M'],
    ...['-c:a', 'libvorbis', '-q:a', '6'],
  ],
  mp4: [
    ...EVEN,
    ...['-c:v', 'libx264', '-preset', 'veryfast', '-crf', '18'],
    ...['-c:a', 'aac', '-b:a', '192k'],
    ...['-movflags', '+faststart'],
  ],
};

/** What of a film file is written, and as what. */
export interface FilmFileChoice {
  readonly as: 'webm' | 'mp4' | 'wav';
  /** One stream of the file; all of them without it. */
  readonly stream?: number | undefined;
}

/**
 * Writes one film file as another.
 *
 * @param name the file name for error messages
 * @throws CancelledError, FormatError `wrong-kind`, FaultError `missing-program`
 */
export function convertFilmFile(
  from: string,
  to: string,
  { as, stream }: FilmFileChoice,
  { name, signal }: { readonly name: string; readonly signal: AbortSignal },
): Promise<void> {
  const wanted = as === 'wav' ? ['-vn', '-c:a', 'pcm_s16le'] : FILM_ENCODINGS[as];
  const map = stream === undefined ? [] : ['-map', `0:${stream}`];
  return runFfmpeg({ args: [...input(from), ...map, ...wanted, '-f', as, to], file: name, signal });
}
