'use client';
import Box from '@mui/material/Box';
import { useQueries } from '@tanstack/react-query';
import { useVirtualizer } from '@tanstack/react-virtual';
import { useEffect, useRef } from 'react';
import { FaultNote } from '../shared/states';

const ROW = 18;
/** Bytes fetched at once. */
/** Rows fetched at once: a piece holds whole rows. */
const PIECE_ROWS = 2048;

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
  // eslint-disable-next-line react-hooks/incompatible-library -- its functions are used within this render only
  const virtual = useVirtualizer({
    count: Math.ceil(size / ROW_BYTES),
    getScrollElement: () => box.current,
    estimateSize: () => ROW,
    overscan: 20,
  });
  useEffect(() => {
    if (reveal !== undefined) virtual.scrollToIndex(Math.floor(reveal.at / ROW_BYTES), { align: 'center' });
    // eslint-disable-next-line react-hooks/exhaustive-deps -- only a new wish moves the view
  }, [reveal]);
  const items = virtual.getVirtualItems();
  const first = Math.floor(((items[0]?.index ?? 0) * ROW_BYTES) / PIECE);
  const last = Math.floor(((items.at(-1)?.index ?? 0) * ROW_BYTES) / PIECE);
  const numbers = size === 0 ? [] : Array.from({ length: last - first + 1 }, (_, i) => first + i);
  const pieces = useQueries({
    queries: numbers.map((number) => ({
      queryKey: ['bytes', url, number],
      queryFn: async ({ signal }: { signal: AbortSignal }) => {
        const answer = await fetch(url, {
          signal,
          headers: { range: `bytes=${number * PIECE}-${(number + 1) * PIECE - 1}` },
        });
        if (!answer.ok) throw new Error(((await answer.json()) as { fault?: { sentence: string } }).fault?.sentence);
        return new Uint8Array(await answer.arrayBuffer());
      },
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
          const bytes = rowBytes(item.index);
          return (
            <Box key={item.key} sx={{ position: 'absolute', top: item.start, height: ROW, px: 1, whiteSpace: 'pre' }}>
              <span className="dim">{(item.index * ROW_BYTES).toString(16).toUpperCase().padStart(8, '0')}</span>
              {'  '}
              <RowBytes
                at={item.index * ROW_BYTES}
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
