'use client';
import { visible } from '../../core/faults/visible';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Link from 'next/link';
import { usePathname, useRouter } from 'next/navigation';
import { useEffect, useState, type ReactNode } from 'react';
import type { GameAnswer, RunAnswer } from '../../server/shapes';
import { SessionMark } from '../access/SessionMark';
import { ApiFault } from '../shared/api';
import { count, counted } from '../shared/format';
import { Latch } from '../shared/marks';
import { useRunEvents } from '../runs/use-run-events';
import { useGame, useRuns } from '../shared/queries';
import { Empty, FaultNote } from '../shared/states';
import { KeysDialog } from './KeysDialog';
import { Palette } from './Palette';
import { isTyping } from './shortcuts';
import { STATIONS, type StationPath } from './stations';

/** The frame around every station: the way along the top, news of runs, the palette. */
export function Shell({ gameId, children }: { gameId: number; children: ReactNode }) {
  const { data: game, error } = useGame(gameId);
  const { data: runs } = useRuns(gameId);
  const [open, setOpen] = useState<'palette' | 'keys'>();
  const router = useRouter();
  useRunEvents(gameId);
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (event.key.toLowerCase() === 'k' && (event.ctrlKey || event.metaKey)) {
        event.preventDefault();
        setOpen('palette');
      } else if (event.altKey && /^[1-5]$/.test(event.key)) {
        event.preventDefault();
        router.push(`/games/${gameId}/${STATIONS[Number(event.key) - 1]!.path}`);
      } else if (event.key === '?' && !isTyping(event)) setOpen('keys');
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, [gameId, router]);

  if (error instanceof ApiFault && error.status === 404) {
    return (
      <Empty
        title="This game is not here"
        actions={
          <Button component={Link} href="/">
            Choose a game
          </Button>
        }
      >
        It may have been removed. Your folder was not touched.
      </Empty>
    );
  }
  return (
    <Box sx={{ height: '100vh', display: 'flex', flexDirection: 'column', minWidth: 1024 }}>
      <Header gameId={gameId} game={game} runs={runs ?? []} onPalette={() => setOpen('palette')} />
      {error !== null && (
        <Box sx={{ px: 2, py: 1 }}>
          <FaultNote tone="brass">{error.message}</FaultNote>
        </Box>
      )}
      <Box component="main" sx={{ flex: 1, minHeight: 0, display: 'flex', flexDirection: 'column' }}>
        {children}
      </Box>
      <Palette
        gameId={gameId}
        open={open === 'palette'}
        onClose={() => setOpen(undefined)}
        onKeys={() => setOpen('keys')}
      />
      <KeysDialog open={open === 'keys'} onClose={() => setOpen(undefined)} />
    </Box>
  );
}

function Header({
  gameId,
  game,
  runs,
  onPalette,
}: {
  gameId: number;
  game: GameAnswer | undefined;
  runs: readonly RunAnswer[];
  onPalette: () => void;
}) {
  const pathname = usePathname();
  const working = runs.find((run) => run.state === 'working' || run.state === 'stopping');
  const waiting = runs.filter((run) => run.state === 'interrupted').length;
  return (
    <Box
      component="header"
      sx={{
        height: 56,
        flex: 'none',
        display: 'flex',
        background: 'var(--sheet)',
        borderBottom: '1px solid var(--line)',
      }}
    >
      <Box
        component={Link}
        href="/"
        sx={{
          width: 216,
          flex: 'none',
          px: 2,
          py: 1.1,
          borderRight: '1px solid var(--line)',
          color: 'inherit',
          textDecoration: 'none',
          lineHeight: 1.35,
        }}
        title="Choose another game"
      >
        <Box sx={{ fontSize: 16, fontWeight: 700, letterSpacing: 0.2 }}>Zero Latch</Box>
        <Box className="dim" sx={{ fontSize: 12, overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' }}>
          {game === undefined ? ' ' : visible(`${game.name}${game.build === null ? '' : ` · build ${game.build}`}`)}
        </Box>
      </Box>
      <Box component="nav" aria-label="Steps" sx={{ display: 'flex', flex: 1, minWidth: 0 }}>
        {STATIONS.map((station) => {
          // Words are worked on as changes are, and records are found.
          const on =
            pathname.endsWith(`/${station.path}`) ||
            (station.path === 'change' && pathname.endsWith('/words')) ||
            (station.path === 'find' && pathname.endsWith('/records'));
          const { line, done } = game === undefined ? { line: '…', done: true } : stationLine(station.path, game);
          return (
            <Box
              key={station.path}
              component={Link}
              href={`/games/${gameId}/${station.path}`}
              aria-current={on ? 'page' : undefined}
              sx={{
                flex: 1,
                minWidth: 0,
                px: 1.75,
                pt: 1.1,
                position: 'relative',
                borderRight: '1px solid var(--line)',
                color: 'inherit',
                textDecoration: 'none',
                background: on ? 'var(--paper)' : undefined,
                boxShadow: on ? 'inset 0 -3px 0 var(--teal)' : undefined,
                '&:hover': { background: 'var(--paper)' },
              }}
            >
              <Box
                sx={{
                  fontWeight: 600,
                  fontSize: 14,
                  display: 'flex',
                  justifyContent: 'space-between',
                  alignItems: 'center',
                }}
              >
                {station.name}
                <Latch state={done ? 'open' : 'waiting'} tone={done ? 'teal' : 'brass'} />
              </Box>
              <Box
                className="dim"
                sx={{ fontSize: 12, overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' }}
              >
                {line}
              </Box>
            </Box>
          );
        })}
      </Box>
      <Box
        sx={{
          flex: 'none',
          display: 'flex',
          alignItems: 'center',
          gap: 1.75,
          px: 1.75,
          '& a': { color: 'inherit', textDecoration: 'none' },
          '& a[aria-current]': { color: 'var(--teal)', fontWeight: 700 },
        }}
      >
        <Link href={`/games/${gameId}/recipes`} aria-current={pathname.endsWith('/recipes') ? 'page' : undefined}>
          Recipes
        </Link>
        <Link href={`/games/${gameId}/runs`} aria-current={pathname.endsWith('/runs') ? 'page' : undefined}>
          Runs
          {working !== undefined && <RunChip run={working} />}
          {working === undefined && waiting > 0 && (
            <Box component="span" sx={chip}>
              {waiting} stopped
            </Box>
          )}
        </Link>
        <SessionMark />
        <Button
          variant="text"
          onClick={onPalette}
          sx={{ px: 0.75, minWidth: 0, color: 'var(--dim)' }}
          aria-label="Find anything (Ctrl K)"
        >
          Ctrl K
        </Button>
      </Box>
    </Box>
  );
}

const chip = { ml: 1, px: 1.1, py: 0.4, border: '1px solid var(--brass-mark)', borderRadius: 7, fontSize: 12 } as const;

function RunChip({ run }: { run: RunAnswer }) {
  return (
    <Box component="span" sx={chip}>
      {run.total > 0 ? `${Math.floor((100 * run.done) / run.total)}%` : 'working'}
    </Box>
  );
}

/** The live line of a station, and whether it needs nothing from the person. */
function stationLine(path: StationPath, game: GameAnswer): { line: string; done: boolean } {
  const locked = game.archives.filter((archive) => archive.state === 'locked').length;
  const damaged = game.archives.filter((archive) => archive.state === 'damaged').length;
  const archives = game.archives.filter((archive) => archive.state !== 'unknown').length;
  switch (path) {
    case 'open': {
      const unsure = game.archives.filter((archive) => archive.state === 'unsure').length;
      const more = [
        unsure > 0 ? `${unsure} to choose` : '',
        locked > 0 ? `${locked} locked` : '',
        damaged > 0 ? `${damaged} damaged` : '',
      ].filter((part) => part !== '');
      const { files } = game.loose;
      const first = archives === 0 && files > 0 ? counted(files, 'loose file') : counted(archives, 'archive');
      return { line: [first, ...more].join(' · '), done: archives + files > 0 && more.length === 0 };
    }
    case 'find':
      return { line: counted(game.entryCount, 'entry', 'entries'), done: game.entryCount > 0 };
    case 'take-out':
      return { line: game.trayCount === 0 ? 'the tray is empty' : `${count(game.trayCount)} in the tray`, done: true };
    case 'change':
      return {
        line: [
          game.changeCount === 0 ? 'nothing changed' : `${count(game.changeCount)} changed`,
          ...(game.waitingFiles === 0 ? [] : [counted(game.waitingFiles, 'file waits', 'files wait')]),
        ].join(' · '),
        done: game.waitingFiles === 0,
      };
    case 'put-back':
      if (game.changeCount === 0 && game.lastBuild === null) return { line: 'nothing to put back', done: true };
      if (game.behind > 0)
        return {
          line: game.lastBuild === null ? 'not built yet' : `build is ${counted(game.behind, 'change')} behind`,
          done: false,
        };
      return { line: game.installed ? 'in the game folder' : `build #${game.lastBuild} is ready`, done: true };
    default:
      return path satisfies never;
  }
}
