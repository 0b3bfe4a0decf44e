'use client';
import Box from '@mui/material/Box';
import { useQuery } from '@tanstack/react-query';
import { visible } from '../../core/faults/visible';
import Link from 'next/link';
import { call } from '../shared/api';
import { counted, fileName, folderOf } from '../shared/format';
import { FaultNote } from '../shared/states';

const NAMED = 12;

interface Props {
  readonly gameId: number;
  readonly pair: { readonly from: number; readonly to: number };
}

/** Says which fonts of the game lack letters that the texts use; nothing where none does. */
export function FontGaps({ gameId, pair }: Props) {
  const { data } = useQuery({
    queryKey: ['game', gameId, 'words', pair, 'fonts'],
    queryFn: () => call('GET games/{game}/words/fonts', { game: gameId, query: pair }),
    placeholderData: (before) => before,
  });
  if (data === undefined) return null;
  const lacking = data.fonts.filter(({ count, trouble }) => count > 0 || trouble !== null);
  if (lacking.length === 0 && data.unchecked === 0) return null;
  return (
    <FaultNote tone="brass">
      {lacking.map(({ path, archive, n, count, missing, trouble }) => (
        <Box key={path}>
          <Link
            href={`/games/${gameId}/find?folder=${encodeURIComponent(folderOf(path))}&sel=${archive}.${n}`}
            style={{ color: 'inherit' }}
          >
            {visible(fileName(path))}
          </Link>{' '}
          {trouble ??
            `lacks ${counted(count, 'letter')} of these texts: ${missing
              .slice(0, NAMED)
              .map(({ letter }) => letter)
              .join(' ')}${count > NAMED ? ' …' : ''} (first in ${missing[0]!.first})`}
        </Box>
      ))}
      {data.unchecked > 0 && (
        <Box>
          {counted(data.unchecked, 'more font')} of the game {data.unchecked === 1 ? 'was' : 'were'} not checked.
        </Box>
      )}
    </FaultNote>
  );
}
