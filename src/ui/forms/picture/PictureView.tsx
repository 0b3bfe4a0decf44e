'use client';
import Box from '@mui/material/Box';
import { useEffect, useRef, useState, type MouseEvent } from 'react';
import type { PictureFacts } from '../../../server/shapes';
import { Chip } from '../../shared/Chip';
import { FaultNote } from '../../shared/states';
import { useStoredState } from '../../shared/use-stored-state';
import { Histogram } from './Histogram';
import { readPixels, type PixelSource } from './pixels';
import { drawMask, draw, CHANNELS, type Channel } from './draw-channels';
import { Choice } from './Choice';

const ZOOMS = ['fit', 1, 2, 4, 8] as const;

type Zoom = (typeof ZOOMS)[number];

interface Props {
  readonly source: PixelSource;
  readonly name: string;
  readonly height: number;
  /** Which levels there are to look at, when there are several. */
  readonly facts?: Pick<PictureFacts, 'width' | 'height' | 'mips' | 'layers' | 'faces' | 'srgb'> | undefined;
}

const FACES = ['+x', '−x', '+y', '−y', '+z', '−z'] as const;

/** A picture on checkers, whole or channel by channel, as near as its pixels, with their values under the pointer. */
export function PictureView({ source, name, height, facts }: Props) {
  const [mip, setMip] = useState(0);
  const [face, setFace] = useState(0);
  const [layer, setLayer] = useState(0);
  const [channel, setChannel] = useState<Channel>('All');
  const [paints, setPaints] = useStoredState<readonly string[]>('mask-paints', FIRST_PAINTS);
  const [zoom, setZoom] = useState<Zoom>('fit');
  const [fault, setFault] = useState<string>();
  const [pixels, setPixels] = useState<ImageData>();
  const [under, setUnder] = useState<string>();
  const canvas = useRef<HTMLCanvasElement>(null);
  const { url, packed } = source;
  // Of plain numbers alpha is one more of them, and hides nothing.
  const opaque = facts?.srgb === false;
  useEffect(() => {
    const stop = new AbortController();
    void readPixels({ packed, url: packed ? `${url}?mip=${mip}&layer=${layer}&face=${face}` : url }, stop.signal).then(
      (data) => {
        setFault(undefined);
        setPixels(data);
      },
      (error: unknown) => !stop.signal.aborted && setFault(error instanceof Error ? error.message : String(error)),
    );
    return () => stop.abort();
  }, [url, packed, mip, layer, face]);
  useEffect(() => {
    if (pixels === undefined) return;
    if (channel === 'Mask') drawMask(pixels, paints, canvas.current!);
    else draw(pixels, channel, opaque, canvas.current!);
  }, [pixels, channel, opaque, paints]);
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
            label={CHANNEL_WORDS[one] ?? `Channel ${one}`}
          >
            {one}
          </Chip>
        ))}
        {channel === 'Mask' &&
          paints.map((paint, i) => (
            <input
              key={i}
              type="color"
              value={paint}
              aria-label={`Paint where ${['red', 'green', 'blue'][i]} is`}
              onChange={(event) => setPaints(paints.with(i, event.target.value))}
              style={{ width: 30, height: 26, padding: 0, border: '1px solid var(--line)', borderRadius: 7 }}
            />
          ))}
        <Choice
          label="Zoom"
          value={String(zoom)}
          onChange={(value) => setZoom(ZOOMS.find((one) => String(one) === value) ?? 'fit')}
          options={ZOOMS.map((one) => [String(one), one === 'fit' ? 'fits' : `${one} × pixels`])}
        />
        {facts !== undefined && facts.mips > 1 && (
          <Choice
            label="Which mip"
            value={String(mip)}
            onChange={(value) => setMip(Number(value))}
            options={Array.from({ length: facts.mips }, (_, i) => [
              String(i),
              `mip ${i}: ${Math.max(1, facts.width >> i)} × ${Math.max(1, facts.height >> i)}`,
            ])}
          />
        )}
        {facts !== undefined && facts.faces > 1 && (
          <Choice
            label="Which face"
            value={String(face)}
            onChange={(value) => setFace(Number(value))}
            options={FACES.map((one, i) => [String(i), `face ${one}`])}
          />
        )}
        {facts !== undefined && facts.layers > 1 && (
          <Choice
            label="Which layer"
            value={String(layer)}
            onChange={(value) => setLayer(Number(value))}
            options={Array.from({ length: facts.layers }, (_, i) => [String(i), `layer ${i}`])}
          />
        )}
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

const FIRST_PAINTS: readonly string[] = ['#a23b2c', '#e6b84c', '#3d5a80'];

const CHANNEL_WORDS: Readonly<Record<string, string>> = { All: 'All channels', Mask: 'As a mask, in paints to try' };
