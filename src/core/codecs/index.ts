export { codecNames, findCodec, type Codec, type CodecContext, type ParamSpec, type ParamValue } from './catalogue';
export { createHasher, hasherNames, hashOf, type Hasher } from './hashes';
export { KEY_KINDS, keyBytes, keyCandidates, maskKey, type KeyKind } from './keys';
