'use client';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { useQuery } from '@tanstack/react-query';
import Link from 'next/link';
import { useState } from 'react';
import type { IncomingFiles, ChangeAnswer } from '../../server/shapes';
import { MOST_LISTED_CHANGES } from '../../server/shapes';
import { call } from '../shared/api';
import { counted } from '../shared/format';
import { useGameMutation, useArchive, useChanges, useGame, useWinner } from '../shared/queries';
import { Empty } from '../shared/states';
import { StripFoot } from '../shell/Strip';
import { IncomingFileView } from './IncomingFileView';
import { ChangeFacts } from './ChangeFacts';
import { ChangeList, type Chosen } from './ChangeList';
import { ChangeView } from './ChangeView';
import { NewEntryDialog } from './NewEntryDialog';
import { UnfinishedImports } from './UnfinishedImports';
import { Unfit } from './Unfit';
import { DropZone } from './DropZone';
import { useBringIn } from './use-bring-in';
import { useShown } from './use-shown';

const NOTHING: IncomingFiles = { total: 0, rows: [] };

/** Station Change: what is changed, seen beside what the game has, and what waits for a person on its way in. */
export function ChangeStation({ gameId }: { gameId: number }) {
  const { data: changes } = useChanges(gameId);
  const { data: incomingFiles = NOTHING } = useQuery({
    queryKey: ['game', gameId, 'drops'],
    queryFn: () => call('GET games/{game}/drops', { game: gameId }),
  });
  const { data: tables } = useQuery({
    queryKey: ['game', gameId, 'word-tables'],
    queryFn: () => call('GET games/{game}/words/tables', { game: gameId }),
  });
  const { data: game } = useGame(gameId);
  const { shown, show, onBegin, onEnded } = useShown();
  const bringIn = useBringIn(gameId, onEnded, onBegin);
  const incomingFile = incomingFiles.rows.find(({ id }) => String(id) === shown.get('file')) ?? undefined;
  const path = shown.get('path') ?? changes?.find((one) => !one.undone)?.path ?? changes?.[0]?.path;
  const byId = changes?.find(({ id }) => String(id) === shown.get('change'));
  const change = incomingFile === undefined ? (byId ?? changes?.find((one) => one.path === path)) : undefined;
  const { data: entry } = useWinner(gameId, change?.path);
  const undo = useGameMutation(gameId, (one: ChangeAnswer) =>
    call('PATCH games/{game}/changes/{change}', { game: gameId, change: one.id, body: { undone: !one.undone } }),
  );
  const skipAll = useGameMutation(gameId, async () => {
    const drops = new Set(incomingFiles.rows.map(({ drop }) => drop));
    for (const drop of drops) await call('DELETE games/{game}/drops/{drop}', { game: gameId, drop });
  });
  const archive = useArchive(game, entry?.archive);
  const [adding, setAdding] = useState(false);
  if (changes === undefined || game === undefined) return null;
  const choose = (one: Chosen) => {
    if ('incomingFile' in one) return show({ file: String(one.incomingFile) });
    const chosen = changes.find(({ id }) => id === one.change)!;
    return show({ path: chosen.path, change: String(chosen.id) });
  };
  const chosen: Chosen | undefined =
    incomingFile !== undefined
      ? { incomingFile: incomingFile.id }
      : change !== undefined
        ? { change: change.id }
        : undefined;
  return (
    <>
      <Box sx={{ flex: 1, minHeight: 0, display: 'flex' }}>
        <Box
          component="aside"
          aria-label="Changes"
          sx={{
            width: 330,
            flex: 'none',
            display: 'flex',
            flexDirection: 'column',
            background: 'var(--sheet)',
            borderRight: '1px solid var(--line)',
          }}
        >
          <Box sx={{ p: 1.75, pb: 1 }}>
            <Typography variant="h1" sx={{ mb: 1.5 }}>
              Changes
            </Typography>
            <DropZone bringIn={bringIn} />
            <Button variant="text" sx={{ p: 0, mt: 0.5, minWidth: 0 }} onClick={() => setAdding(true)}>
              Add an entry the game does not have…
            </Button>
            {tables !== undefined && tables.length > 0 && (
              <Button
                variant="text"
                component={Link}
                href={`/games/${gameId}/words`}
                sx={{ p: 0, mt: 0.5, minWidth: 0, display: 'flex', width: 'fit-content' }}
              >
                Work on words: {counted(tables.length, 'table')} of texts…
              </Button>
            )}
          </Box>
          <UnfinishedImports gameId={gameId} bringIn={bringIn} />
          <Unfit gameId={gameId} changes={changes} />
          <ChangeList
            changes={changes}
            incomingFiles={incomingFiles}
            chosen={chosen}
            follow={shown.size > 0}
            onChoose={choose}
            onBack={(one) => undo.mutate(one)}
            onSkipAll={() => skipAll.mutate(undefined)}
            more={
              changes.length < MOST_LISTED_CHANGES
                ? 0
                : Math.max(0, game.changeCount - changes.filter((one) => !one.undone).length)
            }
          />
        </Box>
        {incomingFile !== undefined ? (
          <IncomingFileView
            key={incomingFile.id}
            gameId={gameId}
            incomingFile={incomingFile}
            onSettled={bringIn.goOn}
          />
        ) : change === undefined ? (
          <Box sx={{ flex: 1 }}>
            <Empty
              title="Nothing is changed yet"
              actions={
                <Button component={Link} href={`/games/${gameId}/find`}>
                  Find an entry
                </Button>
              }
            >
              Take something out, edit it with the program you like, and drop it here.
            </Empty>
          </Box>
        ) : (
          <>
            <ChangeView
              gameId={gameId}
              change={change}
              entry={entry}
              onUndo={() => undo.mutate(change)}
              onAgain={(file) => void bringIn.bring([{ file, path: change.path }])}
              onRun={bringIn.watch}
            />
            <ChangeFacts gameId={gameId} change={change} entry={entry} onRun={bringIn.watch} />
          </>
        )}
      </Box>
      {adding && (
        <NewEntryDialog
          gameId={gameId}
          onAdded={({ path, id }) => show({ path, change: String(id) })}
          onClose={() => setAdding(false)}
        />
      )}
      {archive !== undefined && entry !== undefined && change !== undefined && (
        <StripFoot
          title={archive.path}
          note="where this change lies"
          legend={
            <span>
              unchanged · <b style={{ color: 'var(--brass)' }}>changed</b> · index
            </span>
          }
          bands={archive.bands}
          size={archive.size}
          marked={{ at: entry.at, length: entry.stored }}
        />
      )}
    </>
  );
}
