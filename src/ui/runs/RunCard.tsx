'use client';
import { sayFault } from '../../core/faults';
import { visible } from '../../core/faults/visible';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import LinearProgress from '@mui/material/LinearProgress';
import { useState } from 'react';
import type { RunAnswer, RunState } from '../../server/shapes';
import { call } from '../shared/api';
import { Card } from '../shared/Card';
import { count, duration, size, when } from '../shared/format';
import { isGoing, useGameMutation } from '../shared/queries';
import { FaultNote } from '../shared/states';
import { resultOf } from './run-result';
import { RunLog } from './RunLog';
import { TakenOut } from './TakenOut';

const STATE_WORDS: Readonly<Record<RunState, string>> = {
  waiting: 'waiting for the worker',
  working: 'working',
  stopping: 'stopping',
  done: 'done',
  failed: 'failed',
  stopped: 'stopped',
  interrupted: 'interrupted: the worker ended',
};

/** One run: how far it is, what it says, and how to stop it or resume it. */
export function RunCard({ run }: { run: RunAnswer }) {
  const [open, setOpen] = useState(false);
  const act = useGameMutation(run.gameId ?? undefined, (action: 'stop' | 'resume') =>
    call('POST runs/{run}/{action}', { run: run.id, action }),
  );
  const repeat = useGameMutation(run.gameId ?? undefined, () =>
    call('POST games/{game}/take-out/{run}/repeat', { game: run.gameId!, run: run.id }),
  );
  const going = isGoing(run);
  const resumable = run.state === 'interrupted' || run.state === 'stopped' || run.state === 'failed';
  const taken = resultOf(run, 'take-out');
  const failures = taken?.failures ?? [];
  return (
    <Card data-testid={`run ${run.kind}`} sx={{ mb: 1.25 }}>
      <Box sx={{ display: 'flex', gap: 1, justifyContent: 'space-between' }}>
        <b>{visible(run.title)}</b>
        <span className="dim" style={{ whiteSpace: 'nowrap' }}>
          {going ? progressWords(run) : `${STATE_WORDS[run.state]} ${run.endedAt === null ? '' : when(run.endedAt)}`}
        </span>
      </Box>
      {going && (
        <LinearProgress
          aria-label={`Progress of ${run.title}`}
          variant={run.total > 0 ? 'determinate' : 'indeterminate'}
          value={run.total > 0 ? Math.min(100, (100 * run.done) / run.total) : 0}
          sx={{ height: 7, borderRadius: 3, my: 0.75 }}
        />
      )}
      {run.fault !== null && <FaultNote>{run.fault.sentence}</FaultNote>}
      {taken !== undefined && <TakenOut gameId={run.gameId!} runId={run.id} result={taken} />}
      {failures.length > 0 && (
        <Box sx={{ color: 'var(--brick)' }}>
          {failures.length} could not be read:
          {failures.slice(0, open ? undefined : 2).map((failure) => (
            <Box key={failure.path} sx={{ fontSize: 12, overflowWrap: 'anywhere' }}>
              {sayFault(failure.fault)}
            </Box>
          ))}
        </Box>
      )}
      <Box sx={{ display: 'flex', gap: 1.5, mt: 0.5 }}>
        {(run.state === 'working' || run.state === 'waiting') && (
          <Button variant="inline" onClick={() => act.mutate('stop')}>
            Stop
          </Button>
        )}
        {resumable && (
          <Button variant="inline" onClick={() => act.mutate('resume')}>
            Resume
          </Button>
        )}
        {taken !== undefined && (
          <Button variant="inline" disabled={repeat.isPending} onClick={() => repeat.mutate(undefined)}>
            Repeat on this build
          </Button>
        )}
        {run.lines > 0 && (
          <Button variant="inline" onClick={() => setOpen(!open)} aria-expanded={open}>
            {open ? 'Hide the log' : 'Log'}
          </Button>
        )}
      </Box>
      {open && <RunLog run={run} />}
    </Card>
  );
}

/** `2,051 of 3,310 entries · about 40 s left`. */
function progressWords(run: RunAnswer): string {
  if (run.state !== 'working') return STATE_WORDS[run.state];
  if (run.total === 0) return 'working';
  const done =
    run.unit === 'bytes'
      ? `${size(run.done)} of ${size(run.total)}`
      : `${count(run.done)} of ${count(run.total)} ${run.unit}`;
  const seconds = run.startedAt === null ? 0 : (Date.now() - Date.parse(run.startedAt)) / 1000;
  const left = run.done > 0 && seconds > 2 ? (seconds * (run.total - run.done)) / run.done : undefined;
  return left === undefined ? done : `${done} · about ${duration(left)} left`;
}
