'use client';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Link from '@mui/material/Link';
import Typography from '@mui/material/Typography';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import NextLink from 'next/link';
import type { HomeAnswer, RunAnswer } from '../../server/shapes';
import { RunCard } from '../runs/RunCard';
import { api } from '../shared/api';
import { size } from '../shared/format';
import { isGoing } from '../shared/queries';
import { Empty, FaultNote, Part } from '../shared/states';
import { StoredBuilds } from './StoredBuilds';
import { StoredParts } from './StoredParts';

/** What the application keeps on disk, and what of it can go. */
export function StoragePage() {
  const client = useQueryClient();
  const { data: home, error } = useQuery({ queryKey: ['home'], queryFn: () => api<HomeAnswer>('home') });
  const start = useMutation({ mutationFn: () => api<RunAnswer>('home', { method: 'POST' }) });
  const { data: run } = useQuery({
    queryKey: ['run', start.data?.id],
    queryFn: async () => {
      const now = await api<RunAnswer>(`runs/${start.data!.id}`);
      if (!isGoing(now)) void client.invalidateQueries({ queryKey: ['home'] });
      return now;
    },
    enabled: start.data !== undefined,
    refetchInterval: ({ state }) => (state.data === undefined || isGoing(state.data) ? 500 : false),
  });
  const frees = home?.parts.reduce((sum, part) => sum + part.frees, 0) ?? 0;
  const going = start.isPending || (start.data !== undefined && (run === undefined || isGoing(run)));
  return (
    <Box component="main" sx={{ maxWidth: 760, mx: 'auto', p: 4 }}>
      <Box sx={{ display: 'flex', alignItems: 'baseline', gap: 2, flexWrap: 'wrap' }}>
        <Typography variant="h1" sx={{ fontSize: 24, flex: 1 }}>
          Storage
        </Typography>
        <Link component={NextLink} href="/">
          All games
        </Link>
      </Box>
      {home !== undefined && (
        <Box className="dim" sx={{ mb: 3, overflowWrap: 'anywhere' }}>
          Zero Latch keeps its files in <span className="mono">{home.home}</span>, where {size(home.free)} are free.
          Your changes and the originals of a game are never deleted here.
        </Box>
      )}
      {home === undefined && error === null && <span className="dim">Adding up what is on disk…</span>}
      {(error ?? start.error) !== null && <FaultNote>{(error ?? start.error)!.message}</FaultNote>}
      {home !== undefined && (
        <>
          <Part title="On disk">
            <StoredParts parts={home.parts} />
            <Box sx={{ display: 'flex', alignItems: 'center', gap: 1.5, mt: 1.5 }}>
              <Button variant="contained" disabled={going || frees === 0} onClick={() => start.mutate()}>
                Free {size(frees)}
              </Button>
              <span className="dim">
                {frees === 0
                  ? 'There is nothing to free now. What was kept within the last hour is not counted.'
                  : 'Files that nothing uses any more, and thumbnails, which are made again when they are seen.'}
              </span>
            </Box>
          </Part>
          {run !== undefined && <RunCard run={run} />}
          <Part title="Builds">
            {home.builds.length === 0 ? (
              <Empty title="No builds yet">A build that you make under Put back is listed here with its size.</Empty>
            ) : (
              <StoredBuilds builds={home.builds} />
            )}
          </Part>
        </>
      )}
    </Box>
  );
}
