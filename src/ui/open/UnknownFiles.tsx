'use client';
import { visible } from '../../core/faults/visible';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import Link from 'next/link';
import { useState } from 'react';
import { KIND_NAMES, type ArchiveAnswer, type KindName } from '../../server/shapes';
import { call } from '../shared/api';
import { count, counted, size } from '../shared/format';
import { KIND_WORDS, Latch } from '../shared/marks';
import { useGameMutation } from '../shared/queries';
import { StripBar } from '../shell/Strip';

const SHOWN = 8;

interface Props {
  readonly gameId: number;
  readonly files: readonly ArchiveAnswer[];
  readonly onXor: (file: ArchiveAnswer) => void;
}

const FOUND_WORDS: Readonly<Partial<Record<KindName, { readonly one: string; readonly many: string }>>> = {
  bytes: { one: 'stream', many: 'streams' },
  words: { one: 'text', many: 'texts' },
};

/** `24 pictures, 1 sound found inside`. */
function foundWords({ found }: ArchiveAnswer): string {
  if (found === null) return '';
  const parts = KIND_NAMES.flatMap((kind) => {
    const number = found.kinds[kind] ?? 0;
    const { one, many } = FOUND_WORDS[kind] ?? KIND_WORDS[kind];
    return number === 0 ? [] : [counted(number, one.toLowerCase(), many.toLowerCase())];
  });
  return parts.length === 0 ? 'nothing known found inside' : `${parts.join(', ')} found inside`;
}

/** How random the bytes are along the file: packed and locked ones reach the top. */
function Randomness({ values }: { values: readonly number[] }) {
  const points = values.map((bits, i) => `${(1000 * i) / Math.max(1, values.length - 1)},${(12 * (8 - bits)) / 8}`);
  return (
    <svg
      viewBox="0 0 1000 12"
      preserveAspectRatio="none"
      role="img"
      aria-label="Randomness along the file"
      style={{ display: 'block', width: '100%', height: 12, marginTop: 2 }}
    >
      <title>Randomness along the file: the top is 8 bits a byte, as in packed or locked bytes</title>
      <polyline
        points={points.join(' ')}
        fill="none"
        stroke="var(--plum)"
        strokeWidth="1.2"
        vectorEffect="non-scaling-stroke"
      />
    </svg>
  );
}

/** Files no recipe knows: what was found in them all the same, and ways on. */
export function UnknownFiles({ gameId, files, onXor }: Props) {
  const [all, setAll] = useState(false);
  const find = useGameMutation(gameId, (archive: number) =>
    call('POST games/{game}/archives/{archive}/find-inside', { game: gameId, archive }),
  );
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
            {visible(file.path)}
          </Box>
          <Box sx={{ minWidth: 0 }}>
            <Box className="dim" sx={{ mb: 0.25 }}>
              {[foundWords(file), size(file.size)].filter((part) => part !== '').join(' · ')}
            </Box>
            <StripBar bands={file.bands} size={file.size} label={`The bytes of ${file.path}`} />
            {file.found !== null && <Randomness values={file.found.randomness} />}
          </Box>
          <Box sx={{ display: 'flex', gap: 1 }}>
            <Button variant="text" sx={{ px: 0.5 }} onClick={() => onXor(file)}>
              Solve XOR…
            </Button>
            <Button component={Link} href={`/games/${gameId}/recipes?archive=${file.id}`}>
              Write a recipe…
            </Button>
            {file.entryCount > 0 && (
              <Button component={Link} href={`/games/${gameId}/find?archive=${file.id}`}>
                Show what was found
              </Button>
            )}
            {file.found === null && file.size > 0 && (
              <Button onClick={() => find.mutate(file.id)} disabled={find.isPending}>
                Find hidden files
              </Button>
            )}
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
