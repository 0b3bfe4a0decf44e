'use client';
import Box from '@mui/material/Box';
import { useEffect, useRef, useState } from 'react';
import { Chip } from '../shared/Chip';
import { FaultNote } from '../shared/states';

const CHANNELS = ['All', 'R', 'G', 'B', 'A'] as const;
type Channel = (typeof CHANNELS)[number];

/** A picture on checkers, whole or channel by channel. */
export function PictureView({ url, name, height }: { url: string; name: string; height: number }) {
  const [channel, setChannel] = useState<Channel>('All');
  const [fault, setFault] = useState<string>();
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    const stop = new AbortController();
    void draw(url, channel, canvas.current!, stop.signal).then(
      () => setFault(undefined),
      (error: unknown) => !stop.signal.aborted && setFault(error instanceof Error ? error.message : String(error)),
    );
    return () => stop.abort();
  }, [url, channel]);
  return (
    <>
      <Box
        className="checker"
        sx={{
          height,
          display: 'grid',
          placeItems: 'center',
          border: '1px solid var(--line)',
          borderRadius: 1,
          overflow: 'hidden',
        }}
      >
        <canvas
          ref={canvas}
          role="img"
          aria-label={name}
          style={{ maxWidth: '96%', maxHeight: height - 12, imageRendering: 'auto' }}
        />
      </Box>
      {fault !== undefined && <FaultNote>{fault}</FaultNote>}
      <Box sx={{ display: 'flex', gap: 0.75, mt: 1 }}>
        {CHANNELS.map((one) => (
          <Chip
            key={one}
            on={channel === one}
            onClick={() => setChannel(one)}
            label={one === 'All' ? 'All channels' : `Channel ${one}`}
          >
            {one}
          </Chip>
        ))}
      </Box>
    </>
  );
}

/** Draws the picture, or one of its channels as grey. */
async function draw(url: string, channel: Channel, canvas: HTMLCanvasElement, signal: AbortSignal): Promise<void> {
  const answer = await fetch(url, { signal });
  if (!answer.ok)
    throw new Error(
      ((await answer.json()) as { fault?: { sentence: string } }).fault?.sentence ??
        `The server answered ${answer.status}.`,
    );
  const bitmap = await createImageBitmap(await answer.blob(), {
    premultiplyAlpha: 'none',
    colorSpaceConversion: 'none',
  });
  if (signal.aborted) return bitmap.close();
  canvas.width = bitmap.width;
  canvas.height = bitmap.height;
  const context = canvas.getContext('2d', { willReadFrequently: channel !== 'All' })!;
  context.drawImage(bitmap, 0, 0);
  bitmap.close();
  if (channel === 'All') return;
  const pixels = context.getImageData(0, 0, canvas.width, canvas.height);
  const from = { R: 0, G: 1, B: 2, A: 3 }[channel];
  for (let i = 0; i < pixels.data.length; i += 4) {
    const value = pixels.data[i + from]!;
    pixels.data[i] = pixels.data[i + 1] = pixels.data[i + 2] = value;
    pixels.data[i + 3] = 255;
  }
  context.putImageData(pixels, 0, 0);
}
