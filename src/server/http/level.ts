import type { LevelHead } from '../shapes';
import { faultResponse } from './answer';

/** The header with what has to be known to unpack a level. */
const LEVEL_HEADER = 'x-picture-level';

export async function answerLevel(work: () => Promise<{ head: LevelHead; bytes: Uint8Array }>): Promise<Response> {
  try {
    const { head, bytes } = await work();
    return new Response(bytes as BodyInit, {
      headers: {
        [LEVEL_HEADER]: JSON.stringify(head),
        'content-type': 'application/octet-stream',
        'content-security-policy': "default-src 'none'; sandbox",
        'x-content-type-options': 'nosniff',
        'cache-control': 'private, no-cache',
      },
    });
  } catch (error) {
    return faultResponse(error);
  }
}
