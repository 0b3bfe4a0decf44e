'use client';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Link from '@mui/material/Link';
import Typography from '@mui/material/Typography';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import NextLink from 'next/link';
import { useEffect } from 'react';
import { useRole } from '../access/session';
import { RunCard } from '../runs/RunCard';
import { call } from '../shared/api';
import { count, size, when } from '../shared/format';
import { Empty, FaultNote, Part } from '../shared/states';
import { StoredBuilds } from './StoredBuilds';
import { StoredParts } from './StoredParts';
import { useFollowedRun } from './use-followed-run';

/** What the application keeps on disk, and what of it can go. */
export function StoragePage() {
  const client = useQueryClient();
  const { data, error } = useQuery({ queryKey: ['home'], queryFn: () => call('GET home') });
  const again = () => void client.invalidateQueries({ queryKey: ['home'] });
  const measuring = useFollowedRun(() => call('POST home/measure'), again);
  const { start: measure } = measuring;
  const freeing = useFollowedRun(() => call('POST home'), measure);
  // What is on disk changes without the page: it is added up whenever someone looks.
  const mayMeasure = useRole() !== 'look';
  useEffect(() => {
    if (mayMeasure) measure();
  }, [measure, mayMeasure]);
  const home = data?.home ?? undefined;
  const frees = home?.parts.reduce((sum, part) => sum + part.frees, 0) ?? 0;
  const fault = error ?? measuring.error ?? freeing.error;
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
      {fault !== null && <FaultNote>{fault.message}</FaultNote>}
      {measuring.run?.state === 'failed' && <FaultNote>{measuring.run.fault?.sentence}</FaultNote>}
      <Box className="dim" role="status" sx={{ mb: 1.5, minHeight: 20 }}>
        {measuring.isGoing
          ? `Measuring what is on disk… ${measuring.run === undefined ? '' : `${count(measuring.run.done)} files`}`
          : data?.at == null
            ? ''
            : `Measured ${when(data.at)}`}
      </Box>
      {home !== undefined && (
        <>
          <Part title="On disk">
            <StoredParts parts={home.parts} />
            <Box sx={{ display: 'flex', alignItems: 'center', gap: 1.5, mt: 1.5 }}>
              <Button variant="contained" disabled={freeing.isGoing || frees === 0} onClick={() => freeing.start()}>
                Free {size(frees)}
              </Button>
              <span className="dim">
                {frees === 0
                  ? 'There is nothing to free now. What was kept within the last hour is not counted.'
                  : 'Files that nothing uses any more, and thumbnails, which are made again when they are seen.'}
              </span>
            </Box>
          </Part>
          {freeing.run !== undefined && <RunCard run={freeing.run} />}
          <Part title="Builds">
            {home.builds.length === 0 ? (
              <Empty title="No builds yet">A build that you make under Put back is listed here with its size.</Empty>
            ) : (
              <StoredBuilds builds={home.builds} onDeleted={measure} />
            )}
          </Part>
        </>
      )}
    </Box>
  );
}
