/** Reading back what was written, before it gets its name. */
import { readChunks, type ByteSource } from '../../../bytes';
import { FormatError, hexBytes } from '../../../faults';
import type { PlannedVolume } from '../rendering/planned';

/**
 * Compares a written volume with its plan. What was copied from another file is known by construction and by its length; all
 * that was made is read again.
 *
 * @throws FormatError `check-failed` with the offset of the first byte that differs
 */
export async function verifyWritten(volume: PlannedVolume, written: ByteSource, signal?: AbortSignal): Promise<void> {
  const differs = (offset: number, expected: string, found: string) =>
    new FormatError({
      code: 'check-failed',
      file: volume.name,
      offset,
      what: 'the disk does not give back what was written',
      expected,
      found,
      hint: 'Try another folder or disk.',
    });
  if (written.size !== volume.size)
    throw differs(
      Math.min(written.size, volume.size),
      `${volume.size.toLocaleString('en')} bytes`,
      written.size.toLocaleString('en'),
    );
  for (const { at, length, source, from, kind } of volume.pieces) {
    if (kind === 'copied' || kind === 'fill') continue;
    let done = 0;
    for await (const made of readChunks(source, from, length, signal === undefined ? {} : { signal })) {
      const there = await written.read(at + done, made.length);
      if (Buffer.compare(made, there) !== 0) {
        const index = made.findIndex((byte, i) => byte !== there[i]);
        throw differs(
          at + done + index,
          hexBytes(made.subarray(index, index + 8)),
          hexBytes(there.subarray(index, index + 8)),
        );
      }
      done += made.length;
    }
  }
}
