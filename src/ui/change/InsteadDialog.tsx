'use client';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Checkbox from '@mui/material/Checkbox';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import FormControlLabel from '@mui/material/FormControlLabel';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { call } from '../shared/api';
import { counted, fileName } from '../shared/format';
import { useGameMutation } from '../shared/queries';
import { FaultNote } from '../shared/states';
import { EntryPick } from './EntryPick';

interface Pair {
  readonly path: string;
  readonly from: string;
}

/** Another entry of the game in the place of this one, with what belongs to it. */
export function InsteadDialog({
  gameId,
  path,
  onStarted,
  onClose,
}: {
  gameId: number;
  path: string;
  onStarted: (drop: number) => void;
  onClose: () => void;
}) {
  const [from, setFrom] = useState<string>();
  const [without, setWithout] = useState<ReadonlySet<string>>(new Set());
  const { data, error } = useQuery({
    queryKey: ['game', gameId, 'instead', path, from],
    queryFn: () => call('GET games/{game}/instead', { game: gameId, query: { path, from: from! } }),
    enabled: from !== undefined,
    retry: false,
  });
  const start = useGameMutation(
    gameId,
    async (pairs: readonly Pair[]) => {
      const { id } = await call('POST games/{game}/drops', { game: gameId, body: { files: [] } });
      await call('POST games/{game}/drops/{drop}/instead', { game: gameId, drop: id, body: { pairs } });
      return id;
    },
    { showsFault: true },
  );
  const along = data?.pairs.filter((pair) => !without.has(pair.path)) ?? [];
  const go = () =>
    from !== undefined &&
    start.mutate([{ path, from }, ...along], {
      onSuccess: (drop) => {
        onStarted(drop);
        onClose();
      },
    });
  const toggle = (one: string) => {
    const next = new Set(without);
    if (!next.delete(one)) next.add(one);
    setWithout(next);
  };
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="sm">
      <DialogTitle sx={{ fontSize: 16, fontWeight: 600 }}>Another entry in the place of {fileName(path)}</DialogTitle>
      <DialogContent>
        <EntryPick gameId={gameId} label="The entry that goes there" onPick={setFrom} />
        {from !== undefined && (
          <Box sx={{ mt: 1.5, overflowWrap: 'anywhere' }}>
            <b>{from}</b> takes the place of <span className="mono">{path}</span>, made to fit.
          </Box>
        )}
        {data !== undefined && !data.known && (
          <Box className="dim" sx={{ mt: 1 }}>
            References have not been scanned yet, so only this entry is changed. Scan them in Find, under “Belongs
            together”.
          </Box>
        )}
        {data !== undefined && data.pairs.length > 0 && (
          <Box role="group" aria-label="What changes with it" sx={{ mt: 1.5, display: 'grid' }}>
            <b>Change what belongs to it too</b>
            {data.pairs.map((pair) => (
              <FormControlLabel
                key={pair.path}
                control={<Checkbox size="small" checked={!without.has(pair.path)} onChange={() => toggle(pair.path)} />}
                label={`${fileName(pair.from)} for ${fileName(pair.path)}`}
              />
            ))}
          </Box>
        )}
        {data !== undefined && data.stays.length > 0 && (
          <Box sx={{ mt: 1 }}>
            <FaultNote tone="brass">
              Not changed, because the other entry has no counterpart: {data.stays.map(fileName).join(', ')}.
            </FaultNote>
          </Box>
        )}
        {[error, start.error].map(
          (one) =>
            one !== null && (
              <Box key={one.message} sx={{ mt: 1 }}>
                <FaultNote>{one.message}</FaultNote>
              </Box>
            ),
        )}
      </DialogContent>
      <DialogActions>
        <Button variant="text" onClick={onClose}>
          Cancel
        </Button>
        <Button variant="contained" disabled={data === undefined || start.isPending} onClick={go}>
          Change {counted(along.length + 1, 'entry', 'entries')}
        </Button>
      </DialogActions>
    </Dialog>
  );
}
