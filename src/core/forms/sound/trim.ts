/** Silence at the ends of a sound, and many sounds one after the other with a sheet that says where each begins. */
import { pcmBytes } from './pcm';
import type { Sound } from './sound';
import { wrapWav } from './wav';

/** Of full scale: −60 dB. */
const SILENCE = 33;

/** The sound without the silence before and behind it; a sound of nothing but silence stays as it is. */
export function withoutSilence(sound: Sound): Sound {
  const { samples, channels } = sound;
  let first = 0;
  while (first < samples.length && Math.abs(samples[first]!) < SILENCE) first++;
  if (first === samples.length) return sound;
  let last = samples.length - 1;
  while (Math.abs(samples[last]!) < SILENCE) last--;
  const from = first - (first % channels);
  return { ...sound, samples: samples.subarray(from, Math.min(samples.length, last - (last % channels) + channels)) };
}

/** Samples over which a sound that is cut falls silent, so that it does not click. */
const FADE = 256;

/** The first `most` samples of each channel; the last of them fall silent. A sound that is no longer stays as it is. */
export function cutTo(sound: Sound, most: number): Sound {
  const { samples, channels } = sound;
  if (samples.length <= most * channels) return sound;
  const cut = samples.slice(0, most * channels);
  const fade = Math.min(FADE, most) * channels;
  for (let i = 0; i < fade; i++) {
    const at = cut.length - 1 - i;
    cut[at] = Math.round((cut[at]! * Math.floor(i / channels)) / FADE);
  }
  return { ...sound, samples: cut };
}

export interface Track {
  readonly title: string;
  readonly sound: Sound;
}

/** Frames a second of a cue sheet. */
const FRAMES = 75;

/**
 * All tracks in one WAVE of 16 bits, with a cue sheet (the text format of CD authoring: `FILE`, `TRACK`, `INDEX 01 mm:ss:ff`).
 *
 * @param tracks of one rate and as many channels
 */
export function joinTracks(tracks: readonly Track[], file: string): { readonly wav: Uint8Array; readonly cue: string } {
  const { rate, channels } = tracks[0]!.sound;
  const samples = new Int16Array(tracks.reduce((sum, { sound }) => sum + sound.samples.length, 0));
  const lines = [`FILE "${file}" WAVE`];
  let at = 0;
  for (const [i, { title, sound }] of tracks.entries()) {
    samples.set(sound.samples, at);
    const frames = Math.round((at / channels / rate) * FRAMES);
    const two = (value: number) => String(value).padStart(2, '0');
    const time = `${two(Math.floor(frames / FRAMES / 60))}:${two(Math.floor(frames / FRAMES) % 60)}:${two(frames % FRAMES)}`;
    lines.push(`  TRACK ${two(i + 1)} AUDIO`, `    TITLE "${title.replaceAll('"', "'")}"`, `    INDEX 01 ${time}`);
    at += sound.samples.length;
  }
  const wav = wrapWav(pcmBytes(samples, 'pcm-s16'), { codec: 'pcm-s16', rate, channels });
  return { wav, cue: `${lines.join('\r\n')}\r\n` };
}
