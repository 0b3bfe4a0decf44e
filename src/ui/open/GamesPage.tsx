'use client';
import { visible } from '../../core/faults/visible';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Link from '@mui/material/Link';
import Typography from '@mui/material/Typography';
import NextLink from 'next/link';
import { useRouter } from 'next/navigation';
import { useState, type ReactNode } from 'react';
import type { GameRow } from '../../server/shapes';
import { SessionMark } from '../access/SessionMark';
import { call } from '../shared/api';
import { counted } from '../shared/format';
import { useGameMutation, useGames, usePlaces } from '../shared/queries';
import { Empty, FaultNote } from '../shared/states';
import { FolderDialog } from '../shared/FolderDialog';
import { SendGameDialog } from './SendGameDialog';

/** Which game to work on. */
export function GamesPage() {
  const router = useRouter();
  const { data: games, error } = useGames();
  const { data: places } = usePlaces('');
  const [choosing, setChoosing] = useState(false);
  const [sending, setSending] = useState(false);
  const add = useGameMutation(undefined, (folder: string) => call('POST games', { body: { folder } }));
  const forget = useGameMutation(undefined, (game: number) => call('DELETE games/{game}', { game }));
  const bringBack = useGameMutation(undefined, (game: number) => call('POST games/{game}/bring-back', { game }));
  const destroy = useGameMutation(undefined, (game: number) =>
    call('DELETE games/{game}', { game, query: { 'for-good': '' } }),
  );
  const [sure, setSure] = useState<number>();
  const take = async (folder: string) => {
    setChoosing(false);
    const { game } = await add.mutateAsync(folder);
    router.push(`/games/${game.id}/open`);
  };
  const demo = places?.demo ?? null;
  const known = games?.filter(({ forgottenAt }) => forgottenAt === null) ?? [];
  const forgotten = games?.filter(({ forgottenAt }) => forgottenAt !== null) ?? [];
  const demoIsKnown = known.some((game) => game.folder === demo);
  return (
    <Box component="main" sx={{ maxWidth: 760, mx: 'auto', p: 4 }}>
      <Box sx={{ display: 'flex', alignItems: 'baseline', gap: 2 }}>
        <Typography variant="h1" sx={{ fontSize: 24, flex: 1 }}>
          Zero Latch
        </Typography>
        <SessionMark />
      </Box>
      <Box className="dim" sx={{ mb: 3 }}>
        Open a game’s archives, take things out, change them, and put them back so that the game loads them.
      </Box>
      {error !== null && <FaultNote tone="brass">{error.message}</FaultNote>}
      {games !== undefined && known.length === 0 && (
        <Empty
          title="Point at a game’s folder"
          actions={
            <>
              <Button variant="contained" onClick={() => setChoosing(true)}>
                Choose a folder…
              </Button>
              <Button onClick={() => setSending(true)}>Send a game…</Button>
              {demo !== null && (
                <Button onClick={() => void take(demo).catch(() => {})} disabled={add.isPending}>
                  Try the demo game, Gondola Post
                </Button>
              )}
            </>
          }
        >
          The folder is only read until you put a build into it, and then the originals are kept.
        </Empty>
      )}
      {known.length > 0 && (
        <>
          {known.map((game) => (
            <GameCard key={game.id} game={game}>
              <Button
                variant="text"
                onClick={() => forget.mutate(game.id)}
                title="Sets the game aside. Its keys, changes and builds are kept; the folder is not touched."
              >
                Forget
              </Button>
              <Button variant="contained" onClick={() => router.push(`/games/${game.id}/open`)}>
                Open
              </Button>
            </GameCard>
          ))}
          <Box sx={{ display: 'flex', gap: 1, mt: 2 }}>
            <Button onClick={() => setChoosing(true)}>Another folder…</Button>
            <Button onClick={() => setSending(true)}>Send a game…</Button>
            {demo !== null && !demoIsKnown && (
              <Button onClick={() => void take(demo).catch(() => {})}>The demo game</Button>
            )}
          </Box>
        </>
      )}
      {forgotten.length > 0 && (
        <Box component="section" sx={{ mt: 4 }}>
          <Typography variant="h3" component="h2" sx={{ mb: 0.75 }}>
            Forgotten games
          </Typography>
          {forgotten.map((game) => (
            <GameCard key={game.id} game={game}>
              {sure === game.id ? (
                <>
                  <span>Its keys, changes and builds are deleted with it.</span>
                  <Button variant="text" onClick={() => setSure(undefined)}>
                    Keep it
                  </Button>
                  <Button color="error" onClick={() => destroy.mutate(game.id)}>
                    Delete for good
                  </Button>
                </>
              ) : (
                <>
                  <Button variant="text" onClick={() => setSure(game.id)}>
                    Delete…
                  </Button>
                  <Button onClick={() => bringBack.mutate(game.id)}>Bring back</Button>
                </>
              )}
            </GameCard>
          ))}
        </Box>
      )}
      {games !== undefined && games.length > 0 && (
        <Box sx={{ mt: 4 }}>
          <Link component={NextLink} href="/storage">
            Storage: what is kept on disk, and what can go
          </Link>
        </Box>
      )}
      {sending && (
        <SendGameDialog
          onClose={() => setSending(false)}
          onSent={(name) => {
            setSending(false);
            if (places !== undefined) void take(`${places.sent}/${name}`).catch(() => {});
          }}
        />
      )}
      <FolderDialog
        open={choosing}
        title="Which folder is the game in?"
        verb="This is the game"
        onClose={() => setChoosing(false)}
        onChoose={(folder) => void take(folder).catch(() => {})}
      />
    </Box>
  );
}

function GameCard({ game, children }: { game: GameRow; children: ReactNode }) {
  return (
    <Box
      data-testid={`game ${game.name}`}
      sx={{
        display: 'flex',
        alignItems: 'center',
        gap: 2,
        border: '1px solid var(--line)',
        borderRadius: 1.5,
        background: 'var(--sheet)',
        px: 2,
        py: 1.25,
        mb: 1,
      }}
    >
      <Box sx={{ flex: 1, minWidth: 0 }}>
        <b>{visible(game.name)}</b>
        <span className="dim">
          {game.build !== null && ` · build ${game.build}`} · {counted(game.archives, 'archive')}
        </span>
        <Box className="mono dim" sx={{ overflowWrap: 'anywhere' }}>
          {visible(game.folder)}
        </Box>
      </Box>
      {children}
    </Box>
  );
}
