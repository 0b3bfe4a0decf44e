import { authenticatedCodecs } from './authenticated';
import { bitRows } from './bit-rows';
import { blockCipherCodecs } from './block-ciphers';
import { bzip2 } from './bzip2';
import type { Codec } from './codec';
import { compressionCodecs } from './compressions';
import { deflateCodecs } from './deflate';
import { deflate64 } from './deflate64';
import { prepareHashes } from './hashes';
import { lz4Block } from './lz4';
import { lzf } from './lzf';
import { lzo1x } from './lzo';
import { lzss } from './lzss';
import { lzx } from './lzx';
import { runLengthCodecs } from './run-length';
import { huffman } from './huffman';
import { keystreamCodecs } from './keystreams';
import { streamCipherCodecs } from './stream-ciphers';
import { systemCipherCodecs } from './system-ciphers';
import { xpress } from './xpress';
import { xpressHuffman } from './xpress-huffman';
import { inFront } from './in-front';
import { zeroPad } from './zero-pad';
import { zipAes, zipClassic } from './zip-ciphers';
import { prepareZstd } from './zstd';

export type { Codec, CodecContext, ParamSpec, ParamValue } from './codec';

const CATALOGUE = new Map<string, Codec>(
  [
    ...deflateCodecs,
    deflate64,
    bzip2,
    lz4Block,
    ...compressionCodecs,
    lzo1x,
    lzf,
    lzss,
    xpress,
    xpressHuffman,
    lzx,
    huffman,
    ...runLengthCodecs,
    ...systemCipherCodecs,
    ...authenticatedCodecs,
    ...blockCipherCodecs,
    ...keystreamCodecs,
    ...streamCipherCodecs,
    zipClassic,
    zipAes,
    inFront,
    zeroPad,
    bitRows,
  ].map((codec) => [codec.name, codec]),
);

/** Loads what is WebAssembly; must be awaited before a codec or hash is used. */
export async function prepareCodecs(): Promise<void> {
  await Promise.all([prepareZstd(), prepareHashes()]);
}

/** The codec a recipe names, or undefined. */
export function findCodec(name: string): Codec | undefined {
  return CATALOGUE.get(name);
}

/** All names, sorted, for messages and completion. */
export function codecNames(): string[] {
  return [...CATALOGUE.keys()].sort();
}
