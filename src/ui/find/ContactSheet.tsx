'use client';
import { visible as readable } from '../../core/faults/visible';
import Box from '@mui/material/Box';
import { useEffect, useState } from 'react';
import type { EntryRow, Glance } from '../../server/shapes';
import { entryUrl } from '../shared/api';
import { size } from '../shared/format';
import { KIND_COLOURS, KindMark } from '../shared/marks';
import { useTallList } from '../shared/use-tall-list';
import { Changed, dropProps, ROLE_WORDS } from './entry-marks';
import { useGlances } from './use-glances';
import { isSelected, useWalk, type ViewProps } from './walking';

const CARD_WIDTH = 132;
const CARD_HEIGHT = 132;
const GAP = 10;

/** Entries as cards that show what they hold: pictures small, sounds as their outline, texts by their first lines. */
export function ContactSheet(props: ViewProps) {
  const { gameId, entries, place, selection, onVisible, onDropFile } = props;
  const [columns, setColumns] = useState(5);
  const { box, element, onScroll, height, topOf, show, visible, ...drawn } = useTallList(
    Math.ceil(entries.total / columns),
    CARD_HEIGHT + GAP,
    2,
  );
  useEffect(() => {
    if (element === null) return undefined;
    const observer = new ResizeObserver(([area]) =>
      setColumns(Math.max(2, Math.floor((area!.contentRect.width + GAP) / (CARD_WIDTH + GAP)))),
    );
    observer.observe(element);
    return () => observer.disconnect();
  }, [element]);
  const from = drawn.from * columns;
  const to = Math.min(entries.total, drawn.to * columns);
  useEffect(() => onVisible(from, to), [from, to, onVisible]);
  const glanceOf = useGlances(gameId, entries, from, to);
  const { onKeyDown, onPick } = useWalk(props, {
    columns,
    page: columns * visible,
    show: (index) => show(Math.floor(index / columns)),
  });
  return (
    <Box
      ref={box}
      onScroll={onScroll}
      role="listbox"
      aria-label="Entries"
      aria-multiselectable
      tabIndex={0}
      onKeyDown={onKeyDown}
      sx={{ flex: 1, minHeight: 0, overflow: 'auto', p: '3px' }}
    >
      <div style={{ height: height, position: 'relative' }}>
        {Array.from({ length: Math.max(0, drawn.to - drawn.from) }, (_, i) => (
          <Box
            key={drawn.from + i}
            role="presentation"
            sx={{
              position: 'absolute',
              insetInline: 0,
              height: CARD_HEIGHT,
              display: 'grid',
              gridTemplateColumns: `repeat(${columns}, 1fr)`,
              gap: `${GAP}px`,
            }}
            style={{ top: topOf(drawn.from + i) }}
          >
            {Array.from({ length: columns }, (__, column) => {
              const index = (drawn.from + i) * columns + column;
              const entry = entries.at(index);
              if (entry === undefined) return null;
              const on = isSelected(entry, place);
              const glance = glanceOf(entry);
              return (
                <Box
                  key={`${entry.archive}.${entry.n}`}
                  role="option"
                  aria-selected={on || selection.has(index)}
                  aria-posinset={index + 1}
                  aria-setsize={entries.total}
                  aria-label={entry.path}
                  onClick={onPick(index, entry)}
                  {...dropProps(entry, onDropFile)}
                  sx={{
                    border: '1px solid var(--line)',
                    outline: on ? '2px solid var(--teal)' : undefined,
                    outlineOffset: 1,
                    borderRadius: 1,
                    background: selection.has(index) && selection.count > 1 ? 'var(--teal2)' : 'var(--sheet)',
                    overflow: 'hidden',
                    cursor: 'pointer',
                    userSelect: 'none',
                    minWidth: 0,
                  }}
                >
                  <Thumb gameId={gameId} entry={entry} glance={glance} />
                  <Box sx={{ px: 1, pt: 0.5 }}>
                    <Box sx={oneLine} title={entry.path}>
                      {readable(entry.label ?? entry.name)}
                    </Box>
                    <Box
                      className="dim"
                      sx={{ fontSize: 11.5, display: 'flex', gap: 1, justifyContent: 'space-between', minWidth: 0 }}
                    >
                      <Box component="span" sx={oneLine}>
                        {entry.role !== 'wins'
                          ? ROLE_WORDS[entry.role]
                          : entry.label !== null
                            ? entry.name
                            : summaryOf(entry, glance)}
                      </Box>
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

const oneLine = { overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' } as const;

/** What is under the name: what there is to say of it, and its bytes. */
function summaryOf(entry: EntryRow, glance: Glance | undefined): string {
  const bytes = size(entry.size);
  return glance === undefined || glance.summary === '' ? bytes : `${glance.summary}, ${bytes}`;
}

/** A small picture of what the entry holds, or the mark of its kind large. */
function Thumb({ gameId, entry, glance }: { gameId: number; entry: EntryRow; glance: Glance | undefined }) {
  const [failed, setFailed] = useState(false);
  const shows = glance?.shows;
  return (
    <Box
      sx={{
        height: 84,
        display: 'grid',
        placeItems: 'center',
        background: 'var(--paper)',
        borderBottom: '1px solid var(--line)',
        overflow: 'hidden',
      }}
    >
      {shows?.is === 'thumbnail' && !failed ? (
        // The card around it carries the name.
        <img
          src={shows.webp === null ? entryUrl(gameId, entry, 'thumbnail') : `data:image/webp;base64,${shows.webp}`}
          alt=""
          loading="lazy"
          // What is looked at closely goes before what is glanced at.
          fetchPriority="low"
          onError={() => setFailed(true)}
          style={{ maxWidth: '88%', maxHeight: 76, objectFit: 'contain' }}
        />
      ) : shows?.is === 'peaks' ? (
        <Outline peaks={shows.peaks} />
      ) : shows?.is === 'lines' ? (
        <Box
          aria-hidden
          className="mono"
          sx={{
            placeSelf: 'start',
            p: 0.75,
            fontSize: 9,
            lineHeight: '14px',
            whiteSpace: 'pre',
            color: 'var(--slate)',
          }}
        >
          {shows.lines.join('\n')}
        </Box>
      ) : (
        <Box sx={{ transform: 'scale(2.4)', color: KIND_COLOURS[entry.kind], lineHeight: 0 }}>
          <KindMark kind={entry.kind} />
        </Box>
      )}
    </Box>
  );
}

/** How loud a sound is along its length. */
function Outline({ peaks }: { peaks: readonly number[] }) {
  return (
    <svg width="88%" height="60" viewBox={`0 0 ${peaks.length * 3} 60`} preserveAspectRatio="none" aria-hidden>
      {peaks.map((peak, i) => {
        const height = Math.max(1.5, peak * 58);
        return <rect key={i} x={i * 3} y={30 - height / 2} width="2" height={height} rx="1" fill="var(--brass-mark)" />;
      })}
    </svg>
  );
}
