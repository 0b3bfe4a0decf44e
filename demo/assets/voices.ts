/** The spoken cues of the stations: the same numbers in each language, spoken by other voices. */
import type { Cue } from '../archives/cues';
import { encodeIma, IMA_BLOCK, IMA_SAMPLES } from './adpcm';
import { randomFor } from './random';
import { announcement, hum, SAMPLE_RATE } from './sounds';

const CUES = 28;

export function voices(locale: string, build: string): Cue[] {
  return Array.from({ length: CUES }, (_, i): Cue => {
    const number = 100 + i * 5;
    if (i % 9 === 8) {
      // Machine hums are the same everywhere, looped, and not packed.
      const pcm = hum(randomFor(`hum ${number}`));
      const bytes = Buffer.from(pcm.buffer, pcm.byteOffset, pcm.byteLength);
      return { number, codec: 0, rate: SAMPLE_RATE, samples: pcm.length, loop: [0, pcm.length - 1], bytes };
    }
    const pcm = announcement(randomFor(`cue ${locale} ${number}${i === 2 ? build : ''}`));
    const bytes = encodeIma(pcm);
    return { number, codec: 1, rate: SAMPLE_RATE, samples: (bytes.length / IMA_BLOCK) * IMA_SAMPLES, bytes };
  });
}
