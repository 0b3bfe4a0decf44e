'use client';
import { sayNote } from '../../core/notes';
import { visible } from '../../core/faults/visible';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { useRef, useState } from 'react';
import type { GameAnswer, NameListAnswer, RunAnswer } from '../../server/shapes';
import { call } from '../shared/api';
import { RunLine } from '../runs/RunLine';
import { Card } from '../shared/Card';
import { FilePick } from '../shared/FilePick';
import { count, counted } from '../shared/format';
import { isGoing, useGameMutation } from '../shared/queries';
import { FaultNote } from '../shared/states';
import { PatternDialog } from './PatternDialog';

/** Names for archives that keep only hashes of them: how many are known, from which lists, and ways to more. */
export function NamesPanel({ game, runs }: { game: GameAnswer; runs: readonly RunAnswer[] }) {
  const [guessing, setGuessing] = useState(false);
  const file = useRef<HTMLInputElement>(null);
  const add = useGameMutation(
    game.id,
    (list: File) => call('POST games/{game}/names', { game: game.id, query: { name: list.name }, send: list }),
    { showsFault: true },
  );
  const harvest = useGameMutation(game.id, () => call('POST games/{game}/names/harvest', { game: game.id }));
  const hashed = game.archives.filter((archive) => archive.hashed);
  if (hashed.length === 0) return null;
  const run = runs.find((one) => one.kind === 'names' && isGoing(one));
  return (
    <Box role="group" aria-label="Names">
      <Typography variant="h2" sx={{ mb: 0.5 }}>
        Names
      </Typography>
      {hashed.map((archive) => (
        <Box key={archive.id} sx={{ mb: 1 }}>
          {visible(archive.path)} keeps hashes, not names.{' '}
          <b>
            {count(archive.named)} of {count(archive.entryCount)}
          </b>{' '}
          {archive.named === archive.entryCount ? 'are named.' : 'are named; the others go by their hash.'}
        </Box>
      ))}
      {game.nameLists.map((list) => (
        <ListCard key={list.id} gameId={game.id} list={list} />
      ))}
      {run !== undefined && (
        <RunLine run={run} label="Testing names">
          {run.done > 0 && run.unit === 'names' ? `${count(run.done)} tested` : undefined}
        </RunLine>
      )}
      {add.error !== null && <FaultNote>{add.error.message}</FaultNote>}
      <Box sx={{ display: 'flex', gap: 1, flexWrap: 'wrap', mt: 1 }}>
        <Button onClick={() => file.current?.click()} disabled={add.isPending}>
          {add.isPending ? 'Sending…' : 'Add a name list…'}
        </Button>
        <Button onClick={() => setGuessing(true)}>Guess from patterns…</Button>
        <Button
          onClick={() => harvest.mutate(undefined)}
          disabled={run !== undefined}
          title="Looks for paths in texts, tables and programs of the game, and tries them"
        >
          Look in the game’s own files
        </Button>
      </Box>
      <FilePick pickRef={file} label="A name list" testId="name-list-file" onPick={(list) => add.mutate(list)} />
      {guessing && <PatternDialog gameId={game.id} onClose={() => setGuessing(false)} />}
    </Box>
  );
}

function ListCard({ gameId, list }: { gameId: number; list: NameListAnswer }) {
  const [all, setAll] = useState(false);
  const remove = useGameMutation(gameId, () =>
    call('DELETE games/{game}/names/{list}', { game: gameId, list: list.id }),
  );
  return (
    <Card data-testid={`names ${list.name}`}>
      <Box sx={{ display: 'flex' }}>
        <Box sx={{ flex: 1, minWidth: 0, overflowWrap: 'anywhere' }}>
          <b className={list.kind === 'pattern' ? 'mono' : ''}>{list.name}</b>
          <Box className="dim">
            {counted(list.matched, 'name')} of {count(list.tested)} fit
          </Box>
        </Box>
        <Button
          variant="text"
          sx={{ alignSelf: 'flex-start', px: 0.5 }}
          aria-label={`Remove ${list.name}`}
          title="Names that only this list provides are removed too."
          onClick={() => remove.mutate(undefined)}
        >
          Remove
        </Button>
      </Box>
      {list.notes.length > 0 && (
        <Box sx={{ color: 'var(--brass)', fontSize: 12, overflowWrap: 'anywhere' }}>
          {list.notes
            .slice(0, all ? undefined : 2)
            .map(sayNote)
            .map((line) => (
              <div key={line}>{line}</div>
            ))}
          {list.notes.length > 2 && (
            <Button variant="text" sx={{ p: 0, fontSize: 12 }} onClick={() => setAll(!all)}>
              {all ? 'Fewer' : `${count(list.notes.length - 2)} more like these`}
            </Button>
          )}
        </Box>
      )}
    </Card>
  );
}
