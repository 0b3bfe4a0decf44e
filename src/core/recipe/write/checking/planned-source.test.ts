import { bufferSource } from '../../../bytes';
import type { Piece, PlannedVolume } from '../rendering/planned';
import { pieceIndexAt, plannedSource } from './planned-source';

const text = (words: string) => bufferSource(Buffer.from(words), 'part');
const piece = (at: number, words: string, from: number, length: number): Piece => ({
  at,
  length,
  from,
  source: text(words),
  kind: 'copied',
});

const volume: PlannedVolume = {
  name: 'sample.bin',
  size: 12,
  base: undefined,
  pieces: [piece(0, 'xxHEADxx', 2, 4), piece(4, 'rows', 0, 4), piece(8, '..data', 2, 4)],
};

test('what is read comes from the pieces, over their borders too', async () => {
  const source = plannedSource(volume);
  const all = 'HEADrowsdata';
  for (let from = 0; from <= 12; from++)
    for (let length = 0; from + length <= 12; length++)
      expect(Buffer.from(await source.read(from, length)).toString()).toBe(all.slice(from, from + length));
  await expect(source.read(10, 3)).rejects.toThrow();
});

test('the piece of an offset is found', () => {
  expect([0, 3, 4, 7, 8, 11].map((at) => pieceIndexAt(volume.pieces, at))).toEqual([0, 0, 1, 1, 2, 2]);
});
