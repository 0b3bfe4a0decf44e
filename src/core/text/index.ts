/** Texts as files hold them: their encoding, their line ends, and writing others the same way. */
export { decodeText, encodeLike, textFormOf, type LineEnds, type TextForm } from './text-form';
