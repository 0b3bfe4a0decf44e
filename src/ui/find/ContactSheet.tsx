'use client';
import { visible as readable } from '../../core/faults/visible';
import Box from '@mui/material/Box';
import { useEffect, useState } from 'react';
import type { EntryRow, Glance } from '../../server/shapes';
import { size } from '../shared/format';
import { useTallList } from '../shared/use-tall-list';
import { Changed, dropProps, ROLE_WORDS } from './entry-marks';
import { useGlances } from './use-glances';
import { isSelected, useWalk, type ViewProps } from './walking';
import { Thumb } from './Thumb';

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
