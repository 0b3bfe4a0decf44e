'use client';
import Box from '@mui/material/Box';
import { useQueries } from '@tanstack/react-query';
import { useVirtualizer } from '@tanstack/react-virtual';
import { useRef } from 'react';
import { FaultNote } from '../shared/states';

const ROW_BYTES = 8;
const ROW = 18;
/** Bytes fetched at once. */
const PIECE = 16 << 10;

/** The bytes of an entry, fetched as they come into view. */
export function BytesView({ url, size }: { url: string; size: number }) {
  const box = useRef<HTMLDivElement>(null);
  // eslint-disable-next-line react-hooks/incompatible-library -- its functions are used within this render only
  const virtual = useVirtualizer({
    count: Math.ceil(size / ROW_BYTES),
    getScrollElement: () => box.current,
    estimateSize: () => ROW,
    overscan: 20,
  });
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
        height: 300,
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
              <span className="dim">{(item.index * ROW_BYTES).toString(16).toUpperCase().padStart(6, '0')}</span>
              {'  '}
              {bytes === undefined
                ? ''
                : Array.from(bytes, (byte) => byte.toString(16).toUpperCase().padStart(2, '0'))
                    .join(' ')
                    .padEnd(ROW_BYTES * 3)}{' '}
              {bytes === undefined
                ? ''
                : Array.from(bytes, (byte) => (byte >= 0x20 && byte < 0x7f ? String.fromCharCode(byte) : '·')).join('')}
            </Box>
          );
        })}
      </div>
    </Box>
  );
}
