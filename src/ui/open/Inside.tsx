'use client';
import { visible } from '../../core/faults/visible';
import Box from '@mui/material/Box';
import Link from 'next/link';
import type { ArchiveAnswer } from '../../server/shapes';
import { entryUrl } from '../shared/api';
import { count, counted } from '../shared/format';
import { Latch } from '../shared/marks';
import { useInside } from '../shared/queries';

/** The archives inside an archive, each with a picture of its own to know it by. */
export function Inside({ gameId, archive }: { gameId: number; archive: ArchiveAnswer }) {
  const { data } = useInside(gameId, archive.id);
  if (data === undefined) return null;
  return (
    <Box
      component="ul"
      aria-label={`Inside ${archive.path}`}
      sx={{
        listStyle: 'none',
        p: 0,
        m: 0,
        mt: 1.25,
        ml: 3.5,
        display: 'grid',
        gridTemplateColumns: 'repeat(auto-fill, minmax(128px, 1fr))',
        gap: 1,
        maxHeight: 420,
        overflow: 'auto',
      }}
    >
      {data.rows.map((one) => (
        <Box component="li" key={one.id} title={one.fault?.sentence ?? one.path}>
          <Box
            component={Link}
            href={`/games/${gameId}/find?archive=${one.id}`}
            sx={{
              display: 'block',
              border: '1px solid var(--line)',
              borderRadius: 1.5,
              overflow: 'hidden',
              background: 'var(--paper)',
              color: 'inherit',
              textDecoration: 'none',
              '&:hover, &:focus-visible': { borderColor: 'var(--teal)' },
            }}
          >
            <Box
              className="checker"
              sx={{ height: 84, display: 'grid', placeItems: 'center', borderBottom: '1px solid var(--line)' }}
            >
              {one.picture === null ? (
                <Latch state={one.state} />
              ) : (
                <img
                  src={entryUrl(gameId, one.picture, 'thumbnail')}
                  alt=""
                  loading="lazy"
                  style={{ maxWidth: '100%', maxHeight: 84 }}
                />
              )}
            </Box>
            <Box sx={{ px: 1, py: 0.6 }}>
              <Box sx={{ fontWeight: 600, overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' }}>
                {visible(one.name)}
              </Box>
              <span className="dim">
                {one.state === 'open' ? counted(one.entryCount, 'entry', 'entries') : one.state}
              </span>
            </Box>
          </Box>
        </Box>
      ))}
      {data.total > data.rows.length && (
        <Box component="li" className="dim" sx={{ alignSelf: 'center' }}>
          and {count(data.total - data.rows.length)} more
        </Box>
      )}
    </Box>
  );
}
