'use client';
import { visible } from '../../core/faults/visible';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Link from 'next/link';
import { useState } from 'react';
import type { BuildAnswer, RunAnswer } from '../../server/shapes';
import { RunCard } from '../runs/RunCard';
import { when } from '../shared/format';
import { useChanges, useGame, usePutBack, useRuns } from '../shared/queries';
import { Empty, Part } from '../shared/states';
import { BuildPanel } from './BuildPanel';
import { BuildView } from './BuildView';
import { Installs } from './Installs';
import { Routines } from './Routines';

/** Runs whose progress is shown where they were started, until they are done. */
const OWN_RUNS = ['build', 'put-in', 'take-back', 'routine', 'renew'];

const BUILDS: readonly string[] = ['build', 'renew', 'routine'];
const ENDED_EARLY: readonly string[] = ['failed', 'stopped', 'interrupted'];

/** True for a build that a later one should have taken the place of, and did not. */
function isOutdated(build: BuildAnswer, run: RunAnswer | undefined): boolean {
  if (run === undefined || !BUILDS.includes(run.kind) || !ENDED_EARLY.includes(run.state)) return false;
  return run.createdAt > build.createdAt;
}

/** Station Put back: build, test run, put in, take out again. */
export function PutBackStation({ gameId }: { gameId: number }) {
  const { data: game } = useGame(gameId);
  const { data: changes } = useChanges(gameId);
  const { data: putBack } = usePutBack(gameId);
  const { data: runs } = useRuns(gameId);
  const [chosen, setChosen] = useState<number>();
  if (game === undefined || changes === undefined || putBack === undefined) return null;
  const build = putBack.builds.find((one) => one.id === chosen) ?? putBack.builds[0];
  const current = runs?.find((run) => OWN_RUNS.includes(run.kind));
  const going = current !== undefined && current.state !== 'done' ? current : undefined;
  const more = (
    <>
      <Installs gameId={gameId} installs={putBack.installs} />
      <Routines gameId={gameId} />
      {putBack.builds.length > 1 && <Builds builds={putBack.builds} shown={build} onChoose={setChosen} />}
    </>
  );
  return (
    <Box sx={{ flex: 1, minHeight: 0, display: 'flex' }}>
      <BuildPanel game={game} changes={changes.filter((change) => !change.undone)} putBack={putBack} />
      <Box sx={{ flex: 1, minWidth: 0, overflow: 'auto', p: 2.25 }}>
        {going !== undefined && <RunCard run={going} />}
        {build === undefined ? (
          <>
            <Empty
              title="Nothing is built yet"
              actions={
                <Button component={Link} href={`/games/${gameId}/change`}>
                  See the changes
                </Button>
              }
            >
              A build is proven and test run before the game sees it. The game’s folder is not touched until you put it
              in.
            </Empty>
            {more}
          </>
        ) : (
          <BuildView gameId={gameId} game={game} build={build} isOutdated={isOutdated(build, going)}>
            {more}
          </BuildView>
        )}
      </Box>
    </Box>
  );
}

/** Every build there was. */
function Builds({
  builds,
  shown,
  onChoose,
}: {
  builds: readonly BuildAnswer[];
  shown: BuildAnswer | undefined;
  onChoose: (id: number) => void;
}) {
  return (
    <Part title="Builds">
      {builds.map((one) => (
        <Box
          key={one.id}
          component="button"
          type="button"
          aria-pressed={one.id === shown?.id}
          onClick={() => onChoose(one.id)}
          sx={{
            all: 'unset',
            display: 'block',
            cursor: 'pointer',
            py: 0.4,
            fontWeight: one.id === shown?.id ? 700 : 400,
            '&:focus-visible': { outline: '2px solid var(--teal)' },
          }}
        >
          Build #{one.number} · {when(one.createdAt)} · {one.files.map((file) => visible(file.name)).join(', ')}
          {one.report?.started === false && <span style={{ color: 'var(--brick)' }}> · would not start</span>}
        </Box>
      ))}
    </Part>
  );
}
