'use client';

export const CHANNELS = ['All', 'R', 'G', 'B', 'A', 'Mask'] as const;

export type Channel = (typeof CHANNELS)[number];

/** Bare metal, which shows where a mask lets no paint on. */
const BARE = [0xb9, 0xb4, 0xa8] as const;

/** A mask as what it does: each of its channels puts a paint on. */
export function drawMask(pixels: ImageData, paints: readonly string[], canvas: HTMLCanvasElement): void {
  canvas.width = pixels.width;
  canvas.height = pixels.height;
  const shown = new ImageData(pixels.width, pixels.height);
  const colours = paints.map((paint) => [1, 3, 5].map((at) => parseInt(paint.slice(at, at + 2), 16)));
  for (let i = 0; i < shown.data.length; i += 4) {
    const bare = 255 - Math.max(pixels.data[i]!, pixels.data[i + 1]!, pixels.data[i + 2]!);
    for (let c = 0; c < 3; c++) {
      let sum = BARE[c]! * bare;
      for (let paint = 0; paint < 3; paint++) sum += colours[paint]![c]! * pixels.data[i + paint]!;
      shown.data[i + c] = sum / 255;
    }
    shown.data[i + 3] = 255;
  }
  canvas.getContext('2d')!.putImageData(shown, 0, 0);
}

/** Draws all channels, or one of them as grey. */
export function draw(
  pixels: ImageData,
  channel: Exclude<Channel, 'Mask'>,
  opaque: boolean,
  canvas: HTMLCanvasElement,
): void {
  canvas.width = pixels.width;
  canvas.height = pixels.height;
  const context = canvas.getContext('2d')!;
  if (channel === 'All') {
    const shown = opaque ? new ImageData(new Uint8ClampedArray(pixels.data), pixels.width) : pixels;
    if (opaque) for (let i = 3; i < shown.data.length; i += 4) shown.data[i] = 255;
    return context.putImageData(shown, 0, 0);
  }
  const grey = new ImageData(pixels.width, pixels.height);
  const from = { R: 0, G: 1, B: 2, A: 3 }[channel];
  for (let i = 0; i < grey.data.length; i += 4) {
    grey.data.fill(pixels.data[i + from]!, i, i + 3);
    grey.data[i + 3] = 255;
  }
  context.putImageData(grey, 0, 0);
}
