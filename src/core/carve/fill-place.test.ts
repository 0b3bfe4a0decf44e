import sharp from 'sharp';
import { readWavFacts, writeWav } from '../forms/sound';
import { fillPlace } from './fill-place';

const picture = (background: string) =>
  sharp({ create: { width: 20, height: 20, channels: 4, background } })
    .png()
    .toBuffer();

test('a picture is filled up by a chunk that readers pass over', async () => {
  const png = await picture('#123456');
  const filled = fillPlace(png, png.length + 100, 'a.png');
  expect(filled).toHaveLength(png.length + 100);
  const pixels = await sharp(filled, { failOn: 'warning' }).raw().toBuffer();
  expect(pixels.equals(await sharp(png).raw().toBuffer())).toBe(true);
  expect(fillPlace(png, png.length, 'a.png')).toBe(png);
});

test('a sound is filled up with silence', () => {
  const wav = writeWav({ rate: 8000, channels: 1, samples: Int16Array.of(1, 2, 3) }, [0, 2]);
  const filled = fillPlace(wav, wav.length + 10, 'a.wav');
  const facts = readWavFacts(filled, 'a.wav');
  expect([facts.dataBytes, facts.loop]).toEqual([16, [0, 2]]);
  expect([...filled.subarray(facts.dataAt, facts.dataAt + 16)]).toEqual([1, 0, 2, 0, 3, ...Array(11).fill(0)]);
});

test('what is too long, or cannot be filled, is refused', async () => {
  const png = await picture('#123456');
  for (const [bytes, length] of [
    [png, png.length - 1],
    [png, png.length + 5],
    [Buffer.from('words'), 9],
  ] as const)
    expect(() => fillPlace(bytes, length, 'a')).toThrow(
      expect.objectContaining({ fault: expect.objectContaining({ code: 'limit-reached', entry: 'a' }) }),
    );
});
