import MuiChip from '@mui/material/Chip';
import type { ReactNode } from 'react';

/** A small switch that is on or off. Its look is in the theme. */
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
    <MuiChip
      component="button"
      type="button"
      clickable
      variant="outlined"
      aria-pressed={on}
      {...(label === undefined ? {} : { 'aria-label': label, title: label })}
      onClick={onClick}
      label={children}
    />
  );
}
