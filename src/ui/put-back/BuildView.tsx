'use client';
import { visible } from '../../core/faults/visible';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { useState, type ReactNode } from 'react';
import type { BuildAnswer, GameAnswer, JudgeReport } from '../../server/shapes';
import { call } from '../shared/api';
import { count, counted, size } from '../shared/format';
import { useGameMutation } from '../shared/queries';
import { FaultNote, Part } from '../shared/states';
import { Line } from './Line';
import { RulesDialog } from './RulesDialog';
import { SceneView } from './SceneView';
import { Proof } from './BuildProof';
import { Findings } from './Findings';

/** A build: what its test run said, its proof, its files, and putting it in. */
export function BuildView({
  gameId,
  game,
  build,
  isOutdated,
  children,
}: {
  gameId: number;
  game: GameAnswer;
  build: BuildAnswer;
  /** A later build failed: what was changed since is not in this one. */
  isOutdated: boolean;
  /** What is under the scene. */
  children: ReactNode;
}) {
  const putIn = useGameMutation(gameId, () =>
    call('POST games/{game}/builds/{build}/put-in', { game: gameId, build: build.id }),
  );
  const again = useGameMutation(gameId, () =>
    call('POST games/{game}/builds', { game: gameId, body: { how: build.how, again: build.id } }),
  );
  const [rules, setRules] = useState(false);
  const { report, proof } = build;
  const bad = report !== null && !report.started;
  const byRules = report?.by === 'rules';
  return (
    <Box sx={{ mb: 3 }}>
      <Box sx={{ display: 'flex', alignItems: 'flex-start', gap: 2, mb: 1.5 }}>
        <Box sx={{ flex: 1 }}>
          <Typography variant="h1">
            {report === null ? `Build #${build.number}` : `Test run of build #${build.number}`}
          </Typography>
          <Box className="dim">{aboutTest(report)}</Box>
        </Box>
        <Button
          variant={isOutdated ? 'outlined' : 'contained'}
          disabled={bad || game.installed || putIn.isPending}
          title={game.installed ? 'A build is in the game folder. Take it out again first.' : ''}
          onClick={() => putIn.mutate(undefined)}
        >
          {isOutdated ? `Put the older build #${build.number} in` : 'Put into the game folder'}
        </Button>
      </Box>
      {isOutdated && (
        <Box sx={{ mb: 1.5 }}>
          <FaultNote tone="brass">
            The last build was not finished. Build #{build.number} is older: what you have changed since is not in it.
          </FaultNote>
        </Box>
      )}
      <Box sx={{ display: 'grid', gridTemplateColumns: 'minmax(280px, 1fr) minmax(260px, 1fr)', gap: 2 }}>
        <Box>
          {report !== null && !byRules && <SceneView gameId={gameId} build={build} report={report} />}
          {byRules && <Findings report={report} />}
          {report?.command !== undefined && (
            <Part title="Your own test command">
              <Line
                ok={report.command.exit === 0}
                text={report.command.exit === null ? 'It did not end' : `It ended with ${report.command.exit}`}
                note={`${report.command.seconds.toFixed(1)} s`}
              />
              <Box
                component="pre"
                tabIndex={0}
                aria-label="What the command wrote"
                className="mono"
                sx={{ maxHeight: 220, overflow: 'auto', whiteSpace: 'pre-wrap', overflowWrap: 'anywhere', m: 0, mt: 1 }}
              >
                {report.command.output || 'It wrote nothing.'}
              </Box>
            </Part>
          )}
          <Box sx={{ mt: 2.5 }}>{children}</Box>
        </Box>
        <Box>
          {report !== null && (
            <Part title={byRules ? 'What was checked' : 'What the loader did'}>
              {report.steps.map((step) => (
                <Line key={step.what} ok text={step.what} note={count(step.count)} />
              ))}
              {!byRules && <Findings report={report} />}
              {byRules && (
                <Button variant="text" sx={{ px: 0, mt: 0.5 }} onClick={() => setRules(true)}>
                  Rules of this game…
                </Button>
              )}
            </Part>
          )}
          <Proof build={build} proof={proof} />
          <Part title="Files">
            {build.files.map((file) => (
              <Line key={file.name} ok text={visible(file.name)} note={size(file.size)} />
            ))}
          </Part>
          <Part title="Changes in it">
            {build.first.map(({ path, action, mod }) => (
              <Line
                key={path}
                ok
                text={visible(path)}
                note={[WORDS[action], mod === null ? '' : `of ${mod}`].filter(Boolean).join(' ')}
              />
            ))}
            {build.changes > build.first.length && (
              <Box className="dim">and {counted(build.changes - build.first.length, 'more', 'more')}</Box>
            )}
          </Part>
          <Box sx={{ display: 'flex', gap: 1.5 }}>
            <Button component="a" href={`/api/games/${gameId}/builds/${build.id}/report`} download>
              Save the report
            </Button>
            <Button disabled={again.isPending} onClick={() => again.mutate(undefined)}>
              Build it again
            </Button>
          </Box>
        </Box>
      </Box>
      {rules && <RulesDialog gameId={gameId} onClose={() => setRules(false)} />}
    </Box>
  );
}

const WORDS = { replace: '', add: 'new', remove: 'gone' } as const;

function aboutTest(report: JudgeReport | null): string {
  if (report === null) return 'The build was proven, and not test run.';
  if (report.by === 'rules' && report.rules === 0 && report.command === undefined)
    return 'There is no stand-in for this game, and no rule: the build was proven, and not test run.';
  return report.by === 'rules'
    ? 'There is no stand-in for this game: what is new or changed was checked by the rules you set for it.'
    : 'The stand-in game loads the built files on its own, strictly, in load order.';
}
