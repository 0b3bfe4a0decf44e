/** Programs of the machine that are run in processes of their own. */
export { fitCue, fitSoundFile } from './fit-sound';
export { startFault } from './missing-program';
export { encodedAs, OPEN_CODINGS, probeSound, soundByFfmpeg, waveAs } from './sound-codecs';
export { convertFilmFile, FILM_ENCODINGS } from './film-files';
export { input, probeFilm, runFfmpeg, type ProbedFilm } from './run-ffmpeg';
