'use client';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { useRef } from 'react';
import type { ChangeAnswer, EntryDetails } from '../../server/shapes';
import { Comparison } from '../preview/Comparison';
import { entryUrl } from '../shared/api';
import { FilePick } from '../shared/FilePick';
import { fileName, folderOf } from '../shared/format';

/** A change beside what the game has. */
export function ChangeView({
  gameId,
  change,
  entry,
  onUndo,
  onAgain,
}: {
  gameId: number;
  change: ChangeAnswer;
  entry: EntryDetails | undefined;
  onUndo: () => void;
  onAgain: (file: File) => void;
}) {
  const again = useRef<HTMLInputElement>(null);
  const { packed, told } = change;
  return (
    <Box sx={{ flex: 1, minWidth: 0, overflow: 'auto', p: 2.25 }}>
      <Box sx={{ mb: 1.5 }}>
        <Typography variant="h1" component="h2" sx={{ display: 'inline', mr: 1, overflowWrap: 'anywhere' }}>
          {fileName(change.path)}
        </Typography>
        <span className="mono dim">{folderOf(change.path)}</span>
      </Box>
      {entry !== undefined && (
        <Comparison
          kind={entry.kind}
          name={entry.name}
          before={{ label: 'Before', url: entryUrl(gameId, entry, 'bytes'), size: entry.size, packed, told }}
          after={{
            label: 'After, as the game will have it',
            url: `/api/games/${gameId}/changes/${change.id}/bytes`,
            ...{ size: change.size, packed, told },
          }}
        />
      )}
      <Box sx={{ display: 'flex', gap: 1, mt: 1.75 }}>
        <Button onClick={onUndo}>{change.undone ? 'Bring it back' : 'Undo'}</Button>
        <Button onClick={() => again.current?.click()}>Change it again…</Button>
        <FilePick pickRef={again} label="The file for this entry" testId="change-again" onPick={onAgain} />
      </Box>
    </Box>
  );
}
