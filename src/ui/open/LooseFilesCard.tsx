'use client';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import Link from 'next/link';
import type { GameAnswer } from '../../server/shapes';
import { counted, size } from '../shared/format';

/** Files of the folder that are no archives: they are browsed and changed like entries. */
export function LooseFilesCard({ game: { id, loose } }: { game: GameAnswer }) {
  return (
    <Box
      component="section"
      aria-labelledby="loose-files"
      sx={{
        display: 'flex',
        alignItems: 'center',
        gap: 2,
        flexWrap: 'wrap',
        my: 1.5,
        px: 2,
        py: 1.5,
        background: 'var(--sheet)',
        border: '1px solid var(--line)',
        borderRadius: 2,
      }}
    >
      <Box sx={{ flex: '1 1 240px', minWidth: 0 }}>
        <Typography id="loose-files" variant="h3" component="h2">
          Loose files
        </Typography>
        <Box className="dim">
          {counted(loose.files, 'file')}, {size(loose.bytes)}. The game reads them as they are: browse, take out and
          replace them like entries of an archive.
        </Box>
      </Box>
      <Button component={Link} href={`/games/${id}/find`} variant="outlined">
        Browse the files
      </Button>
    </Box>
  );
}
