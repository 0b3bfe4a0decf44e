'use client';
import Box from '@mui/material/Box';
import type { ReactNode } from 'react';
import type { KindName } from '../../server/shapes';
import { KindMark } from '../shared/marks';

export const CHANGE_ROW = 50;

/** A row of the list of changes: a change, or a file that waits for a person. */
export function ChangeRow({
  kind,
  title,
  about,
  hint,
  state,
  chosen,
  faint = false,
  onChoose,
}: {
  kind: KindName;
  title: string;
  about: string;
  hint: string;
  state: ReactNode;
  chosen: boolean;
  faint?: boolean;
  onChoose: () => void;
}) {
  return (
    <Box
      role="listitem"
      sx={{
        display: 'flex',
        alignItems: 'center',
        height: CHANGE_ROW,
        pr: 1.75,
        gap: 1,
        background: chosen ? 'var(--teal2)' : undefined,
        boxShadow: chosen ? 'inset 3px 0 0 var(--teal)' : undefined,
      }}
    >
      <Box
        component="button"
        type="button"
        aria-current={chosen}
        onClick={onChoose}
        sx={{
          all: 'unset',
          boxSizing: 'border-box',
          flex: 1,
          minWidth: 0,
          height: '100%',
          display: 'flex',
          gap: 1.25,
          alignItems: 'center',
          pl: 2,
          cursor: 'pointer',
          '&:focus-visible': { outline: '2px solid var(--teal)', outlineOffset: -2 },
        }}
      >
        <KindMark kind={kind} label />
        <Box
          sx={{ minWidth: 0, '& > *': { overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' } }}
          title={hint}
        >
          <div style={faint ? { color: 'var(--dim)' } : undefined}>{title}</div>
          <div className="dim">{about}</div>
        </Box>
      </Box>
      {state}
    </Box>
  );
}
