'use client';
import Box from '@mui/material/Box';
import type { ReactNode } from 'react';
import { Chip } from './Chip';

/** Chips of which one is chosen, and others after them. */
export function ChipGroup<T extends string>({
  label,
  value,
  options,
  onChange,
  children,
}: {
  readonly label: string;
  readonly value: T;
  readonly options: Readonly<Record<T, string>>;
  readonly onChange: (value: T) => void;
  readonly children?: ReactNode;
}) {
  return (
    <Box role="group" aria-label={label} sx={{ display: 'flex', gap: 0.75, flexWrap: 'wrap' }}>
      {(Object.entries(options) as [T, string][]).map(([one, words]) => (
        <Chip key={one} on={one === value} onClick={() => onChange(one)}>
          {words}
        </Chip>
      ))}
      {children}
    </Box>
  );
}
