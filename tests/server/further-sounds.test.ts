/** Sounds that browsers do not play: known by what they hold, heard as WAVE, and taken out as others have them. */
import { execFileSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { listEntries } from '../../src/server/entries';
import { findWinner } from '../../src/server/content';
import { addGame } from '../../src/server/games';
import { entryQuery } from '../../src/server/shapes';
import { ended, games, settled, withWorker } from './support';
import { wavOfEntry } from './subjects';

withWorker();

/** A module of one pattern in which one sample, a square wave, is played four times. */
function module(): Buffer {
  const sample = Buffer.from(Array.from({ length: 64 }, (_, i) => (i % 32 < 16 ? 60 : 196)));
  const head = Buffer.alloc(1084);
  head.write('a tune', 0, 'latin1');
  head.writeUInt16BE(sample.length / 2, 20 + 22);
  head.writeUInt8(64, 20 + 25);
  head.writeUInt16BE(0, 20 + 26);
  head.writeUInt16BE(sample.length / 2, 20 + 28);
  head.writeUInt8(1, 950);
  head.writeUInt8(127, 951);
  head.write('M.K.', 1080, 'latin1');
  const pattern = Buffer.alloc(64 * 4 * 4);
  // Period 428 is C-2; the number of the sample is in two halves.
  for (let row = 0; row < 64; row += 16) pattern.set([0x01, 0xac, 0x10, 0x00], row * 16);
  return Buffer.concat([head, pattern, sample]);
}

let id: number;
const folder = join(games, 'further-sounds');
beforeAll(async () => {
  rmSync(folder, { recursive: true, force: true });
  mkdirSync(folder, { recursive: true });
  const made = ['-v', 'error', '-f', 'lavfi', '-i', 'sine=frequency=440:duration=1'];
  execFileSync('ffmpeg', [...made, '-c:a', 'aac', join(folder, 'call.m4a')]);
  execFileSync('ffmpeg', [...made, join(folder, 'bell.aiff')]);
  writeFileSync(join(folder, 'tune.mod'), module());
  // A name that lies.
  writeFileSync(join(folder, 'list.mod'), 'doors = true\nlevels = 4\n'.repeat(40));
  const { game, run } = await addGame({ folder });
  ({ id } = game);
  await ended(run.id);
  await settled(id);
});

test('they are sounds by what they hold, and a text of such a name is a text', async () => {
  const { rows } = await listEntries(id, entryQuery.parse({ limit: '10' }));
  expect(Object.fromEntries(rows.map(({ path, kind }) => [path, kind]))).toEqual({
    'bell.aiff': 'sound',
    'call.m4a': 'sound',
    'list.mod': 'words',
    'tune.mod': 'sound',
  });
});

test.each([
  ['call.m4a', 1],
  ['bell.aiff', 1],
  // 64 rows of six ticks, of which there are fifty a second.
  ['tune.mod', 7.68],
])('%s is heard as WAVE, and is as long as it is', async (path, seconds) => {
  const { archive, n } = await findWinner(id, path);
  const { bytes, mime } = await wavOfEntry(archive, n);
  expect(mime).toBe('audio/wav');
  const room = mkdtempSync(join(tmpdir(), 'zero-latch-heard-'));
  try {
    writeFileSync(join(room, 'heard.wav'), bytes);
    const script =
      'import sys, wave; w = wave.open(sys.argv[1]); n = w.getnframes(); d = w.readframes(n); print(n / w.getframerate(), max(d) - min(d))';
    const [long, range] = execFileSync('python3', ['-c', script, join(room, 'heard.wav')], { encoding: 'utf8' }).split(
      ' ',
    );
    expect(Math.abs(Number(long) - seconds)).toBeLessThan(0.2);
    expect(Number(range)).toBeGreaterThan(100);
  } finally {
    rmSync(room, { recursive: true });
  }
});
