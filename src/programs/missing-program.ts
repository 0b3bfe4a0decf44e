/** Programs of the machine that only some things need: without one, all else works. */
import { FaultError } from '../core/faults';

/** What each is for, as the end of a sentence. */
const NEEDED: Readonly<Record<'ffmpeg' | 'ffprobe' | 'xdelta3', string>> = {
  ffmpeg: 'films and sounds of other formats are converted',
  ffprobe: 'sounds of other formats are read',
  xdelta3: 'mods hold differences of files',
};
type Program = keyof typeof NEEDED;

/** The error of a program that could not be started: a clear fault where it is not installed. */
export function startFault(program: Program, error: unknown): unknown {
  if ((error as NodeJS.ErrnoException).code !== 'ENOENT') return error;
  return new FaultError(
    {
      code: 'missing-program',
      what: `${program} is not installed`,
      hint: `Install it, and ${NEEDED[program]}. Everything else works without it.`,
    },
    { cause: error },
  );
}
