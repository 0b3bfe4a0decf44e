/** The command line as a person runs it: its own process, real files, exit codes. */
import { execFileSync, spawnSync } from 'node:child_process';
import {
  copyFileSync,
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  rmSync,
  symlinkSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import sharp from 'sharp';
import { gameKey } from '../../demo/make-game';
import { writeHold } from '../../demo/archives/hold';

const root = join(__dirname, '../..');
const work = mkdtempSync(join(tmpdir(), 'zero-latch-cli-'));
const game = join(work, 'game');
const core = join(game, 'core.hold');
const key = ['--key', `content=${gameKey('1.4.1', 'content').toString('hex')}`];
afterAll(() => rmSync(work, { recursive: true }));

function cli(...args: string[]) {
  const { status, stdout, stderr } = spawnSync(join(root, 'bin/zero-latch'), args, {
    encoding: 'utf8',
    cwd: work,
    maxBuffer: 1 << 26,
  });
  return { status, stdout, stderr };
}

beforeAll(() => {
  expect(cli('demo', '--size', 'small', '--build', '1.4.1', '--to', game).status).toBe(0);
});

test('the demo game is the same every time it is made', () => {
  expect(cli('demo', '--to', join(work, 'again')).status).toBe(0);
  for (const file of ['core.hold', 'gondola-post.bin']) {
    expect(Buffer.compare(readFileSync(join(game, file)), readFileSync(join(work, 'again', file)))).toBe(0);
  }
});

test('list tells every entry, as a table and as JSON', () => {
  const { entries, archive } = JSON.parse(cli('list', core, ...key, '--json').stdout) as {
    archive: object;
    entries: Record<string, unknown>[];
  };
  expect(archive).toMatchObject({ recipe: 'hold-archive', entries: 319, complaints: [] });
  expect(entries).toHaveLength(319);
  expect(entries[0]).toMatchObject({ path: 'cabins/frames/frame_01.png', kind: 'picture', offset: 64, volume: 0 });
  expect(cli('list', core, ...key).stdout).toContain('words/en/captions.txt');
});

test('prove gives all bytes, all formulas, an identical rebuild and every entry changed', () => {
  const { status, stdout } = cli('prove', core, ...key, '--json');
  expect(status).toBe(0);
  const size = readFileSync(core).length;
  expect(JSON.parse(stdout)).toEqual({
    bytes: { explained: size, total: size },
    formulas: { agree: 2237, total: 2237 },
    identical: { same: true },
    changed: { equal: 319, tested: 319, total: 319 },
    // There is no empty entry to be filled: seven kinds in three layouts.
    edits: { done: 21, total: 21, edits: expect.any(Array) },
  });
});

test('an entry goes out, is changed, goes back, and the game loads it', () => {
  const out = join(work, 'out');
  expect(cli('take', core, 'words/en/*', ...key, '--to', out).status).toBe(0);
  const captions = join(out, 'words/en/captions.txt');
  expect(readdirSync(out)).toEqual(['words']);
  writeFileSync(captions, readFileSync(captions, 'utf8').replace('Mind the doors', 'Mind the snow'));
  for (const how of ['keep', 'append', 'afresh']) {
    const built = join(work, `built-${how}`);
    expect(
      cli('put', core, ...key, '--change', `words/en/captions.txt=${captions}`, '--how', how, '--to', built).status,
    ).toBe(0);
    // The judge reads all three; proving takes seconds, and one layout represents the others.
    if (how === 'append') expect(cli('prove', join(built, 'core.hold'), ...key).status).toBe(0);
    const { status, stdout } = cli('judge', game, built, '--json');
    expect(status).toBe(0);
    expect(JSON.parse(stdout)).toMatchObject({ started: true, scene: { caption: 'Mind the snow, please.' } });
  }
});

test('entries go out in open formats, each in the one for its form, as other programs read them', () => {
  const out = join(work, 'converted');
  const { status, stdout } = cli('take', core, ...key, '--as', 'tga,wav,glb,png', '--to', out);
  expect(status).toBe(0);
  expect(stdout).toMatch(/^319 of 319 entries taken out to .*, \d+ of them converted$/m);
  const files = readdirSync(out, { recursive: true, encoding: 'utf8' });
  const packed = files.find((file) => file.endsWith('cabin_colour.tga'))!;
  const size = JSON.parse(
    execFileSync('ffprobe', ['-v', 'error', '-of', 'json', '-show_streams', join(out, packed)], { encoding: 'utf8' }),
  ) as { streams: { codec_name: string; width: number; height: number }[] };
  expect(size.streams[0]).toMatchObject({ codec_name: 'targa', width: 256, height: 256 });
  // PNG comes behind TGA in what is wanted: no picture is left in it.
  expect(files.filter((file) => file.endsWith('.png'))).toEqual([]);
  const mesh = readFileSync(
    join(
      out,
      files.find((file) => file.endsWith('.glb'))!,
    ),
  );
  expect(mesh.toString('latin1', 0, 4)).toBe('glTF');
  expect(mesh.readUInt32LE(8)).toBe(mesh.length);
  const texts = files.filter((file) => file.endsWith('captions.txt'));
  expect(texts.length).toBeGreaterThan(0);
  // Sounds without a header: their archive's recipe says what they are.
  const voices = ['--key', `voices=${gameKey('1.4.1', 'voices').toString('hex')}`];
  expect(cli('take', join(game, 'voices.cue'), ...voices, '--as', 'wav', '--to', join(work, 'voices')).status).toBe(0);
  const [sound] = readdirSync(join(work, 'voices'), { recursive: true, encoding: 'utf8' }).filter((file) =>
    file.endsWith('.wav'),
  );
  const told = ['-v', 'error', '-of', 'csv=p=0', '-show_entries', 'stream=codec_type', join(work, 'voices', sound!)];
  expect(execFileSync('ffprobe', told, { encoding: 'utf8' }).trim()).toBe('audio');
  // The same samples in another container, by the machine's ffmpeg.
  const flacs = cli(
    'take',
    join(game, 'voices.cue'),
    'voices/en/cue_01*',
    ...voices,
    '--as',
    'flac',
    '--to',
    join(work, 'flac'),
  );
  expect(flacs.stderr).toBe('');
  const [flac] = readdirSync(join(work, 'flac'), { recursive: true, encoding: 'utf8' }).filter((file) =>
    file.endsWith('.flac'),
  );
  const samples = (file: string) =>
    execFileSync('ffmpeg', ['-v', 'error', '-i', file, '-f', 's16le', 'pipe:1'], { maxBuffer: 64 << 20 });
  expect(samples(join(work, 'flac', flac!))).toEqual(samples(join(work, 'voices', flac!.replace(/flac$/, 'wav'))));
  expect(cli('take', core, ...key, '--as', 'png,gif', '--to', out)).toMatchObject({
    status: 2,
    stderr: expect.stringContaining('--as gif is not known'),
  });
});

test('a table of texts goes out as one file for translators', () => {
  const out = join(work, 'texts');
  const take = () => cli('take', join(game, 'words/en.lex'), '--as', 'po', '--to', out);
  const { status, stdout } = take();
  expect(status).toBe(0);
  const texts = Number(/^([\d,]+) texts taken out/.exec(stdout)![1]!.replace(',', ''));
  const [name] = readdirSync(out);
  const told = execFileSync('python3', ['-c', COUNT_PO, join(out, name!)], { encoding: 'utf8' });
  expect(Number(told)).toBe(texts);
  expect(take().stdout).toContain('as it was there already');
  writeFileSync(join(out, name!), 'my translation');
  expect(take()).toMatchObject({
    status: 1,
    stderr: expect.stringContaining('it stays as it is'),
  });
});

/** Counts the texts of a PO file line by line. */
const COUNT_PO = `import sys
print(sum(1 for line in open(sys.argv[1], encoding='utf-8') if line.startswith('msgctxt ')))`;

describe('a file that is there', () => {
  const wanted = ['words/en/captions.txt', 'words/en/credits.txt'] as const;
  const into = (...more: string[]) => cli('take', core, 'words/en/c*', ...key, '--to', join(work, 'mine'), ...more);

  test('stays when somebody has worked on it, and is written over only when that is said', () => {
    expect(into().status).toBe(0);
    const mine = join(work, 'mine', wanted[0]);
    const original = readFileSync(mine);
    writeFileSync(mine, 'my work');
    const { status, stdout, stderr } = into();
    expect(status).toBe(1);
    expect(stderr).toContain(`${wanted[0]} is there already and holds other bytes; it stays as it is.`);
    expect(stdout).toContain('--replace writes over them');
    expect(readFileSync(mine, 'utf8')).toBe('my work');
    expect(into('--replace').status).toBe(0);
    expect(readFileSync(mine).equals(original)).toBe(true);
  });

  test('of the same bytes is left alone, and that is said', () => {
    const { status, stdout } = into();
    expect({ status, stdout }).toEqual({
      status: 0,
      stdout: expect.stringMatching(/^(\d+) of \1 entries taken out .*, \1 of them there already$/m),
    });
  });

  test('is not written over by an archive either', () => {
    mkdirSync(join(work, 'other'));
    writeFileSync(join(work, 'other/core.hold'), 'my archive');
    const { status, stderr } = cli('put', core, ...key, '--to', join(work, 'other'));
    expect({ status, stderr }).toEqual({ status: 1, stderr: expect.stringContaining('--replace') });
    expect(readFileSync(join(work, 'other/core.hold'), 'utf8')).toBe('my archive');
    expect(cli('put', core, ...key, '--to', join(work, 'other'), '--replace').status).toBe(0);
    expect(readFileSync(join(work, 'other/core.hold')).equals(readFileSync(core))).toBe(true);
  });

  test('is not written over when it is the archive that is read, below the folder', () => {
    const within = join(work, 'within');
    const archive = join(within, wanted[0]);
    mkdirSync(dirname(archive), { recursive: true });
    copyFileSync(core, archive);
    const { status, stderr } = cli('take', archive, 'words/en/c*', ...key, '--to', within, '--replace');
    expect({ status, stderr }).toEqual({
      status: 1,
      stderr: expect.stringContaining('would be written over the archive it comes from'),
    });
    expect(readFileSync(archive).equals(readFileSync(core))).toBe(true);
  });

  test('is not reached through a link in the folder', () => {
    const to = mkdtempSync(join(work, 'linked-'));
    const outside = mkdtempSync(join(work, 'outside-'));
    symlinkSync(outside, join(to, 'words'));
    const { status, stderr } = cli('take', core, 'words/en/c*', ...key, '--to', to);
    expect({ status, stderr }).toEqual({ status: 1, stderr: expect.stringContaining('leads out of it') });
    expect(readdirSync(outside)).toEqual([]);
  });
});

test('without changes the archive is written identically', () => {
  expect(cli('put', core, ...key, '--to', join(work, 'same')).status).toBe(0);
  expect(Buffer.compare(readFileSync(join(work, 'same/core.hold')), readFileSync(core))).toBe(0);
});

test('both halves of a picture that is converted cannot be changed against each other', async () => {
  const [main, half] = ['models/crane/crane_colour.tex', 'models/crane/crane_colour.texfar'];
  const to = join(work, 'halves');
  expect(cli('take', core, ...key, main, '--as', 'png', '--to', to).status).toBe(0);
  const png = join(to, 'other.png');
  await sharp(join(to, 'models/crane/crane_colour.png')).negate({ alpha: false }).toFile(png);
  for (const order of [
    [main, half],
    [half, main],
  ]) {
    const changes = order.flatMap((path) => ['--change', `${path}=${png}`]);
    const { status, stderr } = cli('put', core, ...key, '--fit', ...changes, '--to', join(work, 'clash'));
    expect(status).toBe(1);
    expect(stderr).toContain(`Two files would change it: entry ${half}`);
    expect(existsSync(join(work, 'clash/core.hold'))).toBe(false);
  }
});

test('what the game would refuse, the judge refuses with file, offset and rule', () => {
  writeFileSync(join(work, 'not-a-picture.png'), 'only text');
  const built = join(work, 'bad');
  cli(
    'put',
    core,
    ...key,
    '--change',
    `cabins/livery/cabin_07_red.png=${join(work, 'not-a-picture.png')}`,
    '--to',
    built,
  );
  const { status, stdout } = cli('judge', game, built, '--json');
  expect(status).toBe(1);
  expect(JSON.parse(stdout)).toMatchObject({
    started: false,
    findings: [{ code: 'PNG-SIGNATURE', file: 'core.hold', entry: 'cabins/livery/cabin_07_red.png', offset: 0 }],
  });
});

describe('refusals', () => {
  const refused = (words: RegExp, ...args: string[]) => {
    const { status, stderr } = cli(...args);
    expect(stderr).toMatch(words);
    expect(status).toBe(1);
  };
  test('no key, a wrong key and half a key', () => {
    refused(/slot "content" needs a key/, 'list', core);
    refused(
      /mark at 0x0 of the unlocked index should read "ROWS"/,
      'list',
      core,
      '--key',
      `content=${'ab'.repeat(32)}`,
    );
    refused(
      /expected 32 bytes, found 16 bytes\. Was the key copied whole/,
      'list',
      core,
      '--key',
      `content=${'ab'.repeat(16)}`,
    );
  });
  test('a key is never said again', () => {
    const { stdout, stderr } = cli('list', core, '--key', `content=${'abcd'.repeat(15)}`);
    expect(stdout + stderr).not.toContain('abcdabcd');
  });
  test('a file that is cut off', () => {
    writeFileSync(join(work, 'cut.hold'), readFileSync(core).subarray(0, 2_000_000));
    refused(/cut\.hold.*region index.*The file may be cut off/, 'list', join(work, 'cut.hold'), ...key);
  });
  test('a file no recipe knows', () => {
    refused(
      /No recipe knows this file: gondola-post\.bin at 0x0: found 47 50 45 58/,
      'list',
      join(game, 'gondola-post.bin'),
    );
  });
  test('a file that is not there', () => {
    refused(/the file is not there: gone\.hold/i, 'list', join(work, 'gone.hold'));
  });
  test('an archive is not written over itself', () => {
    const before = readdirSync(game).sort();
    expect(cli('put', core, ...key, '--to', game).status).toBe(2);
    expect(cli('take', core, ...key, '--to', game, '--replace').status).toBe(2);
    expect(readdirSync(game).sort()).toEqual(before);
  });
  test('wrong usage is 2', () => {
    expect(cli('take', core).status).toBe(2);
    expect(cli('frobnicate').status).toBe(2);
    expect(cli('list', core, '--key', 'slotless').status).toBe(2);
  });
});

test('paths that lead out of the folder stay in it, and it is said', () => {
  const bytes = writeHold(
    [
      { path: '../../escaped.txt', bytes: Buffer.from('out') },
      { path: '/abs.txt', bytes: Buffer.from('abs') },
    ],
    { key: gameKey('1.4.1', 'content'), release: 'x', built: 0 },
  );
  writeFileSync(join(work, 'hostile.hold'), bytes);
  const { status, stderr } = cli('take', join(work, 'hostile.hold'), ...key, '--to', join(work, 'deep/hostile'));
  expect(status).toBe(0);
  expect(stderr).toContain('../../escaped.txt is written as escaped.txt, because it leads upwards.');
  expect(readdirSync(join(work, 'deep/hostile')).sort()).toEqual(['abs.txt', 'escaped.txt']);
  expect(existsSync(join(work, 'escaped.txt'))).toBe(false);
});

test('notes that are alike for every entry are counted from some on', () => {
  const recipe = join(work, 'nameless.yaml');
  writeFileSync(
    recipe,
    `recipe: nameless-rows
title: Rows
revision: 1
numbers: little
shapes: { row: [{ field: name, as: ascii(2) }, { field: body, as: data(1) }] }
regions: [{ region: rows, at: 0, length: end, holds: "row[60]" }]
presents: archive
entries: { each: row in rows, path: 'if(ends(before(row, row.name == "no").name, "x"), "a", "b")' }
`,
  );
  writeFileSync(join(work, 'rows.bin'), 'abc'.repeat(60));
  const { status, stderr } = cli('list', join(work, 'rows.bin'), '--recipe', recipe);
  const notes = stderr.split('\n').filter((line) => line.startsWith('Note: '));
  expect(notes.length).toBeLessThan(50);
  expect(notes.at(-1)).toBe('Note: and 40 more entries like these; --json has them all.');
  expect(status).toBe(0);
});

test('a full disk is said plainly, and nothing half-written is left', () => {
  // A file system of one megabyte in a mount namespace of our own.
  const script = `mount -t tmpfs -o size=1m tmpfs "$1" && "$2" take "$3" --key "$4" --to "$1/out"; status=$?; find "$1" -name '*.part' | wc -l; exit $status`;
  const small = mkdtempSync(join(work, 'small-'));
  const unshare = [
    'unshare',
    process.getuid!() === 0 ? '-m' : '-Urm',
    'sh',
    '-c',
    script,
    'sh',
    small,
    join(root, 'bin/zero-latch'),
    core,
    key[1]!,
  ];
  const { status, stdout, stderr } = spawnSync(unshare[0]!, unshare.slice(1), { encoding: 'utf8' });
  expect(stderr).toContain('The disk is full');
  expect(stdout.trim().endsWith('0')).toBe(true);
  expect(status).toBe(1);
});
