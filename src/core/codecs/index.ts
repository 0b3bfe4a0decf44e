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
export { bringHasher, createHasher, hasherNames, hashFacts, hashOf, type Hasher } from './hashes';
export { keysInText, type NamedKey } from './key-lines';
export { KEY_KINDS, keyBytes, keyCandidates, keyLength, maskKey, type KeyKind } from './keys';
