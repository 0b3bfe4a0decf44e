import Box from '@mui/material/Box';
import type { ReactNode } from 'react';

/** A row of a form: what is chosen, and the choices. Its grid has two columns. */
export function ChoiceRow({ title, children }: { readonly title: ReactNode; readonly children: ReactNode }) {
  return (
    <>
      <Box sx={{ display: 'flex', gap: 0.75, alignItems: 'center', minHeight: 26 }}>{title}</Box>
      <Box sx={{ display: 'flex', gap: 0.75, flexWrap: 'wrap' }}>{children}</Box>
    </>
  );
}
