import { createHash } from 'node:crypto';
import { readChunks, type ByteSource } from '../../core/bytes';
import { openFile } from '../../core/bytes/node';

async function sha256Of(source: ByteSource): Promise<string> {
  const hash = createHash('sha256');
  for await (const chunk of readChunks(source)) hash.update(chunk);
  return hash.digest('hex');
}

/** The hash of a file, or undefined when there is none. */
export async function sha256OfFile(path: string): Promise<string | undefined> {
  const source = await openFile(path).catch(() => undefined);
  if (source === undefined) return undefined;
  try {
    return await sha256Of(source);
  } finally {
    await source.close();
  }
}
