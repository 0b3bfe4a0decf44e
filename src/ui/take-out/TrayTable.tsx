'use client';
import { visible } from '../../core/faults/visible';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { useVirtualizer } from '@tanstack/react-virtual';
import { useRef } from 'react';
import type { EntryRow } from '../../server/shapes';
import { formView, TRAY_VIEWS, type TrayChoices, type TrayContents } from '../forms';
import { folderOf, size } from '../shared/format';
import { KindMark } from '../shared/marks';

const ROW = 48;

/** In words: `PNG`, `WAV`, `as it is`. */
function goesOutAs(entry: EntryRow, chosen: TrayChoices, tray: TrayContents): string {
  if (chosen.form === 'stored') return 'as stored';
  for (const { within } of TRAY_VIEWS) {
    const words = within?.(entry, chosen, tray);
    if (words !== undefined) return words;
  }
  return formView(entry.kind)?.tray?.goesOutAs(entry, chosen, tray) ?? 'as it is';
}

export function TrayTable({
  rows,
  chosen,
  tray,
  onRemove,
}: {
  rows: readonly EntryRow[];
  chosen: TrayChoices;
  tray: TrayContents;
  onRemove: (path: string) => void;
}) {
  const box = useRef<HTMLDivElement>(null);
  // eslint-disable-next-line react-hooks/incompatible-library -- its functions are used within this render only
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => box.current,
    estimateSize: () => ROW,
    overscan: 10,
  });
  const columns = '28px minmax(0, 1fr) 90px 150px 100px';
  return (
    <Box
      sx={{
        flex: 1,
        minHeight: 0,
        display: 'flex',
        flexDirection: 'column',
        border: '1px solid var(--line)',
        borderRadius: 1,
        background: 'var(--sheet)',
      }}
    >
      <Box
        sx={{
          display: 'grid',
          gridTemplateColumns: columns,
          px: 1.5,
          py: 0.9,
          borderBottom: '1px solid var(--line)',
          fontWeight: 600,
        }}
        className="dim"
      >
        <span />
        <span>Entry</span>
        <span>Size</span>
        <span>Goes out as</span>
        <span />
      </Box>
      <Box ref={box} role="list" aria-label="The tray" tabIndex={0} sx={{ flex: 1, overflow: 'auto' }}>
        <div style={{ height: virtual.getTotalSize(), position: 'relative' }}>
          {virtual.getVirtualItems().map((item) => {
            const entry = rows[item.index]!;
            return (
              <Box
                key={entry.path}
                role="listitem"
                sx={{
                  position: 'absolute',
                  top: item.start,
                  insetInline: 0,
                  height: ROW,
                  display: 'grid',
                  gridTemplateColumns: columns,
                  alignItems: 'center',
                  px: 1.5,
                  borderBottom: '1px solid var(--line)',
                }}
              >
                <KindMark kind={entry.kind} label />
                <Box
                  sx={{ minWidth: 0, '& > *': { overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' } }}
                  title={entry.path}
                >
                  <div>{visible(entry.name)}</div>
                  <div className="dim">{folderOf(entry.path)}</div>
                </Box>
                <span>{size(entry.size)}</span>
                <span className="dim">{goesOutAs(entry, chosen, tray)}</span>
                <Button
                  variant="text"
                  onClick={() => onRemove(entry.path)}
                  aria-label={`Remove ${entry.path} from the tray`}
                >
                  Remove
                </Button>
              </Box>
            );
          })}
        </div>
      </Box>
    </Box>
  );
}
