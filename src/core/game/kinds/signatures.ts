/** The first bytes that formats begin with, from the standard of each. */
import type { Kind } from '../kind-names';

export interface Signature {
  readonly kind: Kind;
  readonly mime: string;
  readonly extension: string;
  readonly at: number;
  readonly bytes: string;
  /** What else has to hold, where the bytes alone say too little. */
  readonly also?: (head: Uint8Array) => boolean;
}

/** The longer ones first where one starts another. */
export const SIGNATURES: readonly Signature[] = [
  { kind: 'picture', mime: 'image/png', extension: 'png', at: 0, bytes: '\x89PNG\r\n\x1a\n' },
  { kind: 'picture', mime: 'image/jpeg', extension: 'jpg', at: 0, bytes: '\xff\xd8\xff' },
  { kind: 'picture', mime: 'image/gif', extension: 'gif', at: 0, bytes: 'GIF8' },
  { kind: 'picture', mime: 'image/webp', extension: 'webp', at: 8, bytes: 'WEBP', also: inChunk('RIFF') },
  { kind: 'picture', mime: 'image/tiff', extension: 'tif', at: 0, bytes: 'II*\0' },
  { kind: 'picture', mime: 'image/tiff', extension: 'tif', at: 0, bytes: 'MM\0*' },
  { kind: 'picture', mime: 'image/bmp', extension: 'bmp', at: 0, bytes: 'BM', also: isBmpHeader },
  { kind: 'picture', mime: 'image/vnd.zbrush.pcx', extension: 'pcx', at: 0, bytes: '\n', also: isPcxHeader },
  { kind: 'picture', mime: 'image/sgi', extension: 'sgi', at: 0, bytes: '\x01\xda', also: isSgiHeader },
  { kind: 'picture', mime: 'image/vnd-ms.dds', extension: 'dds', at: 0, bytes: 'DDS ' },
  { kind: 'picture', mime: 'image/ktx', extension: 'ktx', at: 0, bytes: '\xabKTX 11\xbb' },
  { kind: 'picture', mime: 'image/ktx2', extension: 'ktx2', at: 0, bytes: '\xabKTX 20\xbb' },
  { kind: 'sound', mime: 'audio/wav', extension: 'wav', at: 8, bytes: 'WAVE', also: inChunk('RIFF', 'RIFX', 'RF64') },
  { kind: 'film', mime: 'video/ogg', extension: 'ogv', at: 0, bytes: 'OggS', also: hasTheora },
  { kind: 'sound', mime: 'audio/ogg', extension: 'ogg', at: 0, bytes: 'OggS' },
  { kind: 'sound', mime: 'audio/flac', extension: 'flac', at: 0, bytes: 'fLaC' },
  { kind: 'sound', mime: 'audio/mpeg', extension: 'mp3', at: 0, bytes: 'ID3' },
  { kind: 'sound', mime: 'audio/mpeg', extension: 'mp3', at: 0, bytes: '\xff', also: isMpegAudio },
  { kind: 'sound', mime: 'audio/mp4', extension: 'm4a', at: 4, bytes: 'ftypM4A' },
  { kind: 'sound', mime: 'audio/aiff', extension: 'aiff', at: 8, bytes: 'AIFF', also: inChunk('FORM') },
  { kind: 'sound', mime: 'audio/aiff', extension: 'aiff', at: 8, bytes: 'AIFC', also: inChunk('FORM') },
  { kind: 'sound', mime: 'audio/x-wavpack', extension: 'wv', at: 0, bytes: 'wvpk' },
  { kind: 'sound', mime: 'audio/basic', extension: 'au', at: 0, bytes: '.snd' },
  { kind: 'sound', mime: 'audio/x-voc', extension: 'voc', at: 0, bytes: 'Creative Voice File\x1a' },
  // Tracker music: samples with the notes that play them.
  { kind: 'sound', mime: 'audio/x-xm', extension: 'xm', at: 0, bytes: 'Extended Module: ' },
  { kind: 'sound', mime: 'audio/x-it', extension: 'it', at: 0, bytes: 'IMPM' },
  { kind: 'sound', mime: 'audio/x-s3m', extension: 's3m', at: 44, bytes: 'SCRM' },
  { kind: 'film', mime: 'video/mp4', extension: 'mp4', at: 4, bytes: 'ftyp' },
  { kind: 'film', mime: 'video/webm', extension: 'webm', at: 0, bytes: '\x1a\x45\xdf\xa3' },
  { kind: 'film', mime: 'video/x-msvideo', extension: 'avi', at: 8, bytes: 'AVI ', also: inChunk('RIFF') },
  // Messages of gettext, in either order of bytes.
  { kind: 'words', mime: 'application/x-gettext-translation', extension: 'mo', at: 0, bytes: '\xde\x12\x04\x95' },
  { kind: 'words', mime: 'application/x-gettext-translation', extension: 'mo', at: 0, bytes: '\x95\x04\x12\xde' },
  { kind: 'mesh', mime: 'model/gltf-binary', extension: 'glb', at: 0, bytes: 'glTF' },
  { kind: 'mesh', mime: 'model/ply', extension: 'ply', at: 0, bytes: 'ply\nformat ' },
  { kind: 'mesh', mime: 'model/ply', extension: 'ply', at: 0, bytes: 'ply\r\nformat ' },
  { kind: 'font', mime: 'font/ttf', extension: 'ttf', at: 0, bytes: '\0\x01\0\0', also: hasTableDirectory },
  { kind: 'font', mime: 'font/ttf', extension: 'ttf', at: 0, bytes: 'true', also: hasTableDirectory },
  { kind: 'font', mime: 'font/otf', extension: 'otf', at: 0, bytes: 'OTTO', also: hasTableDirectory },
  { kind: 'font', mime: 'font/collection', extension: 'ttc', at: 0, bytes: 'ttcf' },
  { kind: 'font', mime: 'font/woff', extension: 'woff', at: 0, bytes: 'wOFF' },
  { kind: 'font', mime: 'font/woff2', extension: 'woff2', at: 0, bytes: 'wOF2' },
];

export const signatureOf = (head: Uint8Array): Signature | undefined =>
  SIGNATURES.find(({ at, bytes, also }) => startsWith(head, at, bytes) && also?.(head) !== false);

export const hasSignature = (head: Uint8Array): boolean => signatureOf(head) !== undefined;

export function startsWith(head: Uint8Array, at: number, bytes: string): boolean {
  if (head.length < at + bytes.length) return false;
  for (let i = 0; i < bytes.length; i++) if (head[at + i] !== bytes.charCodeAt(i)) return false;
  return true;
}

/** Of a name behind eight bytes, the first four count as well: samples of a sound may be called so by chance. */
function inChunk(...names: readonly string[]): (head: Uint8Array) => boolean {
  return (head) => names.some((name) => startsWith(head, 0, name));
}

/** The numbers for a binary search that follow from the count of tables: ISO/IEC 14496-22, 4.5.1. */
function hasTableDirectory(head: Uint8Array): boolean {
  if (head.length < 12) return false;
  const [count, range, power] = [4, 6, 8].map((at) => (head[at]! << 8) | head[at + 1]!) as [number, number, number];
  return count > 0 && power === 31 - Math.clz32(count) && range === 16 << power;
}

/** The sizes of both headers, and bits a pixel that there are: `BM` begins words as well. */
function isBmpHeader(head: Uint8Array): boolean {
  if (head.length < 30) return false;
  const data = new DataView(head.buffer, head.byteOffset, head.byteLength);
  const [start, header, bits] = [data.getUint32(10, true), data.getUint32(14, true), data.getUint16(28, true)];
  return header >= 40 && header <= 124 && start >= 14 + header && [1, 4, 8, 16, 24, 32].includes(bits);
}

/** A version of PCX, a packing, bits and planes that there are: ZSoft's technical reference manual. */
export function isPcxHeader(head: Uint8Array): boolean {
  if (head.length < 128 || head[0] !== 10) return false;
  const [version, packing, bits, reserved, planes] = [1, 2, 3, 64, 65].map((at) => head[at]!);
  return (
    version! <= 5 && packing! <= 1 && [1, 2, 4, 8].includes(bits!) && reserved === 0 && planes! >= 1 && planes! <= 4
  );
}

/** A packing, bytes a channel and dimensions that there are: the SGI image file format, version 1.00. */
export function isSgiHeader(head: Uint8Array): boolean {
  if (head.length < 128 || head[0] !== 0x01 || head[1] !== 0xda || head[4] !== 0) return false;
  const [packing, bytes, dimensions] = [2, 3, 5].map((at) => head[at]!) as [number, number, number];
  return packing <= 1 && (bytes === 1 || bytes === 2) && dimensions >= 1 && dimensions <= 3;
}

/** The first packet of a stream of Theora: others may follow in the same file. */
function hasTheora(head: Uint8Array): boolean {
  return Buffer.from(head.buffer, head.byteOffset, Math.min(head.length, 512)).includes('\x80theora', 0, 'latin1');
}

/** Bits a second of layers I to III of MPEG 1, and of MPEG 2, by the four bits of the header; in thousands. */
const MPEG_RATES = {
  1: [
    [32, 64, 96, 128, 160, 192, 224, 256, 288, 320, 352, 384, 416, 448],
    [32, 48, 56, 64, 80, 96, 112, 128, 160, 192, 224, 256, 320, 384],
    [32, 40, 48, 56, 64, 80, 96, 112, 128, 160, 192, 224, 256, 320],
  ],
  2: [
    [32, 48, 56, 64, 80, 96, 112, 128, 144, 160, 176, 192, 224, 256],
    [8, 16, 24, 32, 40, 48, 56, 64, 80, 96, 112, 128, 144, 160],
    [8, 16, 24, 32, 40, 48, 56, 64, 80, 96, 112, 128, 144, 160],
  ],
} as const;

interface MpegFrame {
  readonly bytes: number;
  /** What all frames of a file have alike: version, layer and samples a second. */
  readonly alike: number;
}

/** The header of a frame: ISO/IEC 11172-3, 2.4.1.3, and 13818-3. */
function mpegFrame(head: Uint8Array, at: number): MpegFrame | undefined {
  const [sync, second, third] = [head[at], head[at + 1], head[at + 2]];
  if (sync !== 0xff || second === undefined || third === undefined || (second & 0xe0) !== 0xe0) return undefined;
  const version = (second >> 3) & 3;
  const layer = 4 - ((second >> 1) & 3);
  const rate = MPEG_RATES[version === 3 ? 1 : 2][layer - 1]?.[(third >> 4) - 1];
  const samples = [44_100, 48_000, 32_000][(third >> 2) & 3];
  if (version === 1 || layer > 3 || rate === undefined || samples === undefined) return undefined;
  const hertz = samples / { 3: 1, 2: 2, 0: 4 }[version]!;
  const padding = (third >> 1) & 1;
  const slots = layer === 1 ? 12 : layer === 3 && version !== 3 ? 72 : 144;
  const bytes =
    layer === 1
      ? (Math.floor((slots * rate * 1000) / hertz) + padding) * 4
      : Math.floor((slots * rate * 1000) / hertz) + padding;
  return { bytes, alike: (second & 0xfe) | ((third & 0x0c) << 8) };
}

export const isMpegFrame = (head: Uint8Array): boolean => mpegFrame(head, 0) !== undefined;

/** Two frames, one behind the other, as far as the bytes go: eleven bits alone begin much else. */
function isMpegAudio(head: Uint8Array): boolean {
  const first = mpegFrame(head, 0);
  if (first === undefined || first.bytes + 3 > head.length) return false;
  return mpegFrame(head, first.bytes)?.alike === first.alike;
}
