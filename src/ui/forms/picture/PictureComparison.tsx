'use client';
import Box from '@mui/material/Box';
import { useQuery } from '@tanstack/react-query';
import { useEffect, useRef, useState } from 'react';
import { Chip } from '../../shared/Chip';
import { FaultNote } from '../../shared/states';
import { readPixels, type PixelSource } from './pixels';

interface PictureSide {
  readonly source: PixelSource;
  readonly label: string;
}

/** Two pictures under a slider, or their difference, with figures for how far they are apart. */
export function PictureComparison({ before, after, name }: { before: PictureSide; after: PictureSide; name: string }) {
  const [mode, setMode] = useState<'side' | 'difference'>('side');
  const [at, setAt] = useState(50);
  const left = usePixels(before.source);
  const right = usePixels(after.source);
  const error = left.error ?? right.error;
  if (error !== null) return <FaultNote>{error.message}</FaultNote>;
  const both = left.data !== undefined && right.data !== undefined ? ([left.data, right.data] as const) : undefined;
  const sameSize = both !== undefined && both[0].width === both[1].width && both[0].height === both[1].height;
  const apart = sameSize ? distance(both[0], both[1]) : undefined;
  return (
    <>
      <Box sx={{ display: 'flex', gap: 0.75, mb: 1, alignItems: 'center' }}>
        <Chip on={mode === 'side'} onClick={() => setMode('side')}>
          Side by side
        </Chip>
        <Chip on={mode === 'difference'} onClick={() => setMode('difference')}>
          Difference
        </Chip>
        <span className="dim">
          {both === undefined
            ? ''
            : apart === undefined
              ? `${both[0].width} × ${both[0].height} and ${both[1].width} × ${both[1].height} pixels`
              : apart.decibels === Infinity
                ? 'Every pixel is the same.'
                : `${apart.decibels.toFixed(1)} dB apart; at most ${apart.largest} of 255`}
        </span>
      </Box>
      <Box
        className={mode === 'side' ? 'checker' : ''}
        sx={{
          position: 'relative',
          height: 400,
          border: '1px solid var(--line)',
          borderRadius: 1,
          overflow: 'hidden',
          background: mode === 'side' ? undefined : '#000',
        }}
      >
        {mode === 'side' || !sameSize ? (
          <>
            <Pixels
              data={left.data}
              label={`${name} ${before.label.toLowerCase()}`}
              clip={`inset(0 ${100 - at}% 0 0)`}
            />
            <Pixels data={right.data} label={`${name} ${after.label.toLowerCase()}`} clip={`inset(0 0 0 ${at}%)`} />
            <Box
              aria-hidden
              sx={{
                position: 'absolute',
                insetBlock: 0,
                left: `${at}%`,
                width: 2,
                ml: '-1px',
                background: 'var(--ink)',
              }}
            />
            <Tag side="left">{before.label}</Tag>
            <Tag side="right">{after.label}</Tag>
          </>
        ) : (
          <Pixels data={difference(both[0], both[1])} label={`${name}: the difference`} />
        )}
      </Box>
      {mode === 'side' && (
        <input
          type="range"
          min={0}
          max={100}
          value={at}
          aria-label={`Where ${before.label.toLowerCase()} ends and ${after.label.toLowerCase()} begins`}
          onChange={(event) => setAt(Number(event.target.value))}
          style={{ width: '100%', accentColor: 'var(--teal)', marginTop: 8 }}
        />
      )}
    </>
  );
}

function usePixels(source: PixelSource) {
  return useQuery({
    queryKey: ['pixels', source],
    queryFn: ({ signal }) => readPixels(source, signal),
    retry: false,
    // Pixels take much memory: those that are not shown are released at once.
    gcTime: 0,
    structuralSharing: false,
  });
}

/** A picture that fills its frame as far as its sides allow. */
function Pixels({ data, label, clip }: { data: ImageData | undefined; label: string; clip?: string }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    const paper = canvas.current;
    if (paper === null || data === undefined) return;
    paper.width = data.width;
    paper.height = data.height;
    paper.getContext('2d')!.putImageData(data, 0, 0);
  }, [data]);
  return (
    <canvas
      ref={canvas}
      role="img"
      aria-label={label}
      style={{
        position: 'absolute',
        inset: 0,
        width: '100%',
        height: '100%',
        objectFit: 'contain',
        ...(clip === undefined ? {} : { clipPath: clip }),
      }}
    />
  );
}

/** How far two pictures of one size are apart: peak signal to noise over all channels, and the largest difference. */
function distance(a: ImageData, b: ImageData): { decibels: number; largest: number } {
  let squares = 0;
  let largest = 0;
  for (let i = 0; i < a.data.length; i++) {
    const apart = Math.abs(a.data[i]! - b.data[i]!);
    squares += apart * apart;
    if (apart > largest) largest = apart;
  }
  return { decibels: 10 * Math.log10((255 * 255 * a.data.length) / squares), largest };
}

/** Black where both are the same; a difference of alpha lights all three colours. */
function difference(a: ImageData, b: ImageData): ImageData {
  const out = new ImageData(a.width, a.height);
  for (let i = 0; i < a.data.length; i += 4) {
    const alpha = Math.abs(a.data[i + 3]! - b.data[i + 3]!);
    for (let channel = 0; channel < 3; channel++)
      out.data[i + channel] = Math.max(alpha, Math.abs(a.data[i + channel]! - b.data[i + channel]!));
    out.data[i + 3] = 255;
  }
  return out;
}

function Tag({ side, children }: { side: 'left' | 'right'; children: string }) {
  return (
    <Box
      sx={{
        position: 'absolute',
        bottom: 10,
        [side]: 10,
        border: '1px solid var(--line)',
        borderRadius: 7,
        background: 'var(--sheet)',
        px: 1.1,
        py: 0.3,
        fontSize: 12,
      }}
    >
      {children}
    </Box>
  );
}
