'use client';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { useEffect, useState, type ReactNode } from 'react';
import { ApiFault } from '../shared/api';
import { useRunEvents } from '../runs/use-run-events';
import { useGame, useRuns } from '../shared/queries';
import { Empty, FaultNote } from '../shared/states';
import { Header } from './Header';
import { KeysDialog } from './KeysDialog';
import { Palette } from './Palette';
import { isTyping } from './shortcuts';
import { STATIONS } from './stations';

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
