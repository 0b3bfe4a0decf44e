/** Messages of gettext as programs load them (MO), and as people write them (PO): GNU gettext manual, 10.3 and 3. */
import { mo, po, type GetTextTranslations } from 'gettext-parser';
import { FormatError, LimitError } from '../../faults';

const MAGIC = 0x950412de;
const HEADER = 28;
/** They are read at once, while somebody waits for the page. */
const MOST_BYTES = 8 << 20;

const view = (bytes: Uint8Array) => new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);

/** @param bytes of which the first four are enough */
export const isMo = (bytes: Uint8Array): boolean =>
  bytes.length >= 4 && [true, false].some((little) => view(bytes).getUint32(0, little) === MAGIC);

/** @throws FormatError `wrong-kind` when it is no MO, `limit-reached` for a large one, `outside-file` when its tables are not inside it */
export function moAsPo(bytes: Uint8Array, file: string): string {
  return po.compile(readMo(bytes, file), { foldLength: 0 }).toString('utf8') + '\n';
}

function readMo(bytes: Uint8Array, file: string): GetTextTranslations {
  if (bytes.length > MOST_BYTES) throw tooLarge(file, bytes.length);
  if (!isMo(bytes) || bytes.length < HEADER)
    throw new FormatError({ code: 'wrong-kind', file, offset: 0, expected: '950412DE and a header of 28 bytes' });
  const little = view(bytes).getUint32(0, true) === MAGIC;
  const number = (at: number) => view(bytes).getUint32(at, little);
  const count = number(8);
  // The library reads what it finds: where each text lies is checked first.
  let length = 0;
  for (const at of [12, 16]) {
    const table = number(at);
    if (table + count * 8 > bytes.length) throw outside(file, at, table + count * 8, bytes.length);
    for (let row = table; row < table + count * 8; row += 8) {
      const end = number(row) + number(row + 4);
      if (end > bytes.length) throw outside(file, row, end, bytes.length);
      length += number(row);
    }
  }
  // Texts of one file may share bytes, but not so that a small file unfolds to a large one.
  if (length > Math.max(bytes.length * 4, 1 << 16))
    throw new FormatError({
      code: 'wrong-kind',
      file,
      what: 'its texts share too many of its bytes',
      expected: `texts of at most ${(bytes.length * 4).toLocaleString('en')} bytes`,
      found: length.toLocaleString('en'),
    });
  const found = parsed(() => mo.parse(Buffer.from(bytes)), 'MO', file);
  return { ...found, charset: 'utf-8', headers: { ...found.headers, 'Content-Type': 'text/plain; charset=utf-8' } };
}

/** @throws FormatError `wrong-kind` for what the library does not read, such as an encoding that is not known */
function parsed(read: () => GetTextTranslations, expected: string, file: string): GetTextTranslations {
  try {
    return read();
  } catch (error) {
    throw new FormatError({ code: 'wrong-kind', file, expected, found: (error as Error).message }, { cause: error });
  }
}

const tooLarge = (file: string, found: number) =>
  new LimitError({
    code: 'limit-reached',
    file,
    what: 'the messages are too large',
    found: `${found.toLocaleString('en')} bytes`,
    limit: `bytes of a file of messages, ${MOST_BYTES.toLocaleString('en')}`,
  });

const outside = (file: string, offset: number, found: number, size: number) =>
  new FormatError({
    code: 'outside-file',
    file,
    offset,
    what: 'a text is not inside the file',
    expected: `an end at or before ${size.toLocaleString('en')}`,
    found: found.toLocaleString('en'),
  });

/**
 * PO as MO, in UTF-8. Messages without a translation, and fuzzy ones, are left out, as they are by `msgfmt`.
 *
 * @throws FormatError `wrong-kind` when it is no PO, or there are no messages in it; `limit-reached` for a large one
 */
export function poAsMo(bytes: Uint8Array, file: string): Uint8Array {
  if (bytes.length > MOST_BYTES) throw tooLarge(file, bytes.length);
  const read = parsed(() => po.parse(Buffer.from(bytes), { defaultCharset: 'utf-8' }), 'PO', file);
  const translations = Object.fromEntries(
    Object.entries(read.translations).map(([context, messages]) => [
      context,
      Object.fromEntries(Object.entries(messages).filter(([id, one]) => id === '' || isTranslated(one))),
    ]),
  );
  if (Object.values(translations).every((messages) => Object.keys(messages).every((id) => id === '')))
    throw new FormatError({ code: 'wrong-kind', file, expected: 'PO with translated messages', found: 'none' });
  const headers = { ...read.headers, 'Content-Type': 'text/plain; charset=utf-8' };
  return new Uint8Array(mo.compile({ ...read, charset: 'utf-8', headers, translations }));
}

const isTranslated = ({ msgstr, comments }: GetTextTranslations['translations'][string][string]): boolean =>
  msgstr.some((text) => text !== '') && comments?.flag?.includes('fuzzy') !== true;
