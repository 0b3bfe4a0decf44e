import { visible } from '../../core/faults/visible';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Link from 'next/link';
import { usePathname } from 'next/navigation';
import type { GameAnswer, RunAnswer } from '../../server/shapes';
import { SessionMark } from '../access/SessionMark';
import { Latch } from '../shared/marks';
import { stationLine } from './station-line';
import { STATIONS } from './stations';

/** The game, the stations with their live lines, and what is not a station. */
export function Header({
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
