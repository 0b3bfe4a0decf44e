'use client';
import Box from '@mui/material/Box';
import { useMemo } from 'react';

const BINS = 64;
/** Pixels that are counted at most; larger pictures are sampled. */
const MOST_COUNTED = 1 << 19;
const LINES = [
  { channel: 0, name: 'red', colour: 'var(--brick)' },
  { channel: 1, name: 'green', colour: 'var(--olive)' },
  { channel: 2, name: 'blue', colour: 'var(--slate)' },
  { channel: 3, name: 'alpha', colour: 'var(--dim)' },
] as const;

/** How often each brightness of each channel comes; whether alpha is used at all is said in words. */
export function Histogram({ pixels }: { pixels: ImageData }) {
  const { bins, alpha } = useMemo(() => countOf(pixels), [pixels]);
  const most = Math.max(1, ...bins.slice(0, 3).flat());
  return (
    <Box sx={{ mt: 0.5 }}>
      <svg
        width="100%"
        height="44"
        viewBox={`0 0 ${BINS - 1} 44`}
        preserveAspectRatio="none"
        role="img"
        aria-label={`How often each brightness comes. ${alpha}`}
        style={{ display: 'block', background: 'var(--paper)', borderRadius: 4 }}
      >
        {LINES.map(({ channel, colour }) => (
          <polyline
            key={channel}
            fill="none"
            stroke={colour}
            strokeWidth="1.3"
            vectorEffect="non-scaling-stroke"
            points={bins[channel]!.map((count, i) => `${i},${43 - Math.min(1, Math.sqrt(count / most)) * 41}`).join(
              ' ',
            )}
          />
        ))}
      </svg>
      <Box className="dim" sx={{ fontSize: 12 }}>
        {alpha}
      </Box>
    </Box>
  );
}

function countOf({ data }: ImageData): { bins: number[][]; alpha: string } {
  const bins = LINES.map(() => new Array<number>(BINS).fill(0));
  const step = Math.max(1, Math.ceil(data.length / 4 / MOST_COUNTED)) * 4;
  let lowest = 255;
  let highest = 0;
  for (let at = 0; at < data.length; at += step) {
    for (let channel = 0; channel < 4; channel++) bins[channel]![data[at + channel]! >> 2]!++;
    lowest = Math.min(lowest, data[at + 3]!);
    highest = Math.max(highest, data[at + 3]!);
  }
  const alpha =
    lowest === highest
      ? lowest === 255
        ? 'Alpha is full everywhere: it is not used.'
        : `Alpha is ${lowest} everywhere.`
      : `Alpha goes from ${lowest} to ${highest}.`;
  return { bins, alpha };
}
