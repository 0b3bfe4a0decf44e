/** Synthesised sounds: tannoy chimes with a spoken-like murmur, and weather. PCM, 16 bit, mono, 22,050 Hz. */
import type { Random } from './random';

export const SAMPLE_RATE = 22_050;

/** Two or three chime notes, then syllables of filtered pulses, as a tannoy in a draughty hall. */
export function tannoy(random: Random): Buffer {
  return wav(announcement(random));
}

/** The samples of {@link tannoy}. */
export function announcement(random: Random): Int16Array {
  const seconds = 1.2 + random.next() * 1.2;
  const notes = Array.from({ length: random.whole(2, 3) }, () => random.pick([392, 440, 523.25, 587.33, 659.25]));
  const pitch = random.whole(95, 190);
  const formants = Array.from({ length: 8 }, () => random.whole(400, 2200));
  return samples(seconds, (t) => {
    const note = Math.floor(t / 0.22);
    if (note < notes.length) {
      const local = t - note * 0.22;
      return 0.5 * Math.sin(2 * Math.PI * notes[note]! * local) * Math.exp(-6 * local);
    }
    const speech = t - notes.length * 0.22;
    const syllable = Math.floor(speech / 0.16);
    const within = speech / 0.16 - syllable;
    const buzz =
      Math.sign(Math.sin(2 * Math.PI * pitch * t)) * 0.2 + Math.sin(2 * Math.PI * formants[syllable % 8]! * t) * 0.16;
    return buzz * Math.sin(Math.PI * within) ** 2;
  });
}

/** Wind or rain: noise through a slow filter. */
export function weather(random: Random): Buffer {
  const seconds = 1.5 + random.next();
  const smooth = 0.02 + random.next() * 0.3;
  const sway = 0.2 + random.next();
  let level = 0;
  return wav(
    samples(seconds, (t) => {
      level += (random.next() * 2 - 1 - level) * smooth;
      return level * (0.5 + 0.4 * Math.sin(2 * Math.PI * sway * t));
    }),
  );
}

function samples(seconds: number, at: (t: number) => number): Int16Array {
  const count = Math.floor(seconds * SAMPLE_RATE);
  return Int16Array.from({ length: count }, (_, i) => {
    const fade = Math.min(1, i / 200, (count - i) / 400);
    return Math.round(Math.max(-1, Math.min(1, at(i / SAMPLE_RATE) * fade)) * 32_000);
  });
}

/** A hum that can be looped: all its waves fit the length a whole number of times. */
export function hum(random: Random): Int16Array {
  const waves = Array.from({ length: 5 }, () => [random.whole(40, 400), random.next() * 0.18] as const);
  const count = SAMPLE_RATE;
  return Int16Array.from({ length: count }, (_, i) =>
    Math.round(
      waves.reduce((sum, [turns, loud]) => sum + loud * Math.sin((2 * Math.PI * turns * i) / count), 0) * 32_000,
    ),
  );
}

/** RIFF WAVE with a 16-byte `fmt ` chunk. */
function wav(pcm: Int16Array): Buffer {
  const data = Buffer.from(pcm.buffer, pcm.byteOffset, pcm.byteLength);
  const head = Buffer.alloc(44);
  head.write('RIFF', 0, 'latin1');
  head.writeUInt32LE(36 + data.length, 4);
  head.write('WAVEfmt ', 8, 'latin1');
  head.writeUInt32LE(16, 16);
  head.writeUInt16LE(1, 20); // PCM
  head.writeUInt16LE(1, 22); // channels
  head.writeUInt32LE(SAMPLE_RATE, 24);
  head.writeUInt32LE(SAMPLE_RATE * 2, 28); // bytes a second
  head.writeUInt16LE(2, 32); // block align
  head.writeUInt16LE(16, 34); // bits a sample
  head.write('data', 36, 'latin1');
  head.writeUInt32LE(data.length, 40);
  return Buffer.concat([head, data]);
}
