import { aesCodecs } from './aes';
import type { Codec } from './codec';
import { deflateCodecs } from './deflate';
import { lz4Block } from './lz4';

export type { Codec, CodecContext, ParamSpec, ParamValue } from './codec';

const CATALOGUE = new Map<string, Codec>(
  [...deflateCodecs, lz4Block, ...aesCodecs].map((codec) => [codec.name, codec]),
);

/** The codec a recipe names, or undefined. */
export function findCodec(name: string): Codec | undefined {
  return CATALOGUE.get(name);
}

/** All names, sorted, for messages and completion. */
export function codecNames(): string[] {
  return [...CATALOGUE.keys()].sort();
}
