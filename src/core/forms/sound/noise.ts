/** Telling a sound from what wrong decoding makes: loud noise from the first sample to the last. */
import FFT from 'fft.js';
import type { Sound } from './sound';

const WINDOW = 1024;
/** Windows that are looked at, spread over the sound. */
const WINDOWS = 24;
/**
 * Noise of equal power everywhere has a flatness of 0.56 on the mean, ADPCM that is taken for plain samples 0.1 to 0.2 (measured
 * on spoken cues), and voices, engines and music below 0.01 for most of their length.
 */
const FLAT = 0.06;
/** Of full scale. Bytes taken for samples have more than half of it; what someone mixed has less than a third. */
const LOUD = 0.4;

/** True when it is loud and its spectrum flat throughout. */
export function soundsLikeNoise({ samples, channels }: Sound): boolean {
  const frames = Math.floor(samples.length / channels);
  if (frames < WINDOW * 4) return false;
  const flats: number[] = [];
  let power = 0;
  for (let i = 0; i < WINDOWS; i++) {
    const from = Math.floor((i / WINDOWS) * (frames - WINDOW));
    const window = Array.from({ length: WINDOW }, (_, at) => samples[(from + at) * channels]! / 32_768);
    power += window.reduce((sum, value) => sum + value * value, 0) / WINDOW / WINDOWS;
    flats.push(flatness(window));
  }
  flats.sort((a, b) => a - b);
  return Math.sqrt(power) > LOUD && flats[WINDOWS >> 2]! > FLAT;
}

const transform = new FFT(WINDOW);

/** The geometric mean of the power spectrum over its arithmetic mean: 0 for a tone, near 0.56 for noise. */
function flatness(window: readonly number[]): number {
  const spectrum = transform.createComplexArray();
  // A window of Hann keeps a tone from spreading over the whole spectrum.
  transform.realTransform(
    spectrum,
    window.map((value, i) => value * (0.5 - 0.5 * Math.cos((2 * Math.PI * i) / WINDOW))),
  );
  const bins = WINDOW / 2 - 1;
  let logs = 0;
  let sum = 0;
  for (let i = 1; i <= bins; i++) {
    const power = spectrum[i * 2]! ** 2 + spectrum[i * 2 + 1]! ** 2 + 1e-12;
    logs += Math.log(power);
    sum += power;
  }
  return Math.exp(logs / bins) / (sum / bins);
}
