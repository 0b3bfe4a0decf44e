'use client';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import { useState } from 'react';
import type { EntryDetails, FilmFacts } from '../../../server/shapes';
import { Converted } from './FilmPlayer';
import { entryUrl } from '../../shared/api';

/** A film as a file: what it is kept in, or one stream of it alone. */
export function FilmOut({
  gameId,
  entry,
  film,
}: {
  gameId: number;
  entry: Pick<EntryDetails, 'archive' | 'n'>;
  film: FilmFacts;
}) {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const [chosen, setChosen] = useState<Choice>();
  const choices: Choice[] = [
    { words: 'The film as WebM', as: 'webm' },
    { words: 'The film as MP4', as: 'mp4' },
    ...film.streams.flatMap(({ number, is, locale }): Choice[] => {
      const language = locale === '' ? '' : ` in ${locale}`;
      if (is === 'sound') return [{ words: `The sound${language} as WAV`, as: 'wav', stream: number }];
      if (is === 'subtitles')
        return (['srt', 'vtt'] as const).map((as) => ({
          words: `Subtitles${language} as ${as.toUpperCase()}`,
          as,
          stream: number,
        }));
      return [];
    }),
  ];
  return (
    <>
      <Button aria-haspopup="menu" onClick={(event) => setAnchor(event.currentTarget)}>
        The film as…
      </Button>
      <Menu open={anchor !== null} anchorEl={anchor} onClose={() => setAnchor(null)}>
        {choices.map((one) => (
          <MenuItem
            key={one.words}
            onClick={() => {
              setAnchor(null);
              setChosen(one);
            }}
          >
            {one.words}
          </MenuItem>
        ))}
      </Menu>
      {chosen !== undefined && (
        <Box sx={{ width: '100%' }}>
          <Converted
            key={chosen.words}
            entry={{ game: gameId, archive: entry.archive, n: entry.n }}
            order={orderOf(chosen)}
          >
            <a
              href={`${entryUrl(gameId, entry, 'film')}?${new URLSearchParams(Object.entries(orderOf(chosen)).map(([key, value]) => [key, String(value)])).toString()}`}
              download={`${film.name.replace(/\.[^.]*$/, '')}.${chosen.as}`}
              style={{ color: 'var(--teal)' }}
            >
              {chosen.words}: ready, save it
            </a>
          </Converted>
        </Box>
      )}
    </>
  );
}

interface Choice {
  readonly words: string;
  readonly as: 'webm' | 'mp4' | 'wav' | 'srt' | 'vtt';
  readonly stream?: number;
}

const orderOf = ({ as, stream }: Choice) => ({ as, ...(stream === undefined ? {} : { stream }) });
