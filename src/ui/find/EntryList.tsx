'use client';
import { visible as readable } from '../../core/faults/visible';
import Box from '@mui/material/Box';
import { useEffect } from 'react';
import type { EntryRow } from '../../server/shapes';
import { folderOf, size } from '../shared/format';
import { KIND_WORDS, KindMark } from '../shared/marks';
import { useStoredState } from '../shared/use-stored-state';
import { useTallList } from '../shared/use-tall-list';
import { Changed, dropProps, ROLE_WORDS, roleLook } from './entry-marks';
import { isSelected, useWalk, type ViewProps } from './walking';
import { COLUMNS, type Column, FACTS, SortHead, ColumnsMenu } from './EntryListHead';

const ROW = 30;

const FIRST: readonly Column[] = ['folder', 'kind', 'size'];

/** Entries in rows, with the columns someone chose. */
export function EntryList(props: ViewProps) {
  const { entries, place, selection, onVisible, onSort, onDropFile } = props;
  const [shown, setShown] = useStoredState<readonly Column[]>('find-columns', FIRST);
  const columns = COLUMNS.filter((column) => shown.includes(column));
  const archives = new Map(entries.page?.archives.map(({ id, path }) => [id, path]));
  const { box, onScroll, height, from, to, topOf, show, visible } = useTallList(entries.total, ROW);
  useEffect(() => onVisible(from, to), [from, to, onVisible]);
  const { onKeyDown, onPick } = useWalk(props, { columns: 1, page: visible, show });
  const grid = {
    display: 'grid',
    gridTemplateColumns: ['minmax(150px, 1.4fr)', ...columns.map((column) => FACTS[column].width), '26px'].join(' '),
    gap: 1,
    alignItems: 'center',
    px: 1.5,
  };
  const cell = (column: Column, entry: EntryRow) => {
    switch (column) {
      case 'folder':
        return folderOf(entry.path);
      case 'label':
        return entry.label ?? '';
      case 'kind':
        return KIND_WORDS[entry.kind].one.toLowerCase();
      case 'archive':
        return archives.get(entry.archive) ?? '';
      case 'size':
        return size(entry.size);
    }
  };
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
      <Box sx={{ ...grid, height: 32, borderBottom: '1px solid var(--line)' }}>
        <SortHead title="Entry" sort="path" place={place} onSort={onSort} />
        {columns.map((column) => {
          const { title, sort, right } = FACTS[column];
          return sort === undefined ? (
            <Box key={column} sx={{ fontWeight: 600, color: 'var(--dim)' }}>
              {title}
            </Box>
          ) : (
            <SortHead key={column} title={title} sort={sort} place={place} onSort={onSort} right={right === true} />
          );
        })}
        <ColumnsMenu shown={columns} onChange={setShown} />
      </Box>
      <Box
        ref={box}
        onScroll={onScroll}
        role="listbox"
        aria-label="Entries"
        aria-multiselectable
        tabIndex={0}
        onKeyDown={onKeyDown}
        // One sheet of styles for all rows: a style for each would be made again at every step of scrolling.
        sx={{
          flex: 1,
          overflow: 'auto',
          '& .row': {
            ...grid,
            position: 'absolute',
            left: 0,
            right: 0,
            height: ROW,
            cursor: 'pointer',
            userSelect: 'none',
          },
          '& .row > div, & .name > span': { overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' },
          '& .row.on, & .row.chosen': { background: 'var(--teal2)' },
          '& .row.on': { boxShadow: 'inset 3px 0 0 var(--teal)' },
          '& .name': { display: 'flex', gap: 1, alignItems: 'center' },
          '& .right': { textAlign: 'right' },
        }}
      >
        <div style={{ height: height, position: 'relative' }}>
          {Array.from({ length: Math.max(0, to - from) }, (_, i) => {
            const index = from + i;
            const entry = entries.at(index);
            const on = isSelected(entry, place);
            return (
              <div
                key={index}
                role="option"
                className={on ? 'row on' : selection.has(index) ? 'row chosen' : 'row'}
                aria-selected={on || selection.has(index)}
                aria-posinset={index + 1}
                aria-setsize={entries.total}
                onClick={onPick(index, entry)}
                {...dropProps(entry, onDropFile)}
                style={{ top: topOf(index) }}
              >
                {entry !== undefined && (
                  <>
                    <div className="name" title={entry.path}>
                      <KindMark kind={entry.kind} />
                      <span style={roleLook(entry)}>{readable(entry.name)}</span>
                      {entry.role !== 'wins' && <i className="dim">{ROLE_WORDS[entry.role]}</i>}
                      {entry.changed && <Changed />}
                    </div>
                    {columns.map((column) => (
                      <div
                        key={column}
                        className={column === 'size' ? 'right' : column === 'label' ? '' : 'dim'}
                        title={column === 'label' ? (entry.label ?? '') : undefined}
                      >
                        {cell(column, entry)}
                      </div>
                    ))}
                  </>
                )}
              </div>
            );
          })}
        </div>
      </Box>
    </Box>
  );
}
