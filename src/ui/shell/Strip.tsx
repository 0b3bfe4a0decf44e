'use client';
import { visible } from '../../core/faults/visible';
import Box from '@mui/material/Box';
import IconButton from '@mui/material/IconButton';
import Tooltip from '@mui/material/Tooltip';
import { useRef, useState, type ReactNode } from 'react';
import type { StripBand } from '../../server/shapes';
import { offset, size as sizeText } from '../shared/format';
import { KIND_COLOURS, KIND_WORDS } from '../shared/marks';

interface StripProps {
  readonly bands: readonly StripBand[];
  readonly size: number;
  /** Bytes to mark, such as those of the selected entry. */
  readonly marked?: { readonly at: number; readonly length: number } | undefined;
  readonly height?: number;
  readonly label: string;
  readonly onPick?: (offset: number) => void;
  /** The part that is drawn, in bytes. */
  readonly from?: number;
  readonly to?: number;
}

function colourOf(band: StripBand): string {
  switch (band.what) {
    case 'region':
      return band.at === 0 ? 'var(--ink)' : 'var(--slate)';
    case 'locked':
      return 'url(#strip-locked)';
    case 'fill':
    case 'unexplained':
      return 'url(#strip-hatch)';
    case 'bytes':
      // Not hatched: that is for what nothing explains.
      return 'var(--bytes)';
    default:
      return KIND_COLOURS[band.what];
  }
}

function wordsOf(band: StripBand): string {
  const what =
    band.what === 'region'
      ? (band.name ?? 'region')
      : band.what === 'locked'
        ? 'locked'
        : band.what === 'unexplained' || band.what === 'fill'
          ? 'unexplained'
          : KIND_WORDS[band.what].many.toLowerCase();
  return `${what}, ${sizeText(band.length)} at ${offset(band.at)}`;
}

/** An archive as one band of bytes. */
export function StripBar({ bands, size, marked, height = 12, label, onPick, from = 0, to = size }: StripProps) {
  const span = Math.max(1, to - from);
  const x = (at: number) => (1000 * (at - from)) / span;
  const box = useRef<SVGSVGElement>(null);
  const pick = (clientX: number) => {
    const area = box.current!.getBoundingClientRect();
    onPick?.(Math.floor(from + (span * (clientX - area.left)) / area.width));
  };
  return (
    <svg
      ref={box}
      viewBox={`0 0 1000 ${height}`}
      preserveAspectRatio="none"
      role="img"
      aria-label={label}
      style={{
        display: 'block',
        width: '100%',
        height,
        borderRadius: 3,
        border: '1px solid var(--line)',
        background: 'var(--hatch)',
        cursor: onPick === undefined ? undefined : 'pointer',
      }}
      onClick={(event) => pick(event.clientX)}
    >
      <defs>
        <pattern id="strip-hatch" width="8" height="8" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
          <rect width="8" height="8" fill="var(--hatch)" />
          <rect width="4" height="8" fill="var(--sheet)" />
        </pattern>
        <pattern id="strip-locked" width="8" height="8" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
          <rect width="8" height="8" fill="var(--brick2)" />
          <rect width="4" height="8" fill="var(--sheet)" />
        </pattern>
      </defs>
      {bands
        .filter((band) => band.at + band.length > from && band.at < to)
        .map((band) => (
          <rect
            key={`${band.at} ${band.what}`}
            x={x(band.at)}
            width={Math.max(0.6, (1000 * band.length) / span)}
            height={height}
            fill={colourOf(band)}
            opacity={band.what === 'region' || band.what === 'locked' ? 1 : 0.78}
          >
            <title>{wordsOf(band)}</title>
          </rect>
        ))}
      {marked !== undefined && (
        <rect
          x={x(marked.at)}
          width={Math.max(3, (1000 * marked.length) / span)}
          y={0}
          height={height}
          fill="var(--paper)"
          fillOpacity={0.55}
          stroke="var(--ink)"
          strokeWidth={2}
          vectorEffect="non-scaling-stroke"
          data-testid="strip-mark"
        />
      )}
    </svg>
  );
}

/** The strip along the foot of a station: named, zoomable, and clickable. */
export function StripFoot({
  title,
  note,
  legend,
  bands,
  size,
  marked,
  onPick,
}: { title: string; note: ReactNode; legend: ReactNode } & Omit<StripProps, 'label' | 'height'>) {
  const [view, setView] = useState<{ from: number; to: number }>();
  const { from, to } = view ?? { from: 0, to: size };
  const zoom = (factor: number, around = marked === undefined ? (from + to) / 2 : marked.at + marked.length / 2) => {
    const span = Math.min(size, Math.max(256, (to - from) * factor));
    if (span >= size) return setView(undefined);
    const start = Math.min(Math.max(0, around - span / 2), size - span);
    setView({ from: start, to: start + span });
  };
  return (
    <Box
      sx={{ height: 80, flex: 'none', background: 'var(--sheet)', borderTop: '1px solid var(--line)', px: 1.75, pt: 1 }}
      onWheel={(event) => zoom(event.deltaY > 0 ? 1.4 : 1 / 1.4)}
    >
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 1, mb: 0.5, height: 24 }}>
        <b>{visible(title)}</b>
        <span className="dim">{note}</span>
        <Box sx={{ flex: 1 }} />
        <Box className="dim" sx={{ display: 'flex', gap: 1, alignItems: 'center' }}>
          {legend}
        </Box>
        <Tooltip title="Closer">
          <IconButton
            size="small"
            onClick={() => zoom(0.4)}
            aria-label="Zoom in on the strip"
            sx={{ width: 24, height: 24, fontSize: 16 }}
          >
            +
          </IconButton>
        </Tooltip>
        <Tooltip title="Farther">
          <IconButton
            size="small"
            onClick={() => zoom(2.5)}
            disabled={view === undefined}
            aria-label="Zoom out of the strip"
            sx={{ width: 24, height: 24, fontSize: 16 }}
          >
            −
          </IconButton>
        </Tooltip>
      </Box>
      <StripBar
        bands={bands}
        size={size}
        marked={marked}
        height={22}
        label={`The bytes of ${title}`}
        from={from}
        to={to}
        {...(onPick === undefined ? {} : { onPick })}
      />
      {view !== undefined && (
        <Box className="mono dim" sx={{ display: 'flex', justifyContent: 'space-between', fontSize: 10.5 }}>
          <span>{offset(Math.round(from))}</span>
          <span>{offset(Math.round(to))}</span>
        </Box>
      )}
    </Box>
  );
}
