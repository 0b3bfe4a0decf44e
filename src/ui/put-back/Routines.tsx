'use client';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { useQuery } from '@tanstack/react-query';
import type { RoutineStep } from '../../server/shapes';
import { call } from '../shared/api';
import { counted } from '../shared/format';
import { isGoing, useGameMutation, useRuns } from '../shared/queries';
import { Part } from '../shared/states';
import { HOW_WORDS } from './how-words';

/** Routines, each repeated by one button. */
export function Routines({ gameId }: { gameId: number }) {
  const { data } = useQuery({
    queryKey: ['game', gameId, 'routines'],
    queryFn: () => call('GET games/{game}/routines', { game: gameId }),
  });
  const { data: runs } = useRuns(gameId);
  const run = useGameMutation(gameId, (id: number) =>
    call('POST games/{game}/routines/{routine}', { game: gameId, routine: id }),
  );
  const remove = useGameMutation(gameId, (id: number) =>
    call('DELETE games/{game}/routines/{routine}', { game: gameId, routine: id }),
  );
  const busy = runs?.some((one) => one.kind === 'routine' && isGoing(one)) === true;
  if (data === undefined || data.length === 0) return null;
  return (
    <Part title="Routines">
      {data.map(({ id, name, steps }) => (
        <Box
          key={id}
          sx={{ display: 'flex', gap: 1.5, alignItems: 'center', py: 0.75, borderBottom: '1px solid var(--line)' }}
        >
          <Box sx={{ flex: 1, minWidth: 0, overflowWrap: 'anywhere' }}>
            <b>{name}</b>
            <div className="dim">{steps.map(sayStep).join(' → ')}</div>
          </Box>
          <Button variant="text" disabled={remove.isPending} onClick={() => remove.mutate(id)}>
            Delete
          </Button>
          <Button disabled={busy || run.isPending} onClick={() => run.mutate(id)}>
            Run it
          </Button>
        </Box>
      ))}
    </Part>
  );
}

function sayStep(step: RoutineStep): string {
  switch (step.do) {
    case 'take-out':
      return `take out ${counted(step.paths.length, 'entry', 'entries')}`;
    case 'bring-in':
      return `bring back ${step.folder}`;
    case 'build':
      return HOW_WORDS[step.how];
    case 'put-in':
      return 'put in';
  }
}
