/** Messages of gettext: out as PO, and back as the MO that a program loads. */
import type { FileToFit, FittedEntry, FormConverter } from '../converter';
import { isMo, moAsPo, poAsMo } from './mo';

export const messagesConverter: FormConverter<'po'> = {
  formats: ['po'],
  async convert({ path, head, bytes }) {
    if (!isMo(head)) return undefined;
    return { bytes: new TextEncoder().encode(moAsPo(await bytes(), path)), notes: [] };
  },
  fit({ path, head }, file) {
    if (!isMo(head)) return Promise.resolve(undefined);
    const { bytes, notes } = fitMessages(file);
    return Promise.resolve({ files: [{ path, bytes }], notes });
  },
};

/** A file of messages as MO. @throws FormatError `wrong-kind` for one that is neither MO nor PO */
export function fitMessages({ bytes, fileName }: FileToFit): { bytes: Uint8Array; notes: FittedEntry['notes'] } {
  if (!isMo(bytes)) return { bytes: poAsMo(bytes, fileName), notes: [{ code: 'messages-compiled' }] };
  moAsPo(bytes, fileName);
  return { bytes, notes: [] };
}
