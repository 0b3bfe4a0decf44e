'use client';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import LinearProgress from '@mui/material/LinearProgress';
import type { ReactNode } from 'react';
import type { RunAnswer } from '../../server/shapes';
import { call } from '../shared/api';
import { useGameMutation } from '../shared/queries';

/** A run that is going, where it was started: how far it is, and a way to stop it. */
export function RunLine({ run, label, children }: { run: RunAnswer; label: string; children?: ReactNode }) {
  const stop = useGameMutation(run.gameId ?? undefined, () =>
    call('POST runs/{run}/{action}', { run: run.id, action: 'stop' }),
  );
  return (
    <Box sx={{ width: '100%', mb: 1 }}>
      <Box sx={{ display: 'flex', alignItems: 'center' }}>
        <Box sx={{ flex: 1, overflowWrap: 'anywhere' }}>{run.title}</Box>
        <Button
          variant="text"
          sx={{ p: 0 }}
          disabled={run.state === 'stopping' || stop.isPending}
          onClick={() => stop.mutate(undefined)}
        >
          Stop
        </Button>
      </Box>
      <LinearProgress
        aria-label={label}
        variant={run.total > 0 ? 'determinate' : 'indeterminate'}
        value={run.total > 0 ? Math.min(100, (100 * run.done) / run.total) : 0}
        sx={{ height: 4, borderRadius: 2 }}
      />
      {children !== undefined && <Box className="dim">{children}</Box>}
    </Box>
  );
}
