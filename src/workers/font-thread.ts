/** A server thread for fonts: whatever a font makes its reader do, pages are answered meanwhile. */
import { isFaultError, type Fault } from '../core/faults';
import { fontAs, readOpenFont, type Font, type FontOut } from '../core/forms/font';
import type { Pixels } from '../core/forms/picture';

export interface FontOrder {
  readonly bytes: Uint8Array;
  /** Its name, for faults. */
  readonly file: string;
}

/** What a font is, without what draws with it. */
export type SentFont = Omit<Font, 'drawLine'>;

/** A result, or the fault there was: errors lose their facts on the way between threads. */
export type Sent<T> = { readonly result: T } | { readonly fault: Fault };

async function sent<T>(work: () => Promise<T>): Promise<Sent<T>> {
  try {
    return { result: await work() };
  } catch (error) {
    if (isFaultError(error)) return { fault: error.fault };
    throw error;
  }
}

export function readFont({ bytes, file }: FontOrder): Promise<Sent<SentFont>> {
  return sent(async () => {
    const { drawLine: _, ...facts } = await readOpenFont(bytes, file);
    return facts;
  });
}

export interface LineOrder extends FontOrder {
  readonly text: string;
  readonly size: number;
}

export function drawLine({ bytes, file, text, size }: LineOrder): Promise<Sent<Pixels>> {
  return sent(async () => (await readOpenFont(bytes, file)).drawLine(text, size));
}

export interface ConvertOrder extends FontOrder {
  readonly as: FontOut;
}

export function convertFont({ bytes, file, as }: ConvertOrder): Promise<Sent<Uint8Array>> {
  return sent(() => fontAs(bytes, as, file));
}
