import { bufferSource, type ByteSink } from '../../../bytes';
import { isUnchanged, keptInPlace, writePlan, type Piece, type Plan, type PlannedVolume } from './planned';

const base = bufferSource(Buffer.from('HEADrowsdata'), 'base.bin');
const fresh = (words: string) => bufferSource(Buffer.from(words), 'new');
const copied = (at: number, from: number, length: number): Piece => ({
  at,
  from,
  length,
  source: base,
  kind: 'copied',
});
const made = (at: number, words: string): Piece => ({
  at,
  from: 0,
  length: words.length,
  source: fresh(words),
  kind: 'region',
});
const volumeOf = (...pieces: Piece[]): PlannedVolume => ({
  name: 'out.bin',
  size: pieces.reduce((end, one) => Math.max(end, one.at + one.length), 0),
  pieces,
  base,
});

test('a volume is unchanged when its bytes are, however they came about', async () => {
  expect(await isUnchanged(volumeOf(copied(0, 0, 12)), base)).toBe(true);
  expect(await isUnchanged(volumeOf(copied(0, 0, 4), made(4, 'rows'), copied(8, 8, 4)), base)).toBe(true);
  expect(await isUnchanged(volumeOf(copied(0, 0, 4), made(4, 'rowz'), copied(8, 8, 4)), base)).toBe(false);
  expect(await isUnchanged(volumeOf(copied(0, 0, 8)), base)).toBe(false);
  expect(keptInPlace(volumeOf(copied(0, 0, 4), copied(4, 8, 4), made(8, 'rows')))).toBe(4);
});

/** A sink that keeps what it is given, and gives back other bytes when asked to. */
function sink(told: string[], spoilt = false): ByteSink {
  const parts: Uint8Array[] = [];
  return {
    write: async (bytes: Uint8Array) => void parts.push(Uint8Array.from(bytes)),
    written: async () => {
      const all = Buffer.concat(parts);
      if (spoilt) all[3]! ^= 1;
      return bufferSource(all, 'out.bin');
    },
    close: async () => void told.push(`closed ${Buffer.concat(parts).toString()}`),
    abandon: async () => void told.push('abandoned'),
  } as ByteSink;
}

const planOf = (volume: PlannedVolume): Plan => ({
  volumes: [volume],
  size: volume.size,
  entryCount: 0,
  changed: [],
  movedBytes: 0,
  rounds: 1,
});

test('a plan is written piece by piece, read back, and only then kept', async () => {
  const told: string[] = [];
  await writePlan(planOf(volumeOf(copied(0, 0, 4), made(4, 'ROWS'), copied(8, 8, 4))), async () => sink(told));
  expect(told).toEqual(['closed HEADROWSdata']);
});

test('what does not read back as it was written is abandoned', async () => {
  const told: string[] = [];
  const writing = writePlan(planOf(volumeOf(made(0, 'HEAD'), copied(4, 4, 8))), async () => sink(told, true));
  await expect(writing).rejects.toMatchObject({ fault: { code: 'check-failed', offset: 3 } });
  expect(told).toEqual(['abandoned']);
});
