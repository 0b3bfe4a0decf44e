/** What `take --as` writes of films and records, as other programs read it. */
import { execFileSync, spawnSync } from 'node:child_process';
import { existsSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { PALETTE, wad } from '../wad-sample';

const root = join(__dirname, '../..');
const work = mkdtempSync(join(tmpdir(), 'zero-latch-take-'));
afterAll(() => rmSync(work, { recursive: true }));

test('films and records go out each in the first format that suits them; a name alone makes no film', () => {
  execFileSync(
    'ffmpeg',
    [
      ...[
        '-v',
        'error',
        '-f',
        'lavfi',
        '-i',
        'testsrc=size=63x48:rate=12:duration=1',
        '-f',
        'lavfi',
        '-i',
        'sine=440:d=1',
      ],
      ...['-c:v', 'mpeg4', '-c:a', 'mp2', 'intro.avi'],
    ],
    { cwd: work },
  );
  writeFileSync(join(work, 'stations.json'), JSON.stringify([{ id: 1, name: 'Upper' }]));
  writeFileSync(join(work, 'false.avi'), 'a name says little');
  execFileSync(
    'python3',
    [
      '-c',
      'import zipfile\nwith zipfile.ZipFile("game.zip", "w") as z:\n for n in ["intro.avi", "stations.json", "false.avi"]: z.write(n)',
    ],
    { cwd: work },
  );
  const { status, stdout } = spawnSync(
    join(root, 'bin/zero-latch'),
    ['take', 'game.zip', '--to', 'out', '--as', 'mp4,csv'],
    { cwd: work, encoding: 'utf8' },
  );
  expect([status, stdout]).toEqual([0, '3 of 3 entries taken out to out, 2 of them converted\n']);
  const probed = execFileSync(
    'ffprobe',
    ['-v', 'error', '-show_entries', 'stream=codec_name,width,height', '-of', 'csv=p=0', 'out/intro.mp4'],
    { cwd: work, encoding: 'utf8' },
  );
  // Sides are even in H.264.
  expect(probed.trim().split('\n').sort()).toEqual(['aac', 'h264,64,48']);
  expect(readFileSync(join(work, 'out/stations.csv'), 'utf8')).toBe('id,name\r\n1,Upper\r\n');
  expect(readFileSync(join(work, 'out/false.avi'), 'utf8')).toBe('a name says little');
  expect(existsSync(join(work, 'out/stations.json'))).toBe(false);
});

test('forms of an engine are those of its archives: in any other a lump of pixels stays as it is', () => {
  const flat = Buffer.alloc(4096, 9);
  writeFileSync(join(work, 'FLOOR1'), flat);
  execFileSync(
    'python3',
    ['-c', 'import zipfile\nwith zipfile.ZipFile("flats.zip", "w") as z: z.write("FLOOR1", "flats/FLOOR1")'],
    { cwd: work },
  );
  writeFileSync(
    join(work, 'flats.wad'),
    wad('IWAD', [
      ['PLAYPAL', PALETTE],
      ['F_START', Buffer.alloc(0)],
      ['FLOOR1', flat],
      ['F_END', Buffer.alloc(0)],
    ]),
  );
  const take = (file: string, to: string) =>
    spawnSync(join(root, 'bin/zero-latch'), ['take', file, 'flats/FLOOR1', '--to', to, '--as', 'png'], { cwd: work });
  expect([take('flats.zip', 'zip').status, take('flats.wad', 'wad').status]).toEqual([0, 0]);
  expect(Buffer.compare(readFileSync(join(work, 'zip/flats/FLOOR1')), flat)).toBe(0);
  expect(readFileSync(join(work, 'wad/flats/FLOOR1.png')).subarray(1, 4).toString()).toBe('PNG');
});
