'use client';
import Box from '@mui/material/Box';
import { useVirtualizer } from '@tanstack/react-virtual';
import { useEffect, useRef, useState, type KeyboardEvent } from 'react';
import type { EntryRow } from '../../server/shapes';
import { entryUrl } from '../shared/api';
import { folderOf, size } from '../shared/format';
import { KIND_COLOURS, KindMark } from '../shared/marks';
import type { Entries } from './use-entries';
import type { Place } from './use-place';

interface ViewProps {
  readonly gameId: number;
  readonly entries: Entries;
  readonly place: Place;
  readonly onSelect: (entry: EntryRow) => void;
  readonly onVisible: (from: number, to: number) => void;
  readonly onSort: (sort: Place['sort']) => void;
  readonly onDropFile: (entry: EntryRow, file: File) => void;
}

const isSelected = (entry: EntryRow | undefined, place: Place) =>
  entry !== undefined && entry.archive === place.selected?.archive && entry.n === place.selected.n;

/** Arrow keys over a grid of `columns` columns. */
function useWalk({ entries, place, onSelect }: ViewProps, columns: number, scrollTo: (index: number) => void) {
  const [cursor, setCursor] = useState(0);
  const at = isSelected(entries.at(cursor), place) ? cursor : findSelected(entries, place, cursor);
  return (event: KeyboardEvent) => {
    const step = {
      ArrowDown: columns,
      ArrowUp: -columns,
      ArrowRight: columns === 1 ? 0 : 1,
      ArrowLeft: columns === 1 ? 0 : -1,
      Home: -Infinity,
      End: Infinity,
      PageDown: columns * 5,
      PageUp: -columns * 5,
    }[event.key];
    if (step === undefined || entries.total === 0 || event.altKey || event.ctrlKey) return;
    event.preventDefault();
    const none = place.selected === undefined;
    const next = Math.max(0, Math.min(entries.total - 1, none ? 0 : at + step));
    setCursor(next);
    scrollTo(next);
    const entry = entries.at(next);
    if (entry !== undefined) onSelect(entry);
  };
}

function findSelected(entries: Entries, place: Place, otherwise: number): number {
  for (let i = 0; i < Math.min(entries.total, 2000); i++) if (isSelected(entries.at(i), place)) return i;
  return otherwise;
}

/** Takes a dropped file for one entry. */
function dropProps(entry: EntryRow | undefined, onDropFile: ViewProps['onDropFile']) {
  return {
    onDragOver: (event: React.DragEvent) => event.preventDefault(),
    onDrop: (event: React.DragEvent) => {
      const [file] = event.dataTransfer.files;
      if (entry === undefined || file === undefined) return;
      event.preventDefault();
      event.stopPropagation();
      onDropFile(entry, file);
    },
  };
}

const ROLE_WORDS: Readonly<Record<EntryRow['role'], string>> = { wins: '', covered: 'covered', removes: 'removes it' };

/** What does not reach the game is dim, what says that something is gone is struck through. */
function roleLook({ role }: EntryRow): object {
  if (role === 'wins') return {};
  return { color: 'var(--dim)', ...(role === 'removes' ? { textDecoration: 'line-through' } : {}) };
}

const ROW = 30;

export function EntryList(props: ViewProps) {
  const { entries, place, onSelect, onVisible, onSort, onDropFile } = props;
  const box = useRef<HTMLDivElement>(null);
  // eslint-disable-next-line react-hooks/incompatible-library -- its functions are used within this render only
  const virtual = useVirtualizer({
    count: entries.total,
    getScrollElement: () => box.current,
    estimateSize: () => ROW,
    overscan: 16,
  });
  const items = virtual.getVirtualItems();
  const from = items[0]?.index ?? 0;
  const to = items.at(-1)?.index ?? 0;
  useEffect(() => onVisible(from, to), [from, to, onVisible]);
  const walk = useWalk(props, 1, (index) => virtual.scrollToIndex(index));
  const columns = 'minmax(160px, 1.4fr) minmax(120px, 1.6fr) 110px 90px';
  const arrow = (sort: Place['sort']) => (place.sort === sort ? (place.order === 'up' ? ' ↑' : ' ↓') : '');
  const head = (sort: Place['sort'], label: string, align: 'left' | 'right' = 'left') => (
    <Box
      component="button"
      type="button"
      onClick={() => onSort(sort)}
      aria-label={`Sort by ${label.toLowerCase()}`}
      sx={{
        all: 'unset',
        cursor: 'pointer',
        textAlign: align,
        fontWeight: 600,
        color: 'var(--dim)',
        '&:focus-visible': { outline: '2px solid var(--teal)' },
      }}
    >
      {label}
      {arrow(sort)}
    </Box>
  );
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
          gap: 1,
          px: 1.5,
          py: 0.75,
          borderBottom: '1px solid var(--line)',
        }}
      >
        {head('path', 'Entry')}
        <Box sx={{ fontWeight: 600, color: 'var(--dim)' }}>Folder</Box>
        {head('kind', 'Kind')}
        {head('size', 'Size', 'right')}
      </Box>
      <Box
        ref={box}
        role="listbox"
        aria-label="Entries"
        tabIndex={0}
        onKeyDown={walk}
        sx={{ flex: 1, overflow: 'auto' }}
      >
        <div style={{ height: virtual.getTotalSize(), position: 'relative' }}>
          {items.map((item) => {
            const entry = entries.at(item.index);
            const on = isSelected(entry, place);
            return (
              <Box
                key={item.key}
                role="option"
                aria-selected={on}
                aria-posinset={item.index + 1}
                aria-setsize={entries.total}
                onClick={() => entry !== undefined && onSelect(entry)}
                {...dropProps(entry, onDropFile)}
                sx={{
                  position: 'absolute',
                  insetInline: 0,
                  top: item.start,
                  height: ROW,
                  display: 'grid',
                  gridTemplateColumns: columns,
                  gap: 1,
                  alignItems: 'center',
                  px: 1.5,
                  cursor: 'pointer',
                  background: on ? 'var(--teal2)' : undefined,
                  '& > *': { overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' },
                }}
              >
                {entry !== undefined && (
                  <>
                    <Box sx={{ display: 'flex', gap: 1, alignItems: 'center' }} title={entry.path}>
                      <KindMark kind={entry.kind} />
                      <Box component="span" sx={{ overflow: 'hidden', textOverflow: 'ellipsis', ...roleLook(entry) }}>
                        {entry.name}
                      </Box>
                      {entry.role !== 'wins' && <span className="dim">{ROLE_WORDS[entry.role]}</span>}
                      {entry.changed && <Changed />}
                    </Box>
                    <span className="dim">{folderOf(entry.path)}</span>
                    <span className="dim">{entry.kind}</span>
                    <Box sx={{ textAlign: 'right' }}>{size(entry.size)}</Box>
                  </>
                )}
              </Box>
            );
          })}
        </div>
      </Box>
    </Box>
  );
}

const CARD_WIDTH = 132;
const CARD_HEIGHT = 132;
const GAP = 10;

export function ContactSheet(props: ViewProps) {
  const { gameId, entries, place, onSelect, onVisible, onDropFile } = props;
  const box = useRef<HTMLDivElement>(null);
  const [columns, setColumns] = useState(5);
  useEffect(() => {
    const observer = new ResizeObserver(([area]) =>
      setColumns(Math.max(2, Math.floor((area!.contentRect.width + GAP) / (CARD_WIDTH + GAP)))),
    );
    observer.observe(box.current!);
    return () => observer.disconnect();
  }, []);
  // eslint-disable-next-line react-hooks/incompatible-library -- its functions are used within this render only
  const virtual = useVirtualizer({
    count: Math.ceil(entries.total / columns),
    getScrollElement: () => box.current,
    estimateSize: () => CARD_HEIGHT + GAP,
    overscan: 3,
  });
  const items = virtual.getVirtualItems();
  const from = (items[0]?.index ?? 0) * columns;
  const to = ((items.at(-1)?.index ?? 0) + 1) * columns;
  useEffect(() => onVisible(from, to), [from, to, onVisible]);
  const walk = useWalk(props, columns, (index) => virtual.scrollToIndex(Math.floor(index / columns)));
  return (
    <Box
      ref={box}
      role="listbox"
      aria-label="Entries"
      tabIndex={0}
      onKeyDown={walk}
      sx={{ flex: 1, minHeight: 0, overflow: 'auto', p: '3px' }}
    >
      <div style={{ height: virtual.getTotalSize(), position: 'relative' }}>
        {items.map((item) => (
          <Box
            key={item.key}
            role="presentation"
            sx={{
              position: 'absolute',
              insetInline: 0,
              top: item.start,
              height: CARD_HEIGHT,
              display: 'grid',
              gridTemplateColumns: `repeat(${columns}, 1fr)`,
              gap: `${GAP}px`,
            }}
          >
            {Array.from({ length: columns }, (_, column) => {
              const index = item.index * columns + column;
              const entry = entries.at(index);
              if (entry === undefined) return null;
              const on = isSelected(entry, place);
              return (
                <Box
                  key={`${entry.archive}.${entry.n}`}
                  role="option"
                  aria-selected={on}
                  aria-posinset={index + 1}
                  aria-setsize={entries.total}
                  aria-label={entry.path}
                  onClick={() => onSelect(entry)}
                  {...dropProps(entry, onDropFile)}
                  sx={{
                    border: '1px solid var(--line)',
                    outline: on ? '2px solid var(--teal)' : undefined,
                    outlineOffset: 1,
                    borderRadius: 1,
                    background: 'var(--sheet)',
                    overflow: 'hidden',
                    cursor: 'pointer',
                    minWidth: 0,
                  }}
                >
                  <Thumb gameId={gameId} entry={entry} />
                  <Box sx={{ px: 1, pt: 0.5 }}>
                    <Box sx={{ overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' }} title={entry.path}>
                      {entry.name}
                    </Box>
                    <Box className="dim" sx={{ fontSize: 11.5, display: 'flex', justifyContent: 'space-between' }}>
                      {entry.role === 'wins' ? size(entry.size) : ROLE_WORDS[entry.role]}
                      {entry.changed && <Changed />}
                    </Box>
                  </Box>
                </Box>
              );
            })}
          </Box>
        ))}
      </div>
    </Box>
  );
}

function Changed() {
  return (
    <Box component="span" sx={{ color: 'var(--brass)', fontWeight: 700, fontSize: 11.5 }}>
      changed
    </Box>
  );
}

/** A picture small, or the mark of the kind large. */
function Thumb({ gameId, entry }: { gameId: number; entry: EntryRow }) {
  const [failed, setFailed] = useState(false);
  return (
    <Box
      sx={{
        height: 84,
        display: 'grid',
        placeItems: 'center',
        background: 'var(--paper)',
        borderBottom: '1px solid var(--line)',
      }}
    >
      {entry.kind === 'picture' && !failed ? (
        // The card around it carries the name.
        <img
          src={entryUrl(gameId, entry, 'thumbnail')}
          alt=""
          loading="lazy"
          onError={() => setFailed(true)}
          style={{ maxWidth: '88%', maxHeight: 76, objectFit: 'contain' }}
        />
      ) : (
        <Box sx={{ transform: 'scale(2.4)', color: KIND_COLOURS[entry.kind], lineHeight: 0 }}>
          <KindMark kind={entry.kind} />
        </Box>
      )}
    </Box>
  );
}
