export { readWavFacts, sayWav, type WavFacts } from './wav';
