export { wavPeaks } from './peaks';
export { readWavFacts, sayWav, type WavFacts } from './wav';
