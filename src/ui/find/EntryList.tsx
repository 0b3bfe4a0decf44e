'use client';
import { visible as readable } from '../../core/faults/visible';
import Box from '@mui/material/Box';
import Checkbox from '@mui/material/Checkbox';
import IconButton from '@mui/material/IconButton';
import ListItemText from '@mui/material/ListItemText';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import { useEffect, useState } from 'react';
import type { EntryRow } from '../../server/shapes';
import { folderOf, size } from '../shared/format';
import { KIND_WORDS, KindMark } from '../shared/marks';
import { useStoredState } from '../shared/use-stored-state';
import { useTallList } from '../shared/use-tall-list';
import { Changed, dropProps, ROLE_WORDS, roleLook } from './entry-marks';
import type { Place } from './use-place';
import { isSelected, useWalk, type ViewProps } from './walking';

const ROW = 30;

const COLUMNS = ['folder', 'label', 'kind', 'archive', 'size'] as const;
type Column = (typeof COLUMNS)[number];

const FACTS: Readonly<Record<Column, { title: string; width: string; sort?: Place['sort']; right?: true }>> = {
  folder: { title: 'Folder', width: 'minmax(90px, 1.4fr)' },
  label: { title: 'Label', width: 'minmax(80px, 1fr)' },
  kind: { title: 'Kind', width: '74px', sort: 'kind' },
  archive: { title: 'Archive', width: 'minmax(80px, 0.8fr)', sort: 'archive' },
  size: { title: 'Size', width: '80px', sort: 'size', right: true },
};
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

function SortHead({
  title,
  sort,
  place,
  onSort,
  right = false,
}: {
  title: string;
  sort: Place['sort'];
  place: Place;
  onSort: ViewProps['onSort'];
  right?: boolean;
}) {
  return (
    <Box
      component="button"
      type="button"
      onClick={() => onSort(sort)}
      aria-label={`Sort by ${title.toLowerCase()}`}
      sx={{
        all: 'unset',
        cursor: 'pointer',
        textAlign: right ? 'right' : 'left',
        fontWeight: 600,
        color: 'var(--dim)',
        lineHeight: '24px',
        '&:focus-visible': { outline: '2px solid var(--teal)' },
      }}
    >
      {title}
      {place.sort === sort ? (place.order === 'up' ? ' ↑' : ' ↓') : ''}
    </Box>
  );
}

function ColumnsMenu({
  shown,
  onChange,
}: {
  shown: readonly Column[];
  onChange: (columns: readonly Column[]) => void;
}) {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  return (
    <>
      <IconButton
        size="small"
        aria-label="Choose columns"
        aria-haspopup="menu"
        onClick={(event) => setAnchor(event.currentTarget)}
        sx={{ width: 26, height: 26, fontSize: 15, color: 'var(--dim)' }}
      >
        ⋯
      </IconButton>
      <Menu anchorEl={anchor} open={anchor !== null} onClose={() => setAnchor(null)}>
        {COLUMNS.map((column) => {
          const on = shown.includes(column);
          return (
            <MenuItem
              key={column}
              dense
              role="menuitemcheckbox"
              aria-checked={on}
              onClick={() => onChange(on ? shown.filter((one) => one !== column) : [...shown, column])}
            >
              <Checkbox checked={on} tabIndex={-1} disableRipple size="small" sx={{ p: 0, mr: 1 }} aria-hidden />
              <ListItemText>{FACTS[column].title}</ListItemText>
            </MenuItem>
          );
        })}
      </Menu>
    </>
  );
}
