/** Node's own transforms over chunks. */
import { Readable, type Transform } from 'node:stream';

/** What a transform makes of the chunks. `faultOf` words its errors. */
export async function* piped(
  chunks: AsyncIterable<Uint8Array>,
  transform: Transform,
  faultOf: (error: unknown) => unknown,
): AsyncGenerator<Uint8Array> {
  const input = Readable.from(chunks, { objectMode: false });
  input.on('error', (error) => transform.destroy(error));
  input.pipe(transform);
  try {
    for await (const chunk of transform) yield chunk as Uint8Array;
  } catch (error) {
    throw faultOf(error);
  } finally {
    input.destroy();
    transform.destroy();
  }
}
