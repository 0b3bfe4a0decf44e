'use client';
import { visible } from '../../core/faults/visible';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogTitle from '@mui/material/DialogTitle';
import LinearProgress from '@mui/material/LinearProgress';
import { useEffect, useState } from 'react';
import type { ArchiveAnswer } from '../../server/shapes';
import { call } from '../shared/api';
import { counted } from '../shared/format';

interface Props {
  readonly gameId: number;
  readonly archives: readonly ArchiveAnswer[];
  readonly text: string;
  readonly onClose: () => void;
}

interface Outcome {
  readonly path: string;
  readonly opens: boolean;
  readonly words: string;
}

/** The recipe in the editor on every file of the game, one after the other; closing stops it. */
export function TryAllDialog({ gameId, archives, text, onClose }: Props) {
  const [outcomes, setOutcomes] = useState<readonly Outcome[]>([]);
  useEffect(() => {
    const stop = new AbortController();
    const work = async () => {
      for (const { id, path } of archives) {
        const outcome = await tryOne(gameId, id, path, text, stop.signal);
        if (stop.signal.aborted) return;
        setOutcomes((before) => [...before, outcome]);
      }
    };
    void work();
    return () => stop.abort();
  }, [archives, gameId, text]);
  const done = outcomes.length === archives.length;
  return (
    <Dialog open onClose={onClose} maxWidth="md" fullWidth aria-labelledby="try-all-title">
      <DialogTitle id="try-all-title">
        {done
          ? `Reads ${outcomes.filter(({ opens }) => opens).length} of ${counted(archives.length, 'file')}`
          : `Trying ${outcomes.length + 1} of ${counted(archives.length, 'file')}`}
      </DialogTitle>
      {!done && <LinearProgress variant="determinate" value={(100 * outcomes.length) / archives.length} aria-label="Files tried" />}
      <Box component="ul" sx={{ m: 0, px: 3, pb: 1, listStyle: 'none', maxHeight: 420, overflow: 'auto' }}>
        {outcomes.map(({ path, opens, words }) => (
          <Box component="li" key={path} sx={{ display: 'flex', gap: 1.5, py: 0.5, overflowWrap: 'anywhere' }}>
            <Box component="span" sx={{ width: 12, color: opens ? 'var(--teal)' : 'var(--dim)', fontWeight: 700 }}>
              {opens ? '✓' : '·'}
            </Box>
            <Box component="span" className="mono" sx={{ flex: '0 0 34%' }}>
              {visible(path)}
            </Box>
            <span className={opens ? undefined : 'dim'}>{words}</span>
          </Box>
        ))}
      </Box>
      <DialogActions>
        <Button variant="contained" onClick={onClose}>
          {done ? 'Close' : 'Stop'}
        </Button>
      </DialogActions>
    </Dialog>
  );
}

async function tryOne(gameId: number, archiveId: number, path: string, text: string, signal: AbortSignal): Promise<Outcome> {
  try {
    const answer = await call('POST recipes/try', { body: { text, gameId, archiveId, quick: true }, signal });
    if (answer.fault !== null) return { path, opens: false, words: answer.fault.sentence };
    const odd = answer.complaints?.length ?? 0;
    return { path, opens: true, words: `${counted(answer.entries ?? 0, 'entry', 'entries')}${odd > 0 ? `, ${counted(odd, 'complaint')}` : ''}` };
  } catch (error) {
    return { path, opens: false, words: error instanceof Error ? error.message : String(error) };
  }
}
