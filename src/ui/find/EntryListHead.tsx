'use client';
import Box from '@mui/material/Box';
import Checkbox from '@mui/material/Checkbox';
import IconButton from '@mui/material/IconButton';
import ListItemText from '@mui/material/ListItemText';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import { useState } from 'react';
import type { Place } from './use-place';
import type { ViewProps } from './walking';

export const COLUMNS = ['folder', 'label', 'kind', 'archive', 'size'] as const;

export type Column = (typeof COLUMNS)[number];

export const FACTS: Readonly<Record<Column, { title: string; width: string; sort?: Place['sort']; right?: true }>> = {
  folder: { title: 'Folder', width: 'minmax(90px, 1.4fr)' },
  label: { title: 'Label', width: 'minmax(80px, 1fr)' },
  kind: { title: 'Kind', width: '74px', sort: 'kind' },
  archive: { title: 'Archive', width: 'minmax(80px, 0.8fr)', sort: 'archive' },
  size: { title: 'Size', width: '80px', sort: 'size', right: true },
};

export function SortHead({
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

export function ColumnsMenu({
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
