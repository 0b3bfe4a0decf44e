/** What an entry most likely is, from its first bytes and, where these say nothing, from its name. */

import { KINDS, type Kind } from './kind-names';

export { KINDS, type Kind };

interface Signature {
  readonly kind: Kind;
  readonly mime: string;
  readonly extension: string;
  readonly at: number;
  readonly bytes: string;
  /** What else has to hold, where the bytes alone say too little. */
  readonly also?: (head: Uint8Array) => boolean;
}

/** Signatures from the standards of each format; the longer ones first where one starts another. */
const SIGNATURES: readonly Signature[] = [
  { kind: 'picture', mime: 'image/png', extension: 'png', at: 0, bytes: '\x89PNG\r\n\x1a\n' },
  { kind: 'picture', mime: 'image/jpeg', extension: 'jpg', at: 0, bytes: '\xff\xd8\xff' },
  { kind: 'picture', mime: 'image/gif', extension: 'gif', at: 0, bytes: 'GIF8' },
  { kind: 'picture', mime: 'image/webp', extension: 'webp', at: 8, bytes: 'WEBP' },
  { kind: 'picture', mime: 'image/vnd-ms.dds', extension: 'dds', at: 0, bytes: 'DDS ' },
  { kind: 'picture', mime: 'image/ktx2', extension: 'ktx2', at: 0, bytes: '\xabKTX 20\xbb' },
  { kind: 'sound', mime: 'audio/wav', extension: 'wav', at: 8, bytes: 'WAVE' },
  { kind: 'sound', mime: 'audio/ogg', extension: 'ogg', at: 0, bytes: 'OggS' },
  { kind: 'sound', mime: 'audio/flac', extension: 'flac', at: 0, bytes: 'fLaC' },
  { kind: 'sound', mime: 'audio/mpeg', extension: 'mp3', at: 0, bytes: 'ID3' },
  { kind: 'sound', mime: 'audio/mp4', extension: 'm4a', at: 4, bytes: 'ftypM4A' },
  { kind: 'sound', mime: 'audio/aiff', extension: 'aiff', at: 8, bytes: 'AIFF' },
  // Tracker music: samples with the notes that play them.
  { kind: 'sound', mime: 'audio/x-xm', extension: 'xm', at: 0, bytes: 'Extended Module: ' },
  { kind: 'sound', mime: 'audio/x-it', extension: 'it', at: 0, bytes: 'IMPM' },
  { kind: 'sound', mime: 'audio/x-s3m', extension: 's3m', at: 44, bytes: 'SCRM' },
  { kind: 'film', mime: 'video/mp4', extension: 'mp4', at: 4, bytes: 'ftyp' },
  { kind: 'film', mime: 'video/webm', extension: 'webm', at: 0, bytes: '\x1a\x45\xdf\xa3' },
  { kind: 'film', mime: 'video/x-msvideo', extension: 'avi', at: 8, bytes: 'AVI ' },
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

/** The numbers for a binary search that follow from the count of tables: ISO/IEC 14496-22, 4.5.1. */
function hasTableDirectory(head: Uint8Array): boolean {
  if (head.length < 12) return false;
  const [count, range, power] = [4, 6, 8].map((at) => (head[at]! << 8) | head[at + 1]!) as [number, number, number];
  return count > 0 && power === 31 - Math.clz32(count) && range === 16 << power;
}

/** Scripts and the like: text, whatever language it is in. */
const SCRIPTS =
  'lua js ts py rb pl php sh bat c h cpp hpp cs java rs nut sq gd as md html htm css glsl vert frag hlsl fx shader strings lang properties log srt vtt mtl'.split(
    ' ',
  );

const EXTENSIONS: Readonly<Record<string, { readonly kind: Kind; readonly mime: string }>> = {
  png: { kind: 'picture', mime: 'image/png' },
  jpg: { kind: 'picture', mime: 'image/jpeg' },
  jpeg: { kind: 'picture', mime: 'image/jpeg' },
  webp: { kind: 'picture', mime: 'image/webp' },
  gif: { kind: 'picture', mime: 'image/gif' },
  tga: { kind: 'picture', mime: 'image/x-tga' },
  bmp: { kind: 'picture', mime: 'image/bmp' },
  // A browser would run what is in it.
  svg: { kind: 'picture', mime: 'text/plain' },
  dds: { kind: 'picture', mime: 'image/vnd-ms.dds' },
  wav: { kind: 'sound', mime: 'audio/wav' },
  ogg: { kind: 'sound', mime: 'audio/ogg' },
  oga: { kind: 'sound', mime: 'audio/ogg' },
  opus: { kind: 'sound', mime: 'audio/ogg' },
  flac: { kind: 'sound', mime: 'audio/flac' },
  mp3: { kind: 'sound', mime: 'audio/mpeg' },
  m4a: { kind: 'sound', mime: 'audio/mp4' },
  aiff: { kind: 'sound', mime: 'audio/aiff' },
  aif: { kind: 'sound', mime: 'audio/aiff' },
  xm: { kind: 'sound', mime: 'audio/x-xm' },
  s3m: { kind: 'sound', mime: 'audio/x-s3m' },
  mp4: { kind: 'film', mime: 'video/mp4' },
  webm: { kind: 'film', mime: 'video/webm' },
  m4v: { kind: 'film', mime: 'video/mp4' },
  mov: { kind: 'film', mime: 'video/quicktime' },
  mkv: { kind: 'film', mime: 'video/x-matroska' },
  avi: { kind: 'film', mime: 'video/x-msvideo' },
  mpg: { kind: 'film', mime: 'video/mpeg' },
  mpeg: { kind: 'film', mime: 'video/mpeg' },
  ogv: { kind: 'film', mime: 'video/ogg' },
  txt: { kind: 'words', mime: 'text/plain' },
  csv: { kind: 'words', mime: 'text/csv' },
  po: { kind: 'words', mime: 'text/plain' },
  pot: { kind: 'words', mime: 'text/plain' },
  json: { kind: 'records', mime: 'application/json' },
  ini: { kind: 'records', mime: 'text/plain' },
  yaml: { kind: 'records', mime: 'text/plain' },
  xml: { kind: 'records', mime: 'text/plain' },
  yml: { kind: 'records', mime: 'text/plain' },
  toml: { kind: 'records', mime: 'text/plain' },
  cfg: { kind: 'records', mime: 'text/plain' },
  conf: { kind: 'records', mime: 'text/plain' },
  ttf: { kind: 'font', mime: 'font/ttf' },
  otf: { kind: 'font', mime: 'font/otf' },
  ttc: { kind: 'font', mime: 'font/collection' },
  woff: { kind: 'font', mime: 'font/woff' },
  woff2: { kind: 'font', mime: 'font/woff2' },
  gltf: { kind: 'mesh', mime: 'model/gltf+json' },
  glb: { kind: 'mesh', mime: 'model/gltf-binary' },
  obj: { kind: 'mesh', mime: 'text/plain' },
  stl: { kind: 'mesh', mime: 'model/stl' },
  ply: { kind: 'mesh', mime: 'model/ply' },
};

/** What the bytes of formats without a signature have to be: other programs use these endings for something else. */
const CONTENT_TESTS: Readonly<Record<string, (head: Uint8Array) => boolean>> = {
  // ASCII begins with `solid`; binary has 80 bytes of any kind, and numbers behind them that are no text.
  stl: (head) => startsWith(head, 0, 'solid') || !isText(head),
  obj: (head) => /^(#|mtllib|usemtl|o|g|s|v|vn|vt|vp|f|l)\s/m.test(Buffer.from(head).toString('latin1')),
  svg: isSvg,
};

/** SVG 2: an `svg` element, behind a declaration, comments or a document type where there are any. */
export function isSvg(head: Uint8Array): boolean {
  const text = Buffer.from(head)
    .toString('utf8')
    .replace(/^\ufeff/, '')
    .trimStart();
  return /^(<\?xml|<!--|<!DOCTYPE\s+svg|<svg[\s>])/i.test(text) && /<svg[\s>]/i.test(text);
}

/**
 * Endings that mean a format to some programs and something else to others: texts about a mod, or in a language. They count
 * only for bytes that are no text.
 */
const UNSURE: typeof EXTENSIONS = { mod: { kind: 'sound', mime: 'audio/x-mod' } };

/** What all entries of an archive are, where its recipe says so. */
export function declaredKind({
  entries,
}: {
  entries: { sound: unknown; words: unknown; film: unknown };
}): Kind | undefined {
  if (entries.sound !== undefined) return 'sound';
  if (entries.film !== undefined) return 'film';
  return entries.words === undefined ? undefined : 'words';
}

/** @param head the first bytes, 16 or more where there are as many; none to judge by the name alone */
export function kindOf(path: string, head?: Uint8Array): Kind {
  return facts(path, head).kind;
}

/** The media type to serve an entry as; never one that a browser would run. */
export function mimeOf(path: string, head?: Uint8Array): string {
  return facts(path, head).mime;
}

/** What bytes without a name most likely are, and the ending to give them; text is recognised by having nothing but text. */
export function guessFromHead(head: Uint8Array): { readonly kind: Kind; readonly extension: string } {
  const signature = signatureOf(head);
  if (signature !== undefined) return signature;
  if (!isText(head)) return { kind: 'bytes', extension: 'bin' };
  return /^\s*[[{]/.test(Buffer.from(head.subarray(0, 16)).toString('latin1'))
    ? { kind: 'records', extension: 'json' }
    : { kind: 'words', extension: 'txt' };
}

/**
 * What a loose file is, by its first bytes and then by its name.
 *
 * @returns undefined for a file that nothing identifies: it may be an archive of an unknown format
 */
export function looseKind(path: string, head: Uint8Array): Kind | undefined {
  const kind = kindOf(path, head);
  if (kind !== 'bytes') return kind;
  const guess = guessFromHead(head);
  return guess.kind === 'bytes' ? undefined : guess.kind;
}

/** UTF-8 without control characters; a character cut off at the end is no fault. */
function isText(head: Uint8Array): boolean {
  if (head.length < 4) return false;
  for (const byte of head) if (byte < 0x20 && byte !== 0x09 && byte !== 0x0a && byte !== 0x0d) return false;
  const text = new TextDecoder('utf-8').decode(head);
  return !text.slice(0, -4).includes('\ufffd');
}

function facts(path: string, head: Uint8Array | undefined): { kind: Kind; mime: string } {
  const signature = head === undefined ? undefined : signatureOf(head);
  if (signature !== undefined) return signature;
  const ending = path.slice(path.lastIndexOf('.') + 1).toLowerCase();
  const named = EXTENSIONS[ending] ?? (SCRIPTS.includes(ending) ? { kind: 'words', mime: 'text/plain' } : undefined);
  // A name must not make a picture of something that is none.
  const binary = named !== undefined && named.kind !== 'words' && named.kind !== 'records';
  const test = CONTENT_TESTS[ending];
  const hasSignature =
    binary &&
    (SIGNATURES.some(({ mime }) => mime === named.mime) || (test !== undefined && head !== undefined && !test(head)));
  if (named !== undefined && !(head !== undefined && hasSignature)) return named;
  if (head !== undefined && isText(head)) return { kind: 'words', mime: 'text/plain' };
  const bytes = { kind: 'bytes', mime: 'application/octet-stream' } as const;
  return head === undefined || head.length === 0 ? bytes : (UNSURE[ending] ?? bytes);
}

const signatureOf = (head: Uint8Array): Signature | undefined =>
  SIGNATURES.find(({ at, bytes, also }) => startsWith(head, at, bytes) && also?.(head) !== false);

function startsWith(head: Uint8Array, at: number, bytes: string): boolean {
  if (head.length < at + bytes.length) return false;
  for (let i = 0; i < bytes.length; i++) if (head[at + i] !== bytes.charCodeAt(i)) return false;
  return true;
}
