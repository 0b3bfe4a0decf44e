import { readWavFacts, sayWav, wavPeaks } from './index';

function wave(chunks: readonly [tag: string, body: Buffer][]): Buffer {
  const bodies = chunks.map(([tag, body]) => {
    const head = Buffer.alloc(8);
    head.write(tag, 0, 'latin1');
    head.writeUInt32LE(body.length, 4);
    return Buffer.concat([head, body, Buffer.alloc(body.length % 2)]);
  });
  const all = Buffer.concat(bodies);
  const head = Buffer.from('RIFF\0\0\0\0WAVE', 'latin1');
  head.writeUInt32LE(all.length + 4, 4);
  return Buffer.concat([head, all]);
}
const format = Buffer.from([1, 0, 2, 0, 0x44, 0xac, 0, 0, 0x10, 0xb1, 2, 0, 4, 0, 16, 0]);

test('reads format and length, past chunks of odd length that it does not know', () => {
  const facts = readWavFacts(
    wave([
      ['LIST', Buffer.alloc(3)],
      ['fmt ', format],
      ['data', Buffer.alloc(176_400)],
    ]),
    'x.wav',
  );
  expect(facts).toEqual({
    format: 1,
    channels: 2,
    rate: 44_100,
    bits: 16,
    block: 4,
    seconds: 1,
    dataAt: 56,
    dataBytes: 176_400,
  });
  expect(sayWav(facts)).toBe('PCM, stereo, 44,100 Hz, 16 bit');
});

test.each([
  ['text', Buffer.from('not a sound at all'), 'wrong-kind'],
  ['no data', wave([['fmt ', format]]), 'wrong-kind'],
  [
    'a chunk past the end',
    wave([
      ['fmt ', format],
      ['data', Buffer.alloc(100)],
    ]).subarray(0, 90),
    'cut-short',
  ],
])('%s is told', (_, bytes, code) => {
  expect(() => readWavFacts(bytes, 'x.wav')).toThrow(
    expect.objectContaining({ fault: expect.objectContaining({ code, file: 'x.wav' }) }),
  );
});

test.each([
  ['8 bit', 1, 8, (value: number) => [Math.round(value * 127) + 128]],
  ['16 bit', 1, 16, (value: number) => [...Buffer.from(Int16Array.of(value * 0x7fff).buffer)]],
  ['24 bit', 1, 24, (value: number) => [...Buffer.from(Int32Array.of(value * 0x7fffff).buffer)].slice(0, 3)],
  ['32 bit', 1, 32, (value: number) => [...Buffer.from(Int32Array.of(value * 0x7fffffff).buffer)]],
  ['float', 3, 32, (value: number) => [...Buffer.from(Float32Array.of(value).buffer)]],
])('the outline of %s samples', (_, tag, bits, bytesOf) => {
  const head = Buffer.alloc(16);
  head.writeUInt16LE(tag, 0);
  head.writeUInt16LE(1, 2);
  head.writeUInt32LE(8000, 4);
  head.writeUInt16LE(bits, 14);
  const samples = [0, 0.5, -1, 0.25, 0, 0, -0.75, 0];
  const peaks = wavPeaks(
    wave([
      ['fmt ', head],
      ['data', Buffer.from(samples.flatMap(bytesOf))],
    ]),
    'x.wav',
    4,
  )!;
  for (const [i, peak] of [0.5, 1, 0, 0.75].entries()) expect(peaks[i]).toBeCloseTo(peak, 1);
});

test('a codec that is not read has no outline', () => {
  const head = Buffer.from(format);
  head.writeUInt16LE(2, 0);
  const sound = wave([
    ['fmt ', head],
    ['data', Buffer.alloc(64)],
  ]);
  expect(wavPeaks(sound, 'x.wav', 4)).toBeUndefined();
});
