'use client';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import Link from 'next/link';
import { useState } from 'react';
import type { ArchiveAnswer } from '../../server/shapes';
import { count, size } from '../shared/format';
import { Latch } from '../shared/marks';
import { StripBar } from '../shell/Strip';

const SHOWN = 8;

interface Props {
  readonly gameId: number;
  readonly files: readonly ArchiveAnswer[];
  readonly onXor: (file: ArchiveAnswer) => void;
}

/** Files no recipe knows. */
export function UnknownFiles({ gameId, files, onXor }: Props) {
  const [all, setAll] = useState(false);
  return (
    <Box component="section" sx={{ mt: 2 }}>
      <Typography variant="h3" component="h2" sx={{ mb: 0.75 }}>
        Files no recipe knows
      </Typography>
      {files.slice(0, all ? undefined : SHOWN).map((file) => (
        <Box
          key={file.id}
          data-testid={`unknown ${file.path}`}
          sx={{
            display: 'grid',
            gridTemplateColumns: '34px minmax(110px, 170px) minmax(120px, 1fr) auto',
            alignItems: 'center',
            columnGap: 1.5,
            border: '1px dashed var(--line)',
            borderRadius: 1.5,
            px: 1.5,
            py: 0.9,
            mb: 0.75,
          }}
        >
          <Latch state="unknown" />
          <Box sx={{ fontWeight: 700, overflow: 'hidden', textOverflow: 'ellipsis' }} title={file.path}>
            {file.path}
          </Box>
          <Box sx={{ minWidth: 0 }}>
            <Box className="dim" sx={{ mb: 0.25 }}>
              {size(file.size)}
            </Box>
            <StripBar bands={file.bands} size={file.size} label={`The bytes of ${file.path}`} />
          </Box>
          <Box sx={{ display: 'flex', gap: 1 }}>
            <Button variant="text" sx={{ px: 0.5 }} onClick={() => onXor(file)}>
              Solve XOR…
            </Button>
            <Button component={Link} href={`/games/${gameId}/recipes?archive=${file.id}`}>
              Write a recipe…
            </Button>
          </Box>
        </Box>
      ))}
      {files.length > SHOWN && (
        <Button variant="text" onClick={() => setAll(!all)}>
          {all ? 'Fewer' : `${count(files.length - SHOWN)} more`}
        </Button>
      )}
    </Box>
  );
}
