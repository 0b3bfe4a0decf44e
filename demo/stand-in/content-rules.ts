/** What the game demands of the bytes inside its entries. */
import { crc32 } from './crc';
import { LoadStop } from './report';

/** @throws LoadStop when the entry is not what its folder and ending promise */
export function checkContent(file: string, path: string, bytes: Buffer): void {
  if (path.endsWith('.png')) checkPng(file, path, bytes, sizeFor(path));
  else if (path.endsWith('.wav')) checkWav(file, path, bytes);
  else if (path.endsWith('.json')) checkJson(file, path, bytes);
  else if (path.endsWith('captions.txt')) readCaptions(file, path, bytes);
}

function stopper(file: string, entry: string) {
  return (code: string, offset: number, rule: string, found: unknown): never => {
    throw new LoadStop({ code, file, entry, offset, rule, found: String(found) });
  };
}

/** Pictures that are shown in a place of a fixed size. */
const SIZES: readonly [prefix: string, width: number, height: number][] = [
  ['cabins/livery/', 256, 256],
  ['cabins/frames/', 256, 256],
  ['cabins/interiors/', 256, 192],
  ['stations/', 320, 200],
  ['ui/icons/', 64, 64],
];

interface PictureSize {
  readonly width: number;
  readonly height: number;
  readonly rule: string;
}

function sizeFor(path: string): PictureSize | undefined {
  const found = SIZES.find(([prefix]) => path.startsWith(prefix));
  if (found === undefined) return undefined;
  const [prefix, width, height] = found;
  return { width, height, rule: `Pictures in ${prefix} are ${width} × ${height}.` };
}

/** A picture of a size that its place demands, or of any. @throws LoadStop */
export function checkPicture(file: string, path: string, bytes: Buffer, width?: number, height?: number): void {
  const size =
    width === undefined || height === undefined
      ? undefined
      : { width, height, rule: `This picture is ${width} × ${height}.` };
  checkPng(file, path, bytes, size);
}

/** PNG, third edition: signature, chunks with checksums, and an IHDR that fits the place the picture is for. */
function checkPng(file: string, path: string, bytes: Buffer, size: PictureSize | undefined): void {
  const stop = stopper(file, path);
  const signature = '89504e470d0a1a0a';
  if (bytes.toString('hex', 0, 8) !== signature)
    stop('PNG-SIGNATURE', 0, 'A picture is a PNG.', bytes.toString('hex', 0, 8));
  let at = 8;
  let last = '';
  while (at + 12 <= bytes.length) {
    const length = bytes.readUInt32BE(at);
    last = bytes.toString('latin1', at + 4, at + 8);
    if (at + 12 + length > bytes.length) stop('PNG-CHUNK', at, 'A chunk lies inside the picture.', last);
    const body = bytes.subarray(at + 4, at + 8 + length);
    if (crc32(body) !== bytes.readUInt32BE(at + 8 + length))
      stop('PNG-CRC', at, 'The checksum of a chunk agrees.', last);
    if (last === 'IHDR') checkHeader(stop, size, bytes, at + 8);
    at += 12 + length;
    if (last === 'IEND') break;
  }
  if (last !== 'IEND' || at !== bytes.length) stop('PNG-END', at, 'A picture ends with IEND.', last || 'nothing');
}

function checkHeader(stop: ReturnType<typeof stopper>, size: PictureSize | undefined, bytes: Buffer, at: number): void {
  const width = bytes.readUInt32BE(at);
  const height = bytes.readUInt32BE(at + 4);
  const depth = bytes[at + 8];
  const colour = bytes[at + 9];
  if (depth !== 8 || colour !== 6)
    stop(
      'PNG-FORMAT',
      at + 8,
      'Pictures have 8 bits a channel, with red, green, blue and alpha.',
      `depth ${depth}, colour type ${colour}`,
    );
  if (size !== undefined && (width !== size.width || height !== size.height))
    stop('PNG-SIZE', at, size.rule, `${width} × ${height}`);
}

const MAX_SECONDS = 20;

/** RIFF WAVE: PCM, one channel, 22,050 Hz, 16 bit, and chunk sizes that add up. */
function checkWav(file: string, path: string, bytes: Buffer): void {
  const stop = stopper(file, path);
  if (bytes.length < 44 || bytes.toString('latin1', 0, 4) !== 'RIFF' || bytes.toString('latin1', 8, 12) !== 'WAVE')
    stop('WAV-RIFF', 0, 'A sound is a RIFF WAVE file.', bytes.toString('latin1', 0, 4));
  if (bytes.readUInt32LE(4) !== bytes.length - 8)
    stop('WAV-LENGTH', 4, 'The RIFF length is that of the file.', bytes.readUInt32LE(4));
  let data = -1;
  for (let at = 12; at + 8 <= bytes.length;) {
    const tag = bytes.toString('latin1', at, at + 4);
    const length = bytes.readUInt32LE(at + 4);
    if (at + 8 + length > bytes.length) stop('WAV-CHUNK', at, 'A chunk lies inside the sound.', tag);
    if (tag === 'fmt ') {
      const format = [
        bytes.readUInt16LE(at + 8),
        bytes.readUInt16LE(at + 10),
        bytes.readUInt32LE(at + 12),
        bytes.readUInt16LE(at + 22),
      ];
      if (format.join(' ') !== '1 1 22050 16')
        stop(
          'WAV-FORMAT',
          at + 8,
          'Sounds are PCM, mono, 22,050 Hz, 16 bit.',
          `format ${format[0]}, ${format[1]} channels, ${format[2]} Hz, ${format[3]} bit`,
        );
    }
    if (tag === 'data') data = length;
    at += 8 + length + (length % 2);
  }
  if (data <= 0 || data > MAX_SECONDS * 22_050 * 2)
    stop('WAV-DATA', 12, `A sound lasts up to ${MAX_SECONDS} seconds and is not empty.`, `${data} bytes`);
}

/** @returns what the file says. @throws LoadStop when it is no JSON */
export function checkJson(file: string, path: string, bytes: Buffer): unknown {
  try {
    return JSON.parse(bytes.toString('utf8'));
  } catch (error) {
    return stopper(file, path)('JSON', 0, 'Data files are JSON.', (error as Error).message);
  }
}

/** Lines of `key = text`, UTF-8, each key once. */
export function readCaptions(file: string, path: string, bytes: Buffer): ReadonlyMap<string, string> {
  const stop = stopper(file, path);
  const captions = new Map<string, string>();
  let text = '';
  try {
    text = new TextDecoder('utf-8', { fatal: true }).decode(bytes);
  } catch {
    stop('WORDS-UTF8', 0, 'Words are UTF-8.', 'other bytes');
  }
  let offset = 0;
  for (const line of text.split('\n')) {
    const match = /^([a-z]+\.[a-z]+) = (.+)$/.exec(line);
    if (line !== '' && match === null) stop('WORDS-LINE', offset, 'A line is: key = text.', line.slice(0, 40));
    if (match !== null) {
      if (captions.has(match[1]!)) stop('WORDS-TWICE', offset, 'A key stands once.', match[1]);
      captions.set(match[1]!, match[2]!);
    }
    offset += Buffer.byteLength(line) + 1;
  }
  return captions;
}
