/** Fonts with outlines, read and drawn in a thread that is ended when it takes too long. */
import { FormatError, LimitError } from '../../../core/faults';
import type { Font, FontOut } from '../../../core/forms/font';
import type { Pixels } from '../../../core/forms/picture';
import type { ConvertOrder, FontOrder, LineOrder, Sent, SentFont } from '../../../workers/font-thread';
import { inThread } from '../../threads';

/** Packing a large font as WOFF2 takes half a minute on a slow machine. */
const MOST_MS = 120_000;

/** @throws FormatError `wrong-kind` when it is no font or a broken one, LimitError when it is too large or takes too long */
export async function openFont(bytes: Uint8Array, file: string): Promise<Font> {
  const facts = await run<FontOrder, SentFont>('readFont', { bytes, file });
  return { ...facts, drawLine: (text, size) => run<LineOrder, Pixels>('drawLine', { bytes, file, text, size }) };
}

/** The same font in another container. @throws as {@link openFont} */
export function fontInContainer(bytes: Uint8Array, as: FontOut, file: string): Promise<Uint8Array> {
  return run<ConvertOrder, Uint8Array>('convertFont', { bytes, file, as });
}

async function run<Order extends FontOrder, Result>(name: string, order: Order): Promise<Result> {
  const signal = AbortSignal.timeout(MOST_MS);
  let sent: Sent<Result>;
  try {
    sent = await inThread<Order, Sent<Result>>(name, order, signal, 'font-thread');
  } catch (error) {
    if (!signal.aborted) throw error;
    throw new LimitError({
      ...{ code: 'limit-reached', file: order.file, what: 'reading the font takes too long' },
      limit: `${MOST_MS / 1000} seconds`,
    });
  }
  if ('fault' in sent) throw new FormatError(sent.fault);
  return sent.result;
}
