'use client';
import { visible } from '../../core/faults/visible';
import { closestCenter, DndContext, KeyboardSensor, PointerSensor, useSensor, useSensors } from '@dnd-kit/core';
import {
  arrayMove,
  SortableContext,
  sortableKeyboardCoordinates,
  verticalListSortingStrategy,
} from '@dnd-kit/sortable';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import Link from 'next/link';
import { useRef, useState } from 'react';
import type { ArchiveAnswer, GameAnswer } from '../../server/shapes';
import { RunLine } from '../runs/RunLine';
import { call } from '../shared/api';
import { counted, when } from '../shared/format';
import { isGoing, useGameMutation, useGame, useRuns } from '../shared/queries';
import { Empty, FaultNote } from '../shared/states';
import { ArchiveRow } from './ArchiveRow';
import { KeysPanel } from './KeysPanel';
import { LooseFilesCard } from './LooseFilesCard';
import { LoadOrderDialog, orderWords } from './LoadOrderDialog';
import { NamesPanel } from './NamesPanel';
import { ProfileMenu } from './ProfileMenu';
import { ScanNews } from './ScanNews';
import { UnknownFiles } from './UnknownFiles';
import { XorDialog } from './XorDialog';

/** Station Open: the archives of the folder in their load order, their state, the keys and the names. */
export function OpenStation({ gameId }: { gameId: number }) {
  const { data: game } = useGame(gameId);
  const { data: runs } = useRuns(gameId);
  const keyField = useRef<HTMLInputElement>(null);
  const [ruling, setRuling] = useState(false);
  const [solving, setSolving] = useState<ArchiveAnswer>();
  const scan = useGameMutation(gameId, () => call('POST games/{game}/scan', { game: gameId }));
  const lastScan = runs?.find((run) => run.kind === 'scan');
  const scanning = lastScan !== undefined && isGoing(lastScan);
  if (game === undefined) return null;
  const archives = game.archives.filter((archive) => archive.state !== 'unknown');
  const unknown = game.archives.filter((archive) => archive.state === 'unknown');
  return (
    <Box sx={{ flex: 1, minHeight: 0, display: 'flex' }}>
      <Box sx={{ flex: 1, overflow: 'auto', p: 2.25, minWidth: 0 }}>
        <Box sx={{ display: 'flex', alignItems: 'flex-start', mb: 1.5, gap: 1, flexWrap: 'wrap' }}>
          <Box sx={{ flex: '1 1 300px', minWidth: 0 }}>
            <Typography variant="h1">
              {archives.length === 0 && game.loose.files > 0
                ? 'Files of the game'
                : 'Archives in the order the game loads them'}
            </Typography>
            <Box className="dim">
              Later ones win. {orderWords(game)}{' '}
              <Button
                variant="text"
                sx={{ p: 0, minWidth: 0, verticalAlign: 'baseline' }}
                onClick={() => setRuling(true)}
              >
                Change the rule…
              </Button>
            </Box>
          </Box>
          <ProfileMenu game={game} />
          <Button
            variant={archives.length === 0 ? 'contained' : 'outlined'}
            onClick={() => scan.mutate(undefined)}
            disabled={scanning}
          >
            {scanning ? 'Scanning…' : 'Scan the folder again'}
          </Button>
        </Box>
        {scanning && <RunLine run={lastScan} label="Scanning" />}
        {lastScan?.state === 'failed' && (
          <Box sx={{ mb: 1.5 }}>
            <FaultNote>{lastScan.fault?.sentence}</FaultNote>
          </Box>
        )}
        <ScanNews game={game} />
        <Ordered game={game} archives={archives} unlock={() => keyField.current?.focus()} />
        {game.loose.files > 0 && <LooseFilesCard game={game} />}
        {archives.length === 0 && game.loose.files === 0 && !scanning && (
          <Empty
            title="No archive that a recipe knows"
            actions={
              <Button component={Link} href="/">
                Choose another folder
              </Button>
            }
          >
            {unknown.length > 0
              ? `There ${unknown.length === 1 ? 'is' : 'are'} ${counted(unknown.length, 'file')}, but no recipe fits.`
              : 'The folder holds no files.'}
          </Empty>
        )}
        {unknown.length > 0 && <UnknownFiles gameId={gameId} files={unknown} onXor={setSolving} />}
        <Box className="dim" sx={{ mt: 2, overflowWrap: 'anywhere', fontSize: 12 }}>
          {visible(game.folder)}
          {game.scannedAt !== null && ` · scanned ${when(game.scannedAt)}`}
          {game.build !== null && ` · build ${game.build}: ${game.buildFrom}`}
        </Box>
      </Box>
      <Box
        component="aside"
        aria-label="Keys and names"
        sx={{
          width: 348,
          flex: 'none',
          overflow: 'auto',
          background: 'var(--sheet)',
          borderLeft: '1px solid var(--line)',
          p: 2.25,
        }}
      >
        <KeysPanel game={game} runs={runs ?? []} fieldRef={keyField} />
        <NamesPanel game={game} runs={runs ?? []} />
      </Box>
      {ruling && <LoadOrderDialog game={game} onClose={() => setRuling(false)} />}
      {solving !== undefined && <XorDialog gameId={gameId} archive={solving} onClose={() => setSolving(undefined)} />}
    </Box>
  );
}

interface OrderedProps {
  readonly game: GameAnswer;
  readonly archives: readonly ArchiveAnswer[];
  readonly unlock: () => void;
}

/** The archives as rows that can be dragged; the new order holds as soon as one is let go. */
function Ordered({ game, archives, unlock }: OrderedProps) {
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 4 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  );
  const [wanted, setWanted] = useState<readonly string[]>();
  const move = useGameMutation(game.id, (byHand: readonly string[]) =>
    call('PUT games/{game}/load-order', { game: game.id, body: { byHand } }),
  );
  const paths = archives.map(({ path }) => path);
  // Until the server has answered, the rows stay where they were dropped.
  const shown = move.isPending && wanted?.length === paths.length ? wanted : paths;
  const byPath = new Map(archives.map((archive) => [archive.path, archive]));
  return (
    <DndContext
      sensors={sensors}
      collisionDetection={closestCenter}
      onDragEnd={({ active, over }) => {
        if (over === null || active.id === over.id) return;
        const next = arrayMove([...shown], shown.indexOf(String(active.id)), shown.indexOf(String(over.id)));
        setWanted(next);
        move.mutate(next);
      }}
    >
      <SortableContext items={[...shown]} strategy={verticalListSortingStrategy}>
        {shown.flatMap((path) => {
          const archive = byPath.get(path);
          return archive === undefined
            ? []
            : [<ArchiveRow key={archive.id} gameId={game.id} archive={archive} onUnlock={unlock} />];
        })}
      </SortableContext>
    </DndContext>
  );
}
