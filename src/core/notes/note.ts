/** How a note is defined: the facts that are kept, and the sentence that the page and the command line make of them. */
import { z } from 'zod';

export interface NoteDefinition<Facts extends z.ZodRawShape = z.ZodRawShape> {
  readonly facts: Facts;
  /** The sentence, without its full stop. It follows a colon, so it begins in lower case. */
  say(facts: z.infer<z.ZodObject<Facts>>): string;
}

/** Infers the facts of a sentence from their shapes. */
export const note = <Facts extends z.ZodRawShape>(
  facts: Facts,
  say: (facts: z.infer<z.ZodObject<Facts>>) => string,
): NoteDefinition<Facts> => ({ facts, say });

/** Width and height in pixels. */
export const pixelSize = z.tuple([z.number(), z.number()]).readonly();
export type PixelSize = z.infer<typeof pixelSize>;

export const sayPixels = ([width, height]: PixelSize): string => `${width} × ${height}`;
export const sayCount = (count: number, one: string, several = `${one}s`): string =>
  `${count.toLocaleString('en')} ${count === 1 ? one : several}`;
export const sayChannels = (channels: number): string =>
  ({ 1: 'mono', 2: 'stereo' })[channels] ?? `${channels} channels`;
export const sayHertz = (rate: number): string => `${rate.toLocaleString('en')} Hz`;
