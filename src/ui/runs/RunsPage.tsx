'use client';
import Box from '@mui/material/Box';
import Typography from '@mui/material/Typography';
import { useRuns } from '../shared/queries';
import { Empty, FaultNote } from '../shared/states';
import { RunCard } from './RunCard';

/** All runs of the game, the newest first. */
export function RunsPage({ gameId }: { gameId: number }) {
  const { data: runs, error } = useRuns(gameId);
  return (
    <Box sx={{ overflow: 'auto', p: 2.25 }}>
      <Box sx={{ maxWidth: 860 }}>
        <Typography variant="h1" sx={{ mb: 1.5 }}>
          Runs
        </Typography>
        {error !== null && <FaultNote tone="brass">{error.message}</FaultNote>}
        {runs?.length === 0 && (
          <Empty title="Nothing has run yet">
            Scanning, taking out and building are runs: they go on when this page is closed.
          </Empty>
        )}
        {runs?.map((run) => (
          <RunCard key={run.id} run={run} />
        ))}
      </Box>
    </Box>
  );
}
