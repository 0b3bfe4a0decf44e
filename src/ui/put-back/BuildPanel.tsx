'use client';
import { visible } from '../../core/faults/visible';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { useState } from 'react';
import type { BuildWays, ChangeAnswer, GameAnswer, How, PutBackAnswer } from '../../server/shapes';
import { MOST_LISTED_CHANGES } from '../../server/shapes';
import { useRole } from '../access/session';
import { call } from '../shared/api';
import { counted, size } from '../shared/format';
import { KindMark } from '../shared/marks';
import { useGameMutation } from '../shared/queries';
import { FaultNote } from '../shared/states';
import { useStoredState } from '../shared/use-stored-state';
import { Mods } from './Mods';
import { RoutineDialog } from './RoutineDialog';
import { ShareDialog } from './ShareDialog';
import { refusalsOf } from './suiting-ways';
import { Ways } from './Ways';

/** Changes that are listed; the rest is counted. */
const LISTED = 60;

/** What is put back, how, and what else may be made of it. */
export function BuildPanel({
  game,
  changes,
  putBack,
}: {
  game: GameAnswer;
  changes: readonly ChangeAnswer[];
  putBack: PutBackAnswer;
}) {
  const [stored, store] = useStoredState<BuildWays | null>(`ways.${game.id}`, null);
  const chosen = stored ?? (putBack.reads === null ? undefined : { how: putBack.reads, archives: {} });
  const remember = useGameMutation(game.id, (how: How) =>
    call('PUT games/{game}/test-rules', { game: game.id, body: { how } }),
  );
  // The choice of a user without write access is not stored.
  const mayRemember = useRole() !== 'look';
  const choose = (next: BuildWays) => {
    store(next);
    if (mayRemember && next.how !== putBack.reads) remember.mutate(next.how);
  };
  const refusals = putBack.ways === null || chosen === undefined ? [] : refusalsOf(putBack.ways, chosen);
  const [dialog, setDialog] = useState<'share' | 'routine'>();
  const build = useGameMutation(game.id, () => call('POST games/{game}/builds', { game: game.id, body: chosen! }), {
    showsFault: true,
  });
  const unfit = changes.filter(({ status }) => status !== 'fits').length;
  return (
    <Box
      component="aside"
      aria-label="What is put back, and how"
      sx={{
        width: 420,
        flex: 'none',
        overflow: 'auto',
        background: 'var(--sheet)',
        borderRight: '1px solid var(--line)',
        p: 2.25,
      }}
    >
      <Typography variant="h1">
        {game.changeCount === 0 ? 'Nothing to put back' : `${counted(game.changeCount, 'change')} to put back`}
      </Typography>
      <Box className="dim" sx={{ mb: 1 }}>
        {game.changeCount === 0
          ? 'Drop an edited file on Change or on an entry first.'
          : `They are kept outside the archives until you build.${changes.length < game.changeCount && changes.length < MOST_LISTED_CHANGES ? ` ${counted(game.changeCount - changes.length, 'comes', 'come')} from mods.` : ''}`}
      </Box>
      {unfit > 0 && (
        <FaultNote tone="brass">
          {counted(unfit, 'change does', 'changes do')} not fit the game as it is now. Change shows which.
        </FaultNote>
      )}
      {changes.slice(0, LISTED).map((change) => (
        <Box
          key={change.id}
          sx={{ display: 'flex', gap: 1.5, alignItems: 'center', py: 0.9, borderBottom: '1px solid var(--line)' }}
        >
          <KindMark kind={change.kind} label />
          <Box sx={{ flex: 1, minWidth: 0 }}>
            <Box sx={{ overflowWrap: 'anywhere' }}>{visible(change.path)}</Box>
            <span className="dim">{change.action === 'remove' ? 'will be removed' : `from ${change.fileName}`}</span>
          </Box>
          <span className="dim">{sizeWords(change)}</span>
        </Box>
      ))}
      {changes.length > LISTED && <Box className="dim">and {counted(game.changeCount - LISTED, 'more', 'more')}</Box>}
      <Box sx={{ mt: 2.5 }}>
        <Ways gameId={game.id} changed={game.changeCount > 0} putBack={putBack} chosen={chosen} onChoose={choose} />
        <Box sx={{ display: 'flex', gap: 1, flexWrap: 'wrap' }}>
          <Button
            variant="contained"
            disabled={game.changeCount === 0 || build.isPending || chosen === undefined || refusals.length > 0}
            onClick={() => build.mutate(undefined)}
          >
            Build and test
          </Button>
          <Button disabled={changes.length === 0} onClick={() => setDialog('share')}>
            Share as a mod file…
          </Button>
          <Button disabled={chosen === undefined} onClick={() => setDialog('routine')}>
            Save as a routine…
          </Button>
        </Box>
        {build.error !== null && (
          <Box sx={{ mt: 1 }}>
            <FaultNote>{build.error.message}</FaultNote>
          </Box>
        )}
      </Box>
      <Box sx={{ mt: 3 }}>
        <Mods gameId={game.id} />
      </Box>
      {dialog === 'share' && <ShareDialog game={game} onClose={() => setDialog(undefined)} />}
      {dialog === 'routine' && chosen !== undefined && (
        <RoutineDialog gameId={game.id} ways={chosen} onClose={() => setDialog(undefined)} />
      )}
    </Box>
  );
}

function sizeWords({ action, size: now, before }: ChangeAnswer): string {
  if (action === 'remove') return before === null ? '' : `−${size(before)}`;
  if (before === null || action === 'add') return `+${size(now)}`;
  const bytes = now - before;
  return bytes === 0 ? 'same size' : `${bytes > 0 ? '+' : '−'}${size(Math.abs(bytes))}`;
}
