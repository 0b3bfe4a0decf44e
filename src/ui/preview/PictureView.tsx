'use client';
import Box from '@mui/material/Box';
import { useEffect, useRef, useState, type MouseEvent } from 'react';
import { Chip } from '../shared/Chip';
import { FaultNote } from '../shared/states';
import { Histogram } from './Histogram';

const CHANNELS = ['All', 'R', 'G', 'B', 'A'] as const;
type Channel = (typeof CHANNELS)[number];
const ZOOMS = ['fit', 1, 2, 4, 8] as const;
type Zoom = (typeof ZOOMS)[number];

/** A picture on checkers, whole or channel by channel, as near as its pixels, with their values under the pointer. */
export function PictureView({ url, name, height }: { url: string; name: string; height: number }) {
  const [channel, setChannel] = useState<Channel>('All');
  const [zoom, setZoom] = useState<Zoom>('fit');
  const [fault, setFault] = useState<string>();
  const [pixels, setPixels] = useState<ImageData>();
  const [under, setUnder] = useState<string>();
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    const stop = new AbortController();
    void read(url, stop.signal).then(
      (data) => {
        setFault(undefined);
        setPixels(data);
      },
      (error: unknown) => !stop.signal.aborted && setFault(error instanceof Error ? error.message : String(error)),
    );
    return () => stop.abort();
  }, [url]);
  useEffect(() => {
    if (pixels !== undefined) draw(pixels, channel, canvas.current!);
  }, [pixels, channel]);
  const point = (event: MouseEvent<HTMLCanvasElement>) => {
    if (pixels === undefined) return;
    const area = event.currentTarget.getBoundingClientRect();
    const x = Math.floor(((event.clientX - area.left) / area.width) * pixels.width);
    const y = Math.floor(((event.clientY - area.top) / area.height) * pixels.height);
    const at = (y * pixels.width + x) * 4;
    const [r, g, b, a] = pixels.data.subarray(at, at + 4);
    if (a !== undefined) setUnder(`${x}, ${y}: ${r} ${g} ${b}, alpha ${a}`);
  };
  const scale =
    zoom === 'fit' || pixels === undefined
      ? { maxWidth: '96%', maxHeight: height - 12 }
      : { width: pixels.width * zoom, height: pixels.height * zoom, imageRendering: 'pixelated' as const };
  return (
    <>
      <Box
        className="checker"
        tabIndex={zoom === 'fit' ? undefined : 0}
        role={zoom === 'fit' ? undefined : 'region'}
        aria-label={zoom === 'fit' ? undefined : 'The picture, larger than its frame'}
        sx={{
          height,
          display: 'grid',
          placeItems: zoom === 'fit' ? 'center' : 'start',
          border: '1px solid var(--line)',
          borderRadius: 1,
          overflow: zoom === 'fit' ? 'hidden' : 'auto',
        }}
      >
        <canvas
          ref={canvas}
          role="img"
          aria-label={name}
          onMouseMove={point}
          onMouseLeave={() => setUnder(undefined)}
          style={scale}
        />
      </Box>
      {fault !== undefined && <FaultNote>{fault}</FaultNote>}
      <Box sx={{ display: 'flex', gap: 0.75, mt: 1, flexWrap: 'wrap' }}>
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
        <Box
          component="select"
          aria-label="How near"
          value={String(zoom)}
          onChange={(event: { target: { value: string } }) =>
            setZoom(ZOOMS.find((one) => String(one) === event.target.value) ?? 'fit')
          }
          sx={{
            height: 26,
            border: '1px solid var(--line)',
            borderRadius: 7,
            px: 0.75,
            fontSize: 12,
            fontFamily: 'inherit',
            background: 'var(--sheet)',
            color: 'var(--ink)',
          }}
        >
          {ZOOMS.map((one) => (
            <option key={one} value={String(one)}>
              {one === 'fit' ? 'fits' : `${one} × pixels`}
            </option>
          ))}
        </Box>
      </Box>
      {pixels !== undefined && (
        <>
          <Box className="mono dim" sx={{ mt: 0.75, height: 16 }}>
            {under ?? 'red green blue alpha under the pointer'}
          </Box>
          <Histogram pixels={pixels} />
        </>
      )}
    </>
  );
}

/** The pixels as they are in the file: alpha is not multiplied in, and no colour profile applied. */
async function read(url: string, signal: AbortSignal): Promise<ImageData> {
  const answer = await fetch(url, { signal, priority: 'high' });
  if (!answer.ok)
    throw new Error(
      ((await answer.json()) as { fault?: { sentence: string } }).fault?.sentence ??
        `The server answered ${answer.status}.`,
    );
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

/** Draws all channels, or one of them as grey. */
function draw(pixels: ImageData, channel: Channel, canvas: HTMLCanvasElement): void {
  canvas.width = pixels.width;
  canvas.height = pixels.height;
  const context = canvas.getContext('2d')!;
  if (channel === 'All') return context.putImageData(pixels, 0, 0);
  const grey = new ImageData(pixels.width, pixels.height);
  const from = { R: 0, G: 1, B: 2, A: 3 }[channel];
  for (let i = 0; i < grey.data.length; i += 4) {
    grey.data.fill(pixels.data[i + from]!, i, i + 3);
    grey.data[i + 3] = 255;
  }
  context.putImageData(grey, 0, 0);
}
