/** The pixels of a picture, from what a browser reads itself or unpacked in a worker. */
import type { LevelHead } from '../../../server/shapes';
import type { UnpackOrder, UnpackReply } from '../../../workers/unpack-picture';
import { fileAt } from '../../shared/api';

/** Where the pixels of a picture come from. */
export interface PixelSource {
  readonly url: string;
  /** True when it is a level as it is packed; a file that the browser reads otherwise. */
  readonly packed: boolean;
}

/** Pixels as they are in the file: alpha is not multiplied in, and no colour profile applied. @throws Error in words */
export async function readPixels({ url, packed }: PixelSource, signal: AbortSignal): Promise<ImageData> {
  const answer = await fileAt(url, { signal, priority: 'high' });
  if (packed) return unpacked(answer);
  const bitmap = await createImageBitmap(await answer.blob(), {
    premultiplyAlpha: 'none',
    colorSpaceConversion: 'none',
  });
  const paper = new OffscreenCanvas(bitmap.width, bitmap.height);
  const context = paper.getContext('2d', { willReadFrequently: true })!;
  context.drawImage(bitmap, 0, 0);
  bitmap.close();
  return context.getImageData(0, 0, paper.width, paper.height);
}

async function unpacked(answer: Response): Promise<ImageData> {
  const { format, width, height } = JSON.parse(answer.headers.get('x-picture-level')!) as LevelHead;
  const rgba = await inWorker({ format, width, height, bytes: new Uint8Array(await answer.arrayBuffer()) });
  return new ImageData(new Uint8ClampedArray(rgba.buffer as ArrayBuffer), width, height);
}

let worker: Worker | undefined;
let last = 0;
const waiting = new Map<number, { done: (rgba: Uint8Array) => void; failed: (error: Error) => void }>();

/** One worker for the page, which unpacks one picture after the other. */
function inWorker(order: Omit<UnpackOrder, 'id'>): Promise<Uint8Array> {
  worker ??= startWorker();
  const id = ++last;
  return new Promise((done, failed) => {
    waiting.set(id, { done, failed });
    worker!.postMessage({ id, ...order } satisfies UnpackOrder);
  });
}

function startWorker(): Worker {
  const started = new Worker(new URL('../../../workers/unpack-picture.ts', import.meta.url), { type: 'module' });
  started.addEventListener('message', ({ data: { id, rgba } }: MessageEvent<UnpackReply>) => {
    const one = waiting.get(id);
    waiting.delete(id);
    if (rgba === undefined) one?.failed(new Error('These pixels cannot be unpacked here.'));
    else one?.done(rgba);
  });
  started.addEventListener('error', ({ message }) => {
    worker = undefined;
    for (const { failed } of waiting.values()) failed(new Error(`The picture could not be unpacked: ${message}`));
    waiting.clear();
  });
  return started;
}
