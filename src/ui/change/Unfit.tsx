'use client';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import type { ChangeAnswer } from '../../server/shapes';
import { RunLine } from '../runs/RunLine';
import { call } from '../shared/api';
import { counted } from '../shared/format';
import { isGoing, useGameMutation, useRuns } from '../shared/queries';

/** After an update of the game: how many changes no longer fit it, and one button for all of them. */
export function Unfit({ gameId, changes }: { gameId: number; changes: readonly ChangeAnswer[] }) {
  const { data: runs } = useRuns(gameId);
  const renew = useGameMutation(gameId, () => call('POST games/{game}/changes/renew', { game: gameId }));
  const run = runs?.find((one) => ['rebase', 'renew'].includes(one.kind));
  const unfit = changes.filter(({ undone, status }) => !undone && status !== 'fits').length;
  const going = run !== undefined && isGoing(run);
  const failed = run?.kind === 'renew' && unfit > 0 ? run.fault : null;
  if (unfit === 0 && !going) return null;
  return (
    <Box sx={{ px: 2, py: 1, borderBlock: '1px solid var(--line)', background: 'var(--brass2)' }} role="status">
      {going ? (
        <RunLine run={run} label="Progress of the changes" />
      ) : (
        <>
          {counted(unfit, 'change does', 'changes do')} not fit the game as it is now.
          {failed !== null && failed !== undefined && <div>{failed.sentence}</div>}
          <Button sx={{ mt: 0.75 }} disabled={renew.isPending} onClick={() => renew.mutate(undefined)}>
            Fit all again and build
          </Button>
        </>
      )}
    </Box>
  );
}
