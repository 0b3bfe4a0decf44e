import Box from '@mui/material/Box';
import type { ReactNode } from 'react';

/** Something with a quiet label above it. */
export function Labelled({ label, children }: { readonly label: string; readonly children: ReactNode }) {
  return (
    <Box sx={{ minWidth: 0 }}>
      <Box className="dim" sx={{ mb: 0.5 }}>
        {label}
      </Box>
      {children}
    </Box>
  );
}
