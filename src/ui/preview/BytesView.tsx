'use client';
import Box from '@mui/material/Box';
import { useQueries } from '@tanstack/react-query';
import { useVirtualizer } from '@tanstack/react-virtual';
import { useEffect, useRef, useState } from 'react';
import { flushSync } from 'react-dom';
import { FaultNote } from '../shared/states';
import { bytesAt } from '../shared/api';

const ROW = 18;
/** Rows fetched at once: a piece holds whole rows. */
const PIECE_ROWS = 2048;
/** Rows the view scrolls over at a time: a browser cannot scroll over a hundred million. */
const SEGMENT_ROWS = 400_000;
/** Rows from the end of the segment at which the next one is moved in. */
const SEGMENT_EDGE = 20_000;

/** A stretch that is drawn apart from the others. */
export interface ByteMark {
  readonly at: number;
  readonly length: number;
  readonly tone: 'teal2' | 'brass2' | 'slate2' | 'chosen';
}

const TONES: Readonly<Record<ByteMark['tone'], string>> = {
  teal2: 'var(--teal2)',
  brass2: 'var(--brass2)',
  slate2: 'var(--slate2)',
  chosen: 'var(--teal)',
};

interface Props {
  readonly url: string;
  readonly size: number;
  readonly height?: number | string;
  /** Bytes of a row. */
  readonly width?: number;
  /** Ascending; where two overlap, the later wins. */
  readonly marks?: readonly ByteMark[];
  /** The offset to bring into view, and a number that grows each time it is asked for. */
  readonly reveal?: { readonly at: number; readonly turn: number } | undefined;
  readonly onPick?: (offset: number) => void;
}

/** Bytes of an entry or a file, fetched as they come into view. */
export function BytesView({ url, size, height = 300, width: ROW_BYTES = 8, marks = [], reveal, onPick }: Props) {
  const PIECE = ROW_BYTES * PIECE_ROWS;
  const box = useRef<HTMLDivElement>(null);
  const rows = Math.ceil(size / ROW_BYTES);
  const [origin, setOrigin] = useState(0);
  const count = Math.min(SEGMENT_ROWS, rows - origin);
  // eslint-disable-next-line react-hooks/incompatible-library -- its functions are used within this render only
  const virtual = useVirtualizer({
    count,
    getScrollElement: () => box.current,
    estimateSize: () => ROW,
    overscan: 20,
  });
  const items = virtual.getVirtualItems();
  const firstIndex = items[0]?.index ?? 0;
  const lastIndex = items.at(-1)?.index ?? 0;
  /** Moves the segment; what is in view stays where it is. */
  const moveTo = (next: number) => {
    const moved = origin - next;
    // The taller or shorter list has to be there before the view can move along it.
    flushSync(() => setOrigin(next));
    box.current!.scrollTop += moved * ROW;
  };
  const show = (row: number, align: 'center' | 'start' | 'end') => {
    const within = row >= origin && row < origin + count;
    const next = within ? origin : Math.max(0, Math.min(row - SEGMENT_ROWS / 2, rows - SEGMENT_ROWS));
    if (!within) flushSync(() => setOrigin(next));
    virtual.scrollToIndex(row - next, { align });
  };
  useEffect(() => {
    // Out of the render: moving the segment is a render of its own.
    if (reveal !== undefined) queueMicrotask(() => show(Math.floor(reveal.at / ROW_BYTES), 'center'));
    // eslint-disable-next-line react-hooks/exhaustive-deps -- only a new wish moves the view
  }, [reveal]);
  useEffect(() => {
    const up = origin > 0 && firstIndex < SEGMENT_EDGE;
    const down = origin + count < rows && lastIndex > count - SEGMENT_EDGE;
    if (!up && !down) return;
    const half = SEGMENT_ROWS / 2;
    const next = up ? Math.max(0, origin - half) : Math.min(rows - SEGMENT_ROWS, origin + half);
    queueMicrotask(() => moveTo(next));
    // eslint-disable-next-line react-hooks/exhaustive-deps -- follows the rows in view
  }, [firstIndex, lastIndex]);
  const first = Math.floor(((origin + firstIndex) * ROW_BYTES) / PIECE);
  const last = Math.floor(((origin + lastIndex) * ROW_BYTES) / PIECE);
  const numbers = size === 0 ? [] : Array.from({ length: last - first + 1 }, (_, i) => first + i);
  const pieces = useQueries({
    queries: numbers.map((number) => ({
      queryKey: ['bytes', url, number],
      queryFn: async ({ signal }: { signal: AbortSignal }) =>
        (await bytesAt(url, { from: number * PIECE, to: (number + 1) * PIECE, signal })).bytes,
    })),
  });
  const fault = pieces.find((piece) => piece.error !== null)?.error;
  if (fault != null) return <FaultNote>{fault.message}</FaultNote>;
  const rowBytes = (row: number) => {
    const at = row * ROW_BYTES;
    const piece = pieces[numbers.indexOf(Math.floor(at / PIECE))]?.data;
    return piece?.subarray(at % PIECE, (at % PIECE) + ROW_BYTES);
  };
  return (
    <Box
      ref={box}
      tabIndex={0}
      role="region"
      aria-label="Bytes"
      className="mono"
      onKeyDown={(event) => {
        if (event.key !== 'Home' && event.key !== 'End') return;
        event.preventDefault();
        show(event.key === 'Home' ? 0 : Math.max(0, rows - 1), event.key === 'Home' ? 'start' : 'end');
      }}
      sx={{
        height,
        overflow: 'auto',
        border: '1px solid var(--line)',
        borderRadius: 1,
        background: 'var(--paper)',
      }}
    >
      <div style={{ height: virtual.getTotalSize(), position: 'relative' }}>
        {items.map((item) => {
          const row = origin + item.index;
          const bytes = rowBytes(row);
          return (
            <Box key={item.key} sx={{ position: 'absolute', top: item.start, height: ROW, px: 1, whiteSpace: 'pre' }}>
              <span className="dim">{(row * ROW_BYTES).toString(16).toUpperCase().padStart(8, '0')}</span>
              {'  '}
              <RowBytes
                at={row * ROW_BYTES}
                bytes={bytes}
                width={ROW_BYTES}
                marks={marks}
                {...(onPick === undefined ? {} : { onPick })}
              />
            </Box>
          );
        })}
      </div>
    </Box>
  );
}

interface RowProps extends Pick<Props, 'onPick'> {
  readonly at: number;
  readonly bytes: Uint8Array | undefined;
  readonly width: number;
  readonly marks: readonly ByteMark[];
}

/** One row: hex digits with their marks, then the letters. */
function RowBytes({ at, bytes, width, marks, onPick }: RowProps) {
  if (bytes === undefined) return null;
  const near = marks.filter((mark) => mark.at < at + width && mark.at + mark.length > at);
  const toneAt = (offset: number) => near.findLast((mark) => offset >= mark.at && offset < mark.at + mark.length)?.tone;
  return (
    <>
      {Array.from(bytes, (byte, i) => {
        const tone = toneAt(at + i);
        return (
          <span
            key={i}
            data-offset={at + i}
            onClick={onPick === undefined ? undefined : () => onPick(at + i)}
            style={{
              cursor: onPick === undefined ? undefined : 'pointer',
              ...(tone === undefined
                ? {}
                : { background: TONES[tone], color: tone === 'chosen' ? 'var(--on-teal)' : undefined }),
            }}
          >
            {byte.toString(16).toUpperCase().padStart(2, '0')}{' '}
          </span>
        );
      })}
      {'   '.repeat(width - bytes.length)}{' '}
      {Array.from(bytes, (byte) => (byte >= 0x20 && byte < 0x7f ? String.fromCharCode(byte) : '·')).join('')}
    </>
  );
}
