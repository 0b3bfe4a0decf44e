export { wavPeaks } from './peaks';
export { asLoudAs, loudness } from './loudness';
export { soundsLikeNoise } from './noise';
export { isPcm, type PcmCodec } from './pcm';
export { loopEdits, readRecipeSound, soundFormatOf, writeRecipeSound, type RecipeSound } from './recipe-sound';
export {
  checkNotEmpty,
  decodeSound,
  encodeSound,
  isSoundCodec,
  mostSamples,
  saySound,
  secondsOf,
  soundAsWav,
  soundOfWav,
  soundPeaks,
  USUAL_BLOCK,
  writeWav,
  type Sound,
  type SoundFormat,
} from './sound';
export { cutTo, joinTracks, withoutSilence, type Track } from './trim';
export { pcmCodecOf, readWavFacts, sayWav, type WavFacts } from './wav';
export { wavStream, type WavStream } from './wav-stream';
