/** A short film for the arrival at the upper station: drawn frames, a hum, and subtitles in every language. */
import type { ReelPacket, ReelStream } from '../archives/reel';
import { filmFrame } from './pictures';
import { randomFor } from './random';
import { hum, SAMPLE_RATE } from './sounds';
import { caption, LANGUAGES } from './words';

const FRAMES = 48;
const RATE = 12;
export const FILM_WIDTH = 320;
export const FILM_HEIGHT = 180;

export interface Film {
  readonly streams: readonly ReelStream[];
  /** By time. */
  readonly packets: readonly ReelPacket[];
}

export async function film(): Promise<Film> {
  const streams: ReelStream[] = [
    { kind: 'VIDP', codec: 'PNGF', locale: '', rate: RATE, width: FILM_WIDTH, height: FILM_HEIGHT },
    { kind: 'SNDP', codec: 'PCM1', locale: '', rate: SAMPLE_RATE, width: 0, height: 0 },
    ...LANGUAGES.map((locale): ReelStream => ({ kind: 'SUBP', codec: 'UTF8', locale, rate: 0, width: 0, height: 0 })),
  ];
  const packets: ReelPacket[] = [];
  for (let frame = 0; frame < FRAMES; frame++) {
    const bytes = await filmFrame(FILM_WIDTH, FILM_HEIGHT, frame / FRAMES);
    packets.push({ stream: 0, time: Math.round((frame * 1000) / RATE), key: true, bytes });
  }
  const sound = hum(randomFor('film'));
  const step = SAMPLE_RATE / 4;
  for (let part = 0; part < (FRAMES / RATE) * 4; part++) {
    const from = Math.floor((part % 4) * step);
    const pcm = sound.subarray(from, Math.floor(from + step));
    packets.push({ stream: 1, time: part * 250, key: false, bytes: Buffer.from(pcm.slice().buffer) });
  }
  for (const [i, locale] of LANGUAGES.entries())
    for (const [time, key] of [
      [500, 'tannoy.last'],
      [2200, 'tannoy.doors'],
    ] as const)
      packets.push({ stream: 2 + i, time, key: false, bytes: Buffer.from(caption(key, locale)) });
  return { streams, packets: packets.sort((a, b) => a.time - b.time || a.stream - b.stream) };
}
