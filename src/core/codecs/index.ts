export {
  codecNames,
  findCodec,
  prepareCodecs,
  type Codec,
  type CodecContext,
  type ParamSpec,
  type ParamValue,
} from './catalogue';
export { AesBlocks, isExpandedKey } from './aes-schedule';
export { hasherKey, type Digest, type HashFacts, type Hasher, type HashParams } from './hasher';
export { bringHasher, createHasher, findHash, hasherNames, hashFacts, hashOf } from './hashes';
export { keysInText, type NamedKey } from './key-lines';
export { KEY_KINDS, keyBytes, keyCandidates, keyLength, maskKey, type KeyKind } from './keys';
export { unknownPacking } from './unknown-packing';
