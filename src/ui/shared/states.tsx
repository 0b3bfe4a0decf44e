/** What is shown where there is nothing yet, or where something went wrong. */
import Alert from '@mui/material/Alert';
import Box from '@mui/material/Box';
import Typography from '@mui/material/Typography';
import type { ReactNode } from 'react';

export function Empty({ title, children, actions }: { title: string; children?: ReactNode; actions?: ReactNode }) {
  return (
    <Box sx={{ p: 4, maxWidth: 560, mx: 'auto', textAlign: 'center' }}>
      <Typography variant="h2" component="p" sx={{ mb: 1 }}>
        {title}
      </Typography>
      <Box className="dim" sx={{ mb: 2 }}>
        {children}
      </Box>
      <Box sx={{ display: 'flex', gap: 1, justifyContent: 'center', flexWrap: 'wrap' }}>{actions}</Box>
    </Box>
  );
}

/** A fault in its own words; long paths and bytes may break anywhere. */
export function FaultNote({ children, tone = 'brick' }: { children: ReactNode; tone?: 'brick' | 'brass' }) {
  return (
    <Alert severity={tone === 'brick' ? 'error' : 'warning'} icon={false}>
      {children}
    </Alert>
  );
}

/** The heading of a part of a side panel. */
export function Part({ title, children }: { title: string; children: ReactNode }) {
  return (
    <Box component="section" sx={{ mb: 2.5 }}>
      <Typography variant="h3" component="h2" sx={{ mb: 0.75 }}>
        {title}
      </Typography>
      {children}
    </Box>
  );
}
