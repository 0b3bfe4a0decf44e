export { isSvg } from './extensions';
export { declaredKind, guessFromHead, kindOf, looseKind, mimeOf } from './kinds';
export { hasSignature, isPcxHeader, isSgiHeader } from './signatures';
