'use client';
import { visible } from '../../core/faults/visible';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import LinearProgress from '@mui/material/LinearProgress';
import { useState } from 'react';
import type { RunAnswer, RunState } from '../../server/shapes';
import { api } from '../shared/api';
import { Card } from '../shared/Card';
import { count, counted, size, when } from '../shared/format';
import { useGameMutation } from '../shared/queries';
import { FaultNote } from '../shared/states';
import { zipAddress } from './zip-address';

const STATE_WORDS: Readonly<Record<RunState, string>> = {
  waiting: 'waiting for the worker',
  working: 'working',
  stopping: 'stopping',
  done: 'done',
  failed: 'failed',
  stopped: 'stopped',
  interrupted: 'interrupted: the worker ended',
};

/** One run: how far it is, what it says, and how to stop it or take it up again. */
export function RunCard({ run }: { run: RunAnswer }) {
  const [open, setOpen] = useState(false);
  const act = useGameMutation(run.gameId ?? undefined, (action: 'stop' | 'resume') =>
    api(`runs/${run.id}/${action}`, { method: 'POST' }),
  );
  const repeat = useGameMutation(run.gameId ?? undefined, () =>
    api(`games/${run.gameId!}/take-out/${run.id}/repeat`, { method: 'POST' }),
  );
  const going = run.state === 'working' || run.state === 'waiting' || run.state === 'stopping';
  const resumable = run.state === 'interrupted' || run.state === 'stopped' || run.state === 'failed';
  const failures = (run.result?.['failures'] as { path: string; why: string }[] | undefined) ?? [];
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
      {run.kind === 'take-out' && run.state === 'done' && (
        <Box sx={{ overflowWrap: 'anywhere' }}>
          {counted(Number(run.result?.['taken'] ?? 0), 'file')}, {size(Number(run.result?.['bytes'] ?? 0))} in{' '}
          {run.result?.['zip'] === true ? (
            <a href={zipAddress(run.gameId!, run.id)} download style={{ color: 'var(--teal)' }}>
              one ZIP, to download again
            </a>
          ) : (
            <span className="mono">{String(run.result?.['folder'])}</span>
          )}
          {Number(run.result?.['within'] ?? 0) > 0 && (
            <span className="dim"> · {count(Number(run.result?.['within']))} are parts of these pictures</span>
          )}
          {Number(run.result?.['skipped'] ?? 0) > 0 && (
            <span className="dim">
              {' '}
              · {count(Number(run.result?.['skipped']))} were there already, or have not changed
            </span>
          )}
          {Number(run.result?.['kept'] ?? 0) > 0 && (
            <span className="dim"> · {counted(Number(run.result?.['kept']), 'file')} of yours stayed</span>
          )}
        </Box>
      )}
      {failures.length > 0 && (
        <Box sx={{ color: 'var(--brick)' }}>
          {failures.length} could not be read:
          {failures.slice(0, open ? undefined : 2).map((failure) => (
            <Box key={failure.path} sx={{ fontSize: 12, overflowWrap: 'anywhere' }}>
              {failure.why}
            </Box>
          ))}
        </Box>
      )}
      <Box sx={{ display: 'flex', gap: 1.5, mt: 0.5 }}>
        {(run.state === 'working' || run.state === 'waiting') && (
          <Button variant="text" sx={{ p: 0, minWidth: 0 }} onClick={() => act.mutate('stop')}>
            Stop
          </Button>
        )}
        {resumable && (
          <Button variant="text" sx={{ p: 0, minWidth: 0 }} onClick={() => act.mutate('resume')}>
            Take it up again
          </Button>
        )}
        {run.kind === 'take-out' && run.state === 'done' && (
          <Button
            variant="text"
            sx={{ p: 0, minWidth: 0 }}
            disabled={repeat.isPending}
            onClick={() => repeat.mutate(undefined)}
          >
            Repeat on this build
          </Button>
        )}
        {run.log.length > 0 && (
          <Button variant="text" sx={{ p: 0, minWidth: 0 }} onClick={() => setOpen(!open)} aria-expanded={open}>
            {open ? 'Hide the log' : 'Log'}
          </Button>
        )}
      </Box>
      {open && (
        <Box
          component="ol"
          className="mono"
          sx={{ m: 0, mt: 1, p: 0, listStyle: 'none', maxHeight: 260, overflow: 'auto', overflowWrap: 'anywhere' }}
        >
          {run.log.map((line, i) => (
            <li key={`${line.at} ${i}`}>
              <span className="dim">{new Date(line.at).toLocaleTimeString('en-GB')}</span> {line.text}
            </li>
          ))}
        </Box>
      )}
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
  const left = run.done > 0 && seconds > 2 ? Math.round((seconds * (run.total - run.done)) / run.done) : undefined;
  return left === undefined ? done : `${done} · about ${left} s left`;
}
