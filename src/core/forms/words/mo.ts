/** Messages of gettext as programs load them (MO), and as people write them (PO): GNU gettext manual, 10.3 and 3. */
import { mo, po, type GetTextTranslations } from 'gettext-parser';
import { FormatError } from '../../faults';

const MAGIC = 0x950412de;
const HEADER = 28;

const view = (bytes: Uint8Array) => new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);

/** @param bytes of which the first four are enough */
export const isMo = (bytes: Uint8Array): boolean =>
  bytes.length >= 4 && [true, false].some((little) => view(bytes).getUint32(0, little) === MAGIC);

/** @throws FormatError `wrong-kind` when it is no MO, `outside-file` when its tables are not inside it */
export function moAsPo(bytes: Uint8Array, file: string): string {
  return po.compile(readMo(bytes, file), { foldLength: 0 }).toString('utf8') + '\n';
}

function readMo(bytes: Uint8Array, file: string): GetTextTranslations {
  if (!isMo(bytes) || bytes.length < HEADER)
    throw new FormatError({ code: 'wrong-kind', file, offset: 0, expected: '950412DE and a header of 28 bytes' });
  const little = view(bytes).getUint32(0, true) === MAGIC;
  const number = (at: number) => view(bytes).getUint32(at, little);
  const count = number(8);
  // The library reads what it finds: where each text lies is checked first.
  for (const at of [12, 16]) {
    const table = number(at);
    if (table + count * 8 > bytes.length) throw outside(file, at, table + count * 8, bytes.length);
    for (let row = table; row < table + count * 8; row += 8) {
      const end = number(row) + number(row + 4);
      if (end > bytes.length) throw outside(file, row, end, bytes.length);
    }
  }
  const found = mo.parse(Buffer.from(bytes));
  return { ...found, charset: 'utf-8', headers: { ...found.headers, 'Content-Type': 'text/plain; charset=utf-8' } };
}

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
 * @throws FormatError `wrong-kind` when it is no PO, or there are no messages in it
 */
export function poAsMo(bytes: Uint8Array, file: string): Uint8Array {
  let read: GetTextTranslations;
  try {
    read = po.parse(Buffer.from(bytes), { defaultCharset: 'utf-8' });
  } catch (error) {
    throw new FormatError(
      { code: 'wrong-kind', file, expected: 'PO', found: (error as Error).message },
      { cause: error },
    );
  }
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
