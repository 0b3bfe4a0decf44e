'use client';
import { sayNote } from '../../core/notes';
import { visible } from '../../core/faults/visible';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { useQuery } from '@tanstack/react-query';
import Link from 'next/link';
import { useState } from 'react';
import type { ChangeAnswer, EntryDetails, FitOptions, RunAnswer } from '../../server/shapes';
import { formView } from '../forms';
import { call } from '../shared/api';
import { counted, fileName, size, when } from '../shared/format';
import { useGameMutation } from '../shared/queries';
import { Part } from '../shared/states';

interface Props {
  readonly gameId: number;
  readonly change: ChangeAnswer;
  /** A run was started that makes it again. */
  readonly onRun: (run: RunAnswer) => void;
}
interface Entry {
  readonly entry: EntryDetails | undefined;
}

/** Entries that change with one, which are named. */
const MOST_COMPANIONS = 8;

/** What the game expects back, what was done to get there, and what else belongs to the change. */
export function ChangeFacts({ gameId, change, entry, onRun }: Props & Entry) {
  const undoAll = useGameMutation(gameId, () =>
    call('PATCH games/{game}/drops/{drop}', { game: gameId, drop: change.drop!, body: { undone: true } }),
  );
  return (
    <Box
      component="aside"
      aria-label="What the game expects back"
      sx={{
        width: 300,
        flex: 'none',
        overflow: 'auto',
        background: 'var(--sheet)',
        borderLeft: '1px solid var(--line)',
        p: 1.75,
        pb: 0,
      }}
    >
      <Typography variant="h2" sx={{ mb: 1 }}>
        What the game expects back
      </Typography>
      {entry?.expects.map((line) => (
        <Box key={line} sx={{ display: 'flex', gap: 1.25, mb: 1 }}>
          <span style={{ color: 'var(--teal)' }}>✓</span>
          <span>{line}</span>
        </Box>
      ))}
      {change.fitNotes.length > 0 && (
        <Part title="Made to fit">
          {change.fitNotes.map((note) => (
            <Box key={JSON.stringify(note)} sx={{ overflowWrap: 'anywhere' }}>
              {sayNote(note)}
            </Box>
          ))}
        </Part>
      )}
      <FitChoices gameId={gameId} change={change} entry={entry} onRun={onRun} />
      {change.companions.length > 0 && (
        <Part title="Changes with it">
          {change.companions.slice(0, MOST_COMPANIONS).map((one) => (
            <Box key={one} className="mono" sx={{ overflowWrap: 'anywhere' }}>
              {fileName(one)}
            </Box>
          ))}
          {change.companions.length > MOST_COMPANIONS && (
            <Box className="dim">and {counted(change.companions.length - MOST_COMPANIONS, 'other')}</Box>
          )}
        </Part>
      )}
      <OtherLanguages gameId={gameId} change={change} onRun={onRun} />
      <Part title="Size">{entry === undefined ? '' : `${size(entry.size)} before, ${size(change.size)} after`}</Part>
      <Part title="Added">
        {when(change.createdAt)}
        {change.matchedBy !== null && `, ${sayNote(change.matchedBy)}`}
        {change.dropCount > 1 && !change.undone && (
          <div>
            with {counted(change.dropCount - 1, 'other')}.{' '}
            <Button variant="inline" disabled={undoAll.isPending} onClick={() => undoAll.mutate(undefined)}>
              Undo all {change.dropCount.toLocaleString('en')}
            </Button>
          </div>
        )}
      </Part>
      <Note key={change.id} gameId={gameId} change={change} />
      <Box sx={{ position: 'sticky', bottom: 0, background: 'var(--sheet)', pt: 1, pb: 1.75 }}>
        <Button variant="contained" component={Link} href={`/games/${gameId}/put-back`}>
          Put back…
        </Button>
      </Box>
    </Box>
  );
}

/** Kept when the field is left. */
function Note({ gameId, change }: Omit<Props, 'onRun'>) {
  const [typed, setTyped] = useState<string>();
  const keep = useGameMutation(gameId, (note: string) =>
    call('PATCH games/{game}/changes/{change}', { game: gameId, change: change.id, body: { note } }),
  );
  return (
    <Part title="Note">
      <TextField
        fullWidth
        multiline
        maxRows={8}
        size="small"
        placeholder="Why, for whom, what is left"
        value={typed ?? change.note}
        onChange={(event) => setTyped(event.target.value)}
        onBlur={() => {
          if (typed !== undefined && typed !== change.note) keep.mutate(typed);
        }}
        slotProps={{ htmlInput: { 'aria-label': 'Note', maxLength: 4000 } }}
      />
    </Part>
  );
}

/** How it was made to fit, where a person may choose; the file is made to fit again. */
function FitChoices({ gameId, change, entry, onRun }: Props & Entry) {
  const again = useGameMutation(gameId, (fitOptions: FitOptions) =>
    call('POST games/{game}/changes/{change}/again', { game: gameId, change: change.id, body: fitOptions }),
  );
  const { fitOptions, kind, undone } = change;
  const Choices = formView(kind)?.FitChoices;
  if (fitOptions === null || undone || Choices === undefined) return null;
  return (
    <Choices
      change={change}
      facts={entry?.facts ?? null}
      fitOptions={fitOptions}
      isBusy={again.isPending}
      onFit={(next) => again.mutate(next, { onSuccess: onRun })}
    />
  );
}

/** The same entry in other languages: what of it not changed. */
function OtherLanguages({ gameId, change, onRun }: Props) {
  const { data } = useQuery({
    queryKey: ['game', gameId, 'other-languages', change.path],
    queryFn: () => call('GET games/{game}/other-languages', { game: gameId, query: { path: change.path } }),
  });
  const also = useGameMutation(gameId, (paths: readonly string[]) =>
    call('POST games/{game}/changes/{change}/also', { game: gameId, change: change.id, body: { paths } }),
  );
  if (data === undefined || data.length === 0 || change.undone) return null;
  const old = data.filter(({ changed }) => !changed).map(({ path }) => path);
  return (
    <Part title="In other languages">
      {data.map(({ path, changed }) => (
        <Box key={path} sx={{ display: 'flex', gap: 1 }}>
          <Box className="mono" sx={{ flex: 1, overflowWrap: 'anywhere' }}>
            {visible(path)}
          </Box>
          <span style={{ color: changed ? 'var(--teal)' : 'var(--brass)' }}>{changed ? 'changed' : 'not changed'}</span>
        </Box>
      ))}
      {old.length > 0 && change.fitOptions !== null && change.kind === 'sound' && (
        <Button sx={{ mt: 0.75 }} disabled={also.isPending} onClick={() => also.mutate(old, { onSuccess: onRun })}>
          Replace it there too
        </Button>
      )}
    </Part>
  );
}
