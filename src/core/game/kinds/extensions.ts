/** What files are by the extensions of their names. */
import type { Kind } from '../kind-names';
import { isMpegFrame, isPcxHeader, isSgiHeader, startsWith } from './signatures';
import { isText } from './text';

/** Scripts and the like: text, whatever language it is in. */
export const SCRIPTS =
  'lua js ts py rb pl php sh bat c h cpp hpp cs java rs nut sq gd as md html htm css glsl vert frag hlsl fx shader strings lang properties log srt vtt mtl'.split(
    ' ',
  );

export const EXTENSIONS: Readonly<Record<string, { readonly kind: Kind; readonly mime: string }>> = {
  png: { kind: 'picture', mime: 'image/png' },
  jpg: { kind: 'picture', mime: 'image/jpeg' },
  jpeg: { kind: 'picture', mime: 'image/jpeg' },
  webp: { kind: 'picture', mime: 'image/webp' },
  gif: { kind: 'picture', mime: 'image/gif' },
  tga: { kind: 'picture', mime: 'image/x-tga' },
  bmp: { kind: 'picture', mime: 'image/bmp' },
  pcx: { kind: 'picture', mime: 'image/vnd.zbrush.pcx' },
  sgi: { kind: 'picture', mime: 'image/sgi' },
  rgb: { kind: 'picture', mime: 'image/sgi' },
  rgba: { kind: 'picture', mime: 'image/sgi' },
  bw: { kind: 'picture', mime: 'image/sgi' },
  tif: { kind: 'picture', mime: 'image/tiff' },
  tiff: { kind: 'picture', mime: 'image/tiff' },
  ktx: { kind: 'picture', mime: 'image/ktx' },
  ktx2: { kind: 'picture', mime: 'image/ktx2' },
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
  wv: { kind: 'sound', mime: 'audio/x-wavpack' },
  au: { kind: 'sound', mime: 'audio/basic' },
  voc: { kind: 'sound', mime: 'audio/x-voc' },
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

/** What the bytes of formats without a signature, or with a short one, have to be: other programs use these endings for something else. */
export const CONTENT_TESTS: Readonly<Record<string, (head: Uint8Array) => boolean>> = {
  // ASCII begins with `solid`; binary has 80 bytes of any kind, and numbers behind them that are no text.
  stl: (head) => startsWith(head, 0, 'solid') || !isText(head),
  obj: (head) => /^(#|mtllib|usemtl|o|g|s|v|vn|vt|vp|f|l)\s/m.test(Buffer.from(head).toString('latin1')),
  svg: isSvg,
  pcx: isPcxHeader,
  sgi: isSgiHeader,
  rgb: isSgiHeader,
  rgba: isSgiHeader,
  bw: isSgiHeader,
  // Of files without a tag in front, whose frames are longer than what is looked at.
  mp3: (head) => startsWith(head, 0, 'ID3') || isMpegFrame(head),
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
export const UNSURE: typeof EXTENSIONS = { mod: { kind: 'sound', mime: 'audio/x-mod' } };
