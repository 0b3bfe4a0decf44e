/** Kinds by content, on files that other programs write. */
import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import iconv from 'iconv-lite';
import { kindOf, looseKind, mimeOf } from '.';

const folder = mkdtempSync(join(tmpdir(), 'zero-latch-kinds-'));
afterAll(() => rmSync(folder, { recursive: true }));

const HEAD_BYTES = 512;

/** The first bytes of a file that ffmpeg writes. */
function headOf(name: string, ...options: readonly string[]): Uint8Array {
  const path = join(folder, name);
  execFileSync('ffmpeg', ['-v', 'error', '-y', ...options, path]);
  return new Uint8Array(readFileSync(path)).subarray(0, HEAD_BYTES);
}

const tone = ['-f', 'lavfi', '-i', 'sine=440:duration=0.4:sample_rate=44100'];
const clip = ['-f', 'lavfi', '-i', 'testsrc=size=64x48:duration=0.4'];

test.each([
  ['a.wv', 'sound', 'audio/x-wavpack', tone],
  ['a.au', 'sound', 'audio/basic', tone],
  ['a.voc', 'sound', 'audio/x-voc', tone],
  ['low.mp3', 'sound', 'audio/mpeg', [...tone, '-b:a', '64k', '-id3v2_version', '0', '-write_xing', '0']],
  [
    'half.mp3',
    'sound',
    'audio/mpeg',
    [...tone, '-ar', '22050', '-b:a', '48k', '-id3v2_version', '0', '-write_xing', '0'],
  ],
  ['a.mp2', 'sound', 'audio/mpeg', [...tone, '-b:a', '128k']],
  ['a.ogg', 'sound', 'audio/ogg', tone],
  ['a.ogv', 'film', 'video/ogg', [...clip, '-c:v', 'libtheora']],
  ['a.bmp', 'picture', 'image/bmp', [...clip, '-frames:v', '1']],
  ['a.pcx', 'picture', 'image/vnd.zbrush.pcx', [...clip, '-frames:v', '1']],
  ['a.sgi', 'picture', 'image/sgi', [...clip, '-frames:v', '1']],
  ['a.tiff', 'picture', 'image/tiff', [...clip, '-frames:v', '1']],
] as const)('%s is known by its first bytes, under any name', (name, kind, mime, options) => {
  const head = headOf(name, ...options);
  expect([kindOf('entry', head), mimeOf('entry', head)]).toEqual([kind, mime]);
  expect(kindOf(name, head)).toBe(kind);
});

test('an MP3 whose frames are longer than what is looked at is known with its name', () => {
  const head = headOf('high.mp3', ...tone, '-b:a', '320k', '-id3v2_version', '0', '-write_xing', '0');
  expect(kindOf('entry', head)).toBe('bytes');
  expect(kindOf('a.mp3', head)).toBe('sound');
  expect(kindOf('a.mp3', Uint8Array.of(0xff, 0xff, 0xff, 0xff, 0, 0, 0, 0))).toBe('bytes');
});

test.each([
  ['utf-8', 'Über die Brücke führt ein schmaler Weg.\nRechts liegt der alte Bahnhof.\n'],
  ['utf-16le', 'Nächster Halt: Oberstadt\nAusstieg links\n'],
  ['utf-16be', 'Nächster Halt: Oberstadt\nAusstieg links\n'],
  ['latin1', '*[description] Une montée très raide, à côté de la forêt.\n*[author] Jérôme\n'],
  ['cp437', 'Straße über die Brücke: ½ Stunde Fahrt bis zur Wüste\r\n'],
  ['win1251', 'Следующая станция находится за мостом,\r\nвыход справа.\r\n'],
  ['koi8-r', 'Следующая станция находится за мостом,\nвыход справа.\n'],
  ['shift_jis', '次の駅は橋の向こうにあります。\n出口は右側です。\nお忘れ物のないようご注意ください。\n'],
])('a text in %s is one without a name that says so', (encoding, text) => {
  expect(looseKind('level.dim', iconv.encode(text, encoding))).toBe('words');
});

test('what is no text is not taken for one', () => {
  const noise = Uint8Array.from({ length: HEAD_BYTES }, (_, i) => (i * 197 + (i >> 3) * 31) & 255);
  const silence = new Uint8Array(HEAD_BYTES).fill(0x80);
  const grey = Uint8Array.from({ length: HEAD_BYTES }, (_, i) => 0x60 + (i % 0x60));
  const shorts = new Uint8Array(Int16Array.from({ length: HEAD_BYTES / 2 }, (_, i) => i * 3).buffer);
  const halves = Uint8Array.of(0xff, 0xfe, 0x41, 0, 0, 0xd8, 0x41, 0);
  for (const bytes of [noise, silence, grey, shorts, halves]) expect(looseKind('data', bytes)).toBeUndefined();
});

test.each([
  ['words that begin as a bitmap does', 'BMP files are listed here, one a line'],
  ['an empty line at the start', '\nTicket machine\n'.repeat(20)],
])('%s are words', (_, text) => {
  expect(kindOf('entry', Buffer.from(text))).toBe('words');
});

test('a name at the ninth byte alone is no signature', () => {
  const samples = Buffer.concat([
    Buffer.from([3, 0, 0x46, 0x46, 0xa8, 0x36, 0, 0]),
    Buffer.from('WAVEfmt '),
    Buffer.alloc(64, 0x80),
  ]);
  expect([kindOf('DSHOOF', samples), mimeOf('DSHOOF', samples)]).toEqual(['bytes', 'application/octet-stream']);
});
