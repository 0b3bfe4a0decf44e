import Box from '@mui/material/Box';
import type { ReactNode } from 'react';

/** A small switch that is on or off. */
export function Chip({
  on,
  onClick,
  children,
  label,
}: {
  on: boolean;
  onClick: () => void;
  children: ReactNode;
  label?: string;
}) {
  return (
    <Box
      component="button"
      type="button"
      aria-pressed={on}
      {...(label === undefined ? {} : { 'aria-label': label, title: label })}
      onClick={onClick}
      sx={{
        all: 'unset',
        boxSizing: 'border-box',
        display: 'inline-flex',
        alignItems: 'center',
        gap: 0.6,
        px: 1.1,
        height: 26,
        borderRadius: 7,
        cursor: 'pointer',
        fontSize: 12,
        whiteSpace: 'nowrap',
        border: '1px solid',
        borderColor: on ? 'var(--teal)' : 'var(--line)',
        background: on ? 'var(--teal2)' : 'var(--sheet)',
        '&:focus-visible': { outline: '2px solid var(--teal)' },
      }}
    >
      {children}
    </Box>
  );
}
