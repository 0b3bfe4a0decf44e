import { readWavFacts, sayWav } from './index';

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
  expect(facts).toEqual({ format: 1, channels: 2, rate: 44_100, bits: 16, seconds: 1 });
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
