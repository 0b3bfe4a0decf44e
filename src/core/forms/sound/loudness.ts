/** How loud a sound is, and making one as loud as another. */
import type { Sound } from './sound';

/** Stretches that loudness is measured over, in seconds, as ITU-R BS.1770 has it. */
const STRETCH = 0.4;
/** Stretches this much below the loudest are pauses, and do not count. */
const PAUSE = 10 ** (-30 / 20);

/** The mean power of what is not a pause, in decibels of full scale; -Infinity for silence. */
export function loudness({ samples, channels, rate }: Sound): number {
  const length = Math.max(1, Math.round(STRETCH * rate)) * channels;
  const powers: number[] = [];
  for (let from = 0; from < samples.length; from += length) {
    const to = Math.min(samples.length, from + length);
    let sum = 0;
    for (let i = from; i < to; i++) sum += (samples[i]! / 32_768) ** 2;
    powers.push(sum / (to - from));
  }
  const least = powers.reduce((most, one) => Math.max(most, one), 0) * PAUSE ** 2;
  const heard = powers.filter((power) => power > least);
  return 10 * Math.log10(heard.reduce((sum, one) => sum + one, 0) / Math.max(1, heard.length));
}

/**
 * A sound as loud as another, as far as its peaks allow.
 *
 * @returns the sound, and by how many decibels it was changed; 0 where one of both is silent
 */
export function asLoudAs(sound: Sound, other: Sound): { readonly sound: Sound; readonly decibels: number } {
  const wanted = loudness(other) - loudness(sound);
  if (!Number.isFinite(wanted)) return { sound, decibels: 0 };
  const peak = sound.samples.reduce((most, value) => Math.max(most, Math.abs(value)), 1);
  const decibels = Math.min(wanted, 20 * Math.log10(32_767 / peak));
  const gain = 10 ** (decibels / 20);
  return { sound: { ...sound, samples: sound.samples.map((value) => Math.round(value * gain)) }, decibels };
}
