/** Programs of the machine that are run in processes of their own. */
export { startFault } from './missing-program';
export { encodedAs, isWritten, probeSound, samplesAs, soundByFfmpeg, waveAs, type SoundTarget } from './sound-codecs';
