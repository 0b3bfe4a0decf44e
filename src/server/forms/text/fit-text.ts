/** A dropped text as the text it replaces. */
import { FaultError } from '../../../core/faults';
import type { Note } from '../../../core/notes';
import { decodeText, encodeLike, textFormOf } from '../../../core/text';

/**
 * A text in the encoding of the original, with its mark and line ends.
 *
 * @throws FaultError `wrong-kind` when it is no text, or no JSON in the place of JSON
 */
export function fitText(
  path: string,
  original: Uint8Array,
  dropped: Uint8Array,
  fileName: string,
): { bytes: Uint8Array; notes: Note[] } {
  const before = textFormOf(original);
  const given = textFormOf(dropped);
  // Short texts tell little of their encoding: one that is not UTF-8 most likely is in that of the original.
  const text = decodeText(dropped, given.encoding === 'utf-8' || given.hasMark ? given : before);
  if (CONTROLS.test(text))
    throw new FaultError({
      code: 'wrong-kind',
      file: fileName,
      entry: path,
      expected: 'a text',
      found: 'bytes that are none',
      hint: 'Save it as text, best in UTF-8.',
    });
  if (path.endsWith('.json')) {
    try {
      JSON.parse(text);
    } catch (error) {
      throw new FaultError(
        { code: 'wrong-kind', file: fileName, entry: path, expected: 'JSON', found: (error as Error).message },
        { cause: error },
      );
    }
  }
  if (original.length === 0) return { bytes: dropped, notes: [] };
  const bytes = encodeLike(text, before);
  if (Buffer.compare(bytes, dropped) === 0) return { bytes: dropped, notes: [] };
  const notes: Note[] = [];
  if (before.encoding !== given.encoding || before.hasMark !== given.hasMark)
    notes.push({ code: 'text-encoding', encoding: before.encoding, hasMark: before.hasMark });
  if (before.lineEnds !== undefined && before.lineEnds !== given.lineEnds)
    notes.push({ code: 'text-line-ends', lineEnds: before.lineEnds });
  return { bytes, notes };
}

/** No text has these, in any encoding. */
const CONTROLS = /[\u0000-\u0008\u000e-\u0019\u001c-\u001f\ufffd]/;
