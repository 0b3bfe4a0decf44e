/** Whether what a stretch unpacks to is as long as it may be. Shared by all compressions. */
import { FormatError, LimitError } from '../faults';
import type { CodecContext } from './codec';

/** Node makes no buffer larger than this. */
export const MOST_AT_ONCE = 2 ** 32 - 1;

/** The chunks, as long as their length is as promised and within the limit. */
export async function* checkedChunks(
  chunks: AsyncIterable<Uint8Array>,
  name: string,
  context: CodecContext,
): AsyncGenerator<Uint8Array> {
  let total = 0;
  for await (const chunk of chunks) {
    total += chunk.length;
    if (context.plainSize !== undefined && total > context.plainSize) throw tooLong(name, context.plainSize);
    if (total > context.maxPlainBytes) throw overLimit(name, context);
    yield chunk;
  }
  if (context.plainSize !== undefined && total !== context.plainSize) throw sizeDiffers(name, context.plainSize, total);
}

/** The plain bytes when their length is as promised, else the fault. */
export function checkedSize(plain: Uint8Array, name: string, context: CodecContext): Uint8Array {
  if (context.plainSize !== undefined && plain.length > context.plainSize) throw tooLong(name, context.plainSize);
  if (plain.length > context.maxPlainBytes) throw overLimit(name, context);
  if (context.plainSize !== undefined && plain.length !== context.plainSize)
    throw sizeDiffers(name, context.plainSize, plain.length);
  return plain;
}

/** The limit all decoders share, in words. */
export function overLimit(name: string, context: CodecContext): LimitError {
  return new LimitError({
    code: 'limit-reached',
    what: `${name} unpacks to more than may be unpacked at once`,
    limit: `unpacked bytes of one stretch, ${context.maxPlainBytes.toLocaleString('en')}`,
    hint: 'A small stretch that unpacks to a huge one is a common attack. Raise the limit if you trust the file.',
  });
}

/** More bytes than the archive says. */
export function tooLong(name: string, plainSize: number): FormatError {
  return new FormatError({
    code: 'size-differs',
    what: `${name} gives more bytes than the archive says`,
    expected: `${plainSize.toLocaleString('en')} bytes`,
    found: 'more',
  });
}

function sizeDiffers(name: string, plainSize: number, found: number): FormatError {
  return new FormatError({
    code: 'size-differs',
    what: `${name} gives another size than the archive says`,
    expected: `${plainSize.toLocaleString('en')} bytes`,
    found: `${found.toLocaleString('en')}`,
  });
}
