import Box from '@mui/material/Box';
import type { ComponentProps } from 'react';

/** Something with an edge of its own in a panel. */
export function Card({ sx, ...rest }: ComponentProps<typeof Box>) {
  return (
    <Box
      sx={{
        border: '1px solid var(--line)',
        borderRadius: 1.5,
        background: 'var(--paper)',
        px: 1.5,
        py: 1,
        mb: 1,
        ...sx,
      }}
      {...rest}
    />
  );
}
