/** Files that `put --fit` makes fit, as other programs read them from the archive. */
import { execFileSync, spawnSync } from 'node:child_process';
import { copyFileSync, mkdtempSync, readFileSync, rmSync, truncateSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import sharp from 'sharp';

const root = join(__dirname, '../..');
const work = mkdtempSync(join(tmpdir(), 'zero-latch-fits-'));
afterAll(() => rmSync(work, { recursive: true }));

const python = (script: string, ...args: string[]) =>
  execFileSync('python3', ['-c', script, ...args], { cwd: work, encoding: 'utf8' });
const put = (...args: string[]) =>
  spawnSync(join(root, 'bin/zero-latch'), ['put', 'game.zip', ...args], { cwd: work, encoding: 'utf8' });
/** An entry, as python's own reader sees it. */
const entry = (archive: string, name: string): Buffer => {
  python(
    'import sys, zipfile; open("seen", "wb").write(zipfile.ZipFile(sys.argv[1]).read(sys.argv[2]))',
    archive,
    name,
  );
  return readFileSync(join(work, 'seen'));
};
const tone = (file: string, rate: number) =>
  execFileSync('ffmpeg', ['-v', 'error', '-y', '-f', 'lavfi', '-i', `sine=440:d=1:r=${rate}`, file], { cwd: work });

beforeAll(async () => {
  const colour = (width: number, height: number) =>
    sharp({ create: { width, height, channels: 3, background: '#7a3' } });
  await colour(64, 48).png().toFile(join(work, 'sign.png'));
  await colour(100, 80).jpeg().toFile(join(work, 'mine.jpg'));
  tone('bell.wav', 22_050);
  tone('mine.flac', 44_100);
  writeFileSync(join(work, 'lines.txt'), 'one\r\ntwo\r\n');
  writeFileSync(join(work, 'other.txt'), 'three\n');
  writeFileSync(join(work, 'not.png'), 'a name says little');
  python(
    'import zipfile\nwith zipfile.ZipFile("game.zip", "w") as z:\n for name in ["sign.png", "bell.wav", "lines.txt", "not.png"]: z.write(name)',
  );
});

test('a picture and a sound become what the game has, and are told; texts go in byte for byte', async () => {
  const changes = ['sign.png=mine.jpg', 'bell.wav=mine.flac', 'lines.txt=other.txt', 'not.png=mine.jpg'];
  const { status, stderr } = put('--fit', '--to', 'fits', ...changes.flatMap((one) => ['--change', one]));
  expect(stderr.trim().split('\n')).toEqual([
    'Note: sign.png: yours was 100 × 80, resized to 64 × 48.',
    'Note: sign.png: converted from JPEG to PNG.',
    'Note: bell.wav: converted from FLAC to 22,050 Hz mono.',
  ]);
  expect(status).toBe(0);
  const { format, width, height } = await sharp(entry('fits/game.zip', 'sign.png')).metadata();
  expect([format, width, height]).toEqual(['png', 64, 48]);
  entry('fits/game.zip', 'bell.wav');
  expect(python('import wave; w = wave.open("seen"); print(w.getframerate(), w.getnchannels())').trim()).toBe(
    '22050 1',
  );
  expect(entry('fits/game.zip', 'lines.txt').toString()).toBe('three\n');
  // Nothing is known of a picture that is none: what is brought is as good.
  expect(entry('fits/game.zip', 'not.png').equals(readFileSync(join(work, 'mine.jpg')))).toBe(true);
});

test('a picture whose bytes are damaged is replaced by what is brought', () => {
  python(
    'b = bytearray(open("game.zip", "rb").read())\ni = b.index(b"IHDR")\nb[i + 40] ^= 255\nopen("hurt.zip", "wb").write(b)',
  );
  const args = ['put', 'hurt.zip', '--fit', '--to', 'mended', '--change', 'sign.png=mine.jpg'];
  const { status } = spawnSync(join(root, 'bin/zero-latch'), args, { cwd: work });
  expect(status).toBe(0);
  expect(entry('mended/hurt.zip', 'sign.png').equals(readFileSync(join(work, 'mine.jpg')))).toBe(true);
});

test('without --fit files go in as they are', () => {
  const { status, stderr } = put('--to', 'as-is', '--change', 'sign.png=mine.jpg');
  expect([status, stderr]).toEqual([0, '']);
  expect(entry('as-is/game.zip', 'sign.png').equals(readFileSync(join(work, 'mine.jpg')))).toBe(true);
});

test('what is in no form that can be read goes in byte for byte, and that is told', () => {
  const { status, stderr } = put('--fit', '--to', 'own', '--change', 'sign.png=lines.txt');
  expect(status).toBe(0);
  expect(stderr).toMatch(/^Note: sign\.png: written unchanged\. .*this is no picture: lines\.txt/s);
  expect(entry('own/game.zip', 'sign.png').toString()).toBe('one\r\ntwo\r\n');
});

test('a file that is too large to be converted is written unchanged, and that is told', () => {
  copyFileSync(join(work, 'bell.wav'), join(work, 'long.wav'));
  truncateSync(join(work, 'long.wav'), (64 << 20) + 1);
  const { status, stderr } = put('--fit', '--to', 'large', '--change', 'bell.wav=long.wav');
  expect(status).toBe(0);
  expect(stderr).toMatch(/^Note: bell\.wav: written unchanged\. .*67,108,864/s);
  expect(entry('large/game.zip', 'bell.wav')).toHaveLength((64 << 20) + 1);
});
