export { wavPeaks } from './peaks';
export { soundFormatOf } from './recipe-sound';
export {
  checkNotEmpty,
  decodeSound,
  encodeSound,
  saySound,
  secondsOf,
  soundOfWav,
  soundPeaks,
  writeWav,
  type Sound,
  type SoundFormat,
} from './sound';
export { readWavFacts, sayWav, type WavFacts } from './wav';
