'use client';
import { visible } from '../../core/faults/visible';
import Box from '@mui/material/Box';
import { useQueries } from '@tanstack/react-query';
import { useVirtualizer } from '@tanstack/react-virtual';
import { useEffect, useRef, useState, type KeyboardEvent } from 'react';
import type { FolderRow } from '../../server/shapes';
import { call } from '../shared/api';
import { count } from '../shared/format';

interface Row extends FolderRow {
  readonly depth: number;
  readonly open: boolean;
}

const ROW = 26;

/** The folders as a tree that fetches what is opened and draws what is seen. */
export function FolderTree({
  gameId,
  archive,
  selected,
  onSelect,
}: {
  gameId: number;
  /** Only the folders of this archive. */
  archive: number | undefined;
  selected: string;
  onSelect: (folder: string) => void;
}) {
  const [opened, setOpened] = useState<ReadonlySet<string>>(() => new Set(ancestors(selected)));
  const wanted = ['', ...opened];
  const answers = useQueries({
    queries: wanted.map((under) => ({
      queryKey: ['game', gameId, 'folders', archive, under],
      queryFn: () => call('GET games/{game}/folders', { game: gameId, query: { under, archive } }),
    })),
  });
  const children = new Map(wanted.map((under, i) => [under, answers[i]?.data ?? []]));
  const rows: Row[] = [];
  const visit = (under: string, depth: number) => {
    for (const folder of children.get(under) ?? []) {
      const open = opened.has(folder.path);
      rows.push({ ...folder, depth, open });
      if (open) visit(folder.path, depth + 1);
    }
  };
  visit('', 0);
  const box = useRef<HTMLDivElement>(null);
  // eslint-disable-next-line react-hooks/incompatible-library -- its functions are used within this render only
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => box.current,
    estimateSize: () => ROW,
    overscan: 12,
  });
  const selectedRow = rows.findIndex((row) => row.path === selected);
  useEffect(() => {
    if (selectedRow >= 0) virtual.scrollToIndex(selectedRow, { align: 'auto' });
    // eslint-disable-next-line react-hooks/exhaustive-deps -- only another folder moves the view, not each scroll
  }, [selected, selectedRow >= 0]);
  const toggle = (path: string, open: boolean) => {
    const next = new Set(opened);
    if (open) next.add(path);
    else next.delete(path);
    setOpened(next);
  };
  const onKeyDown = (event: KeyboardEvent) => {
    const index = selectedRow;
    const row = rows[index];
    const go = (to: number) => {
      const next = rows[Math.max(0, Math.min(rows.length - 1, to))];
      if (next !== undefined) {
        onSelect(next.path);
        virtual.scrollToIndex(rows.indexOf(next));
      }
    };
    if (event.key === 'ArrowDown') go(index + 1);
    else if (event.key === 'ArrowUp') go(index - 1);
    else if (event.key === 'ArrowRight' && row !== undefined && row.folders) toggle(row.path, true);
    else if (event.key === 'ArrowLeft' && row?.open === true) toggle(row.path, false);
    else if (event.key === 'ArrowLeft' && row !== undefined)
      onSelect(row.path.slice(0, Math.max(0, row.path.lastIndexOf('/'))));
    else return;
    event.preventDefault();
  };
  return (
    <Box
      ref={box}
      role="tree"
      aria-label="Folders"
      tabIndex={0}
      onKeyDown={onKeyDown}
      sx={{ flex: 1, minHeight: 60, overflow: 'auto', mx: -1 }}
    >
      <div style={{ height: virtual.getTotalSize(), position: 'relative' }}>
        {virtual.getVirtualItems().map((item) => {
          const row = rows[item.index]!;
          return (
            <Box
              key={row.path}
              role="treeitem"
              aria-level={row.depth + 1}
              aria-selected={row.path === selected}
              {...(row.folders ? { 'aria-expanded': row.open } : {})}
              onClick={() => onSelect(row.path === selected ? '' : row.path)}
              sx={{
                position: 'absolute',
                insetInline: 4,
                height: ROW,
                top: item.start,
                pl: `${4 + row.depth * 14}px`,
                pr: 1,
                display: 'flex',
                alignItems: 'center',
                gap: 0.5,
                borderRadius: 1,
                cursor: 'pointer',
                background: row.path === selected ? 'var(--teal2)' : undefined,
                '&:hover': { background: row.path === selected ? 'var(--teal2)' : 'var(--paper)' },
              }}
            >
              <Box
                component="span"
                aria-hidden
                onClick={(event) => {
                  event.stopPropagation();
                  if (row.folders) toggle(row.path, !row.open);
                }}
                sx={{ width: 16, textAlign: 'center', fontSize: 10 }}
              >
                {!row.folders ? '' : row.open ? '▾' : '▸'}
              </Box>
              <Box
                component="span"
                sx={{ flex: 1, overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' }}
                title={row.name}
              >
                {visible(row.name)}
              </Box>
              <span className="dim" style={{ fontSize: 12 }}>
                {count(row.count)}
              </span>
            </Box>
          );
        })}
      </div>
    </Box>
  );
}

function ancestors(path: string): string[] {
  const parts = path === '' ? [] : path.split('/');
  return parts.slice(0, -1).map((_, i) => parts.slice(0, i + 1).join('/'));
}
