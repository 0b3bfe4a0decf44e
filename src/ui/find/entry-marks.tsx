'use client';
import Box from '@mui/material/Box';
import type { EntryRow } from '../../server/shapes';
import type { ViewProps } from './walking';

export const ROLE_WORDS: Readonly<Record<EntryRow['role'], string>> = {
  wins: '',
  covered: 'covered',
  removes: 'removes it',
};

/** What does not reach the game is dim, what says that something is gone is struck through. */
export function roleLook({ role }: EntryRow): object {
  if (role === 'wins') return {};
  return { color: 'var(--dim)', ...(role === 'removes' ? { textDecoration: 'line-through' } : {}) };
}

export function Changed() {
  return (
    <Box component="span" sx={{ color: 'var(--brass)', fontWeight: 700, fontSize: 11.5 }}>
      changed
    </Box>
  );
}

/** Takes a dropped file for one entry. */
export function dropProps(entry: EntryRow | undefined, onDropFile: ViewProps['onDropFile']) {
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
