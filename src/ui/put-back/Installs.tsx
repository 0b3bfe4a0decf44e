'use client';
import { visible } from '../../core/faults/visible';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import type { InstallAnswer, InstalledFileStatus } from '../../server/shapes';
import { call } from '../shared/api';
import { counted, when } from '../shared/format';
import { useGameMutation, useRuns } from '../shared/queries';
import { FaultNote, Part } from '../shared/states';

/** What is in the game folder, as the folder shows it, and the way out again. */
export function Installs({ gameId, installs }: { gameId: number; installs: readonly InstallAnswer[] }) {
  return (
    <Part title="In the game folder">
      {installs.length === 0 && <span className="dim">No build is in the game folder.</span>}
      {installs.map((install) => (
        <InstallRow key={install.id} gameId={gameId} install={install} />
      ))}
    </Part>
  );
}

const SEEN_WORDS: Readonly<Record<Exclude<InstalledFileStatus['is'], 'ours'>, string>> = {
  original: 'is the game’s original again',
  other: 'was replaced by something else, such as the game’s updater',
  gone: 'is missing',
};

function InstallRow({ gameId, install }: { gameId: number; install: InstallAnswer }) {
  const { data: runs } = useRuns(gameId);
  const takeBack = useGameMutation(gameId, (leave: boolean) =>
    call('POST games/{game}/installs/{install}/take-back', { game: gameId, install: install.id, body: { leave } }),
  );
  const isIn = install.state === 'in';
  const strange = install.seen?.filter(({ is }) => is !== 'ours') ?? [];
  const others = strange.filter(({ is }) => is !== 'original');
  const going = runs?.some((run) => ['put-in', 'take-back'].includes(run.kind) && run.state === 'working') === true;
  return (
    <Box sx={{ py: 0.9, borderBottom: '1px solid var(--line)' }}>
      <Box sx={{ display: 'flex', gap: 1.5, alignItems: 'center' }}>
        <Box component="span" sx={{ color: strange.length > 0 ? 'var(--brass)' : 'var(--teal)', width: 12 }}>
          {isIn ? (strange.length > 0 ? '!' : '✓') : ''}
        </Box>
        <Box sx={{ flex: 1 }} className={isIn ? '' : 'dim'}>
          <b>Build #{install.build}</b>{' '}
          {isIn
            ? `put in ${when(install.putInAt)}. `
            : install.takenOutAt === null
              ? 'is in progress. '
              : `taken out ${when(install.takenOutAt)}. `}
          {isIn &&
            (install.kept === 0
              ? `${counted(install.files, 'new file')}, no original replaced.`
              : `Originals kept: ${counted(install.kept, 'file')}.`)}
          {install.leftAlone.length > 0 && ` Left as something else wrote them: ${install.leftAlone.join(', ')}.`}
        </Box>
        {isIn && (
          <Button disabled={takeBack.isPending || going} onClick={() => takeBack.mutate(false)}>
            Take it out again
          </Button>
        )}
      </Box>
      {strange.length > 0 && (
        <Box sx={{ mt: 1, ml: 3 }}>
          <FaultNote tone="brass">
            {strange.map(({ name, is }) => (
              <div key={name}>
                <span className="mono">{visible(name)}</span> {SEEN_WORDS[is as keyof typeof SEEN_WORDS]}.
              </div>
            ))}
            {others.length > 0 && (
              <Button
                variant="text"
                sx={{ p: 0, mt: 0.5, minWidth: 0 }}
                disabled={takeBack.isPending || going}
                onClick={() => takeBack.mutate(true)}
              >
                Take out the rest, and leave {others.length === 1 ? 'it' : 'these'} as{' '}
                {others.length === 1 ? 'it is' : 'they are'}
              </Button>
            )}
          </FaultNote>
        </Box>
      )}
    </Box>
  );
}
