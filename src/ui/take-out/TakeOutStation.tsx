'use client';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import Link from 'next/link';
import { useRef } from 'react';
import type { TrayChoices } from '../forms';
import { RunCard } from '../runs/RunCard';
import { type BodyOf, call } from '../shared/api';
import { FilePick } from '../shared/FilePick';
import { count, counted, size } from '../shared/format';
import { useNotice } from '../shared/notices';
import { useGameMutation, useRuns, useTray } from '../shared/queries';
import { Empty, Part } from '../shared/states';
import { useStoredState } from '../shared/use-stored-state';
import { AT_FIRST, TakeOutForm } from './TakeOutForm';
import { TrayTable } from './TrayTable';

/** Station Take out: the tray, how it goes out, and what is going out now. */
export function TakeOutStation({ gameId }: { gameId: number }) {
  const { data: tray } = useTray(gameId);
  const { data: runs } = useRuns(gameId);
  const edit = useGameMutation(gameId, (change: BodyOf<'POST games/{game}/tray'>) =>
    call('POST games/{game}/tray', { game: gameId, body: change }),
  );
  const bring = useGameMutation(gameId, (text: string) =>
    call('POST games/{game}/tray/list', { game: gameId, body: { text } }),
  );
  const [kept, setChosen] = useStoredState<TrayChoices>('take-out', AT_FIRST);
  const chosen = { ...AT_FIRST, ...kept };
  const lists = useRef<HTMLInputElement>(null);
  const say = useNotice();
  const bringList = async (file: File) => {
    const { added, unknown, first } = await bring.mutateAsync(await file.text());
    const missing = unknown === 0 ? '' : ` ${counted(unknown, 'line')} fit no entry: ${first.join(', ')}`;
    say({
      tone: unknown === 0 ? 'success' : 'info',
      text: `${counted(added, 'entry', 'entries')} of the list are in the tray.${missing}`,
    });
  };
  if (tray === undefined) return null;
  const going = runs?.filter((run) => run.kind === 'take-out').slice(0, 6) ?? [];
  return (
    <Box sx={{ flex: 1, minHeight: 0, display: 'flex' }}>
      <Box sx={{ flex: 1, minWidth: 0, minHeight: 0, display: 'flex', flexDirection: 'column', p: 2.25 }}>
        <Box sx={{ display: 'flex', alignItems: 'flex-end', mb: 2 }}>
          <Box sx={{ flex: 1 }}>
            <Typography variant="h1">Tray</Typography>
            <Box className="dim">
              {tray.total === 0
                ? 'Entries from anywhere, to take out together'
                : `${counted(tray.total, 'entry', 'entries')}, ${size(tray.bytes)}`}
            </Box>
          </Box>
          <Box sx={{ display: 'flex', gap: 1 }}>
            <Button onClick={() => lists.current?.click()} disabled={bring.isPending}>
              Import a list…
            </Button>
            {tray.total > 0 && (
              <>
                <Button component="a" href={`/api/games/${gameId}/tray/list`} download="tray.txt">
                  Export the list
                </Button>
                <Button onClick={() => edit.mutate({ clear: true })}>Empty the tray</Button>
              </>
            )}
          </Box>
          <FilePick
            pickRef={lists}
            label="The list of paths"
            testId="tray-list"
            onPick={(file) => void bringList(file).catch(() => {})}
          />
        </Box>
        {tray.total === 0 ? (
          <Empty
            title="The tray is empty"
            actions={
              <Button variant="contained" component={Link} href={`/games/${gameId}/find`}>
                Go to Find
              </Button>
            }
          >
            In Find, press T on an entry, or put a whole folder in.
          </Empty>
        ) : (
          <>
            <TrayTable
              chosen={chosen}
              tray={{ parts: new Set(tray.parts), clips: new Set(tray.clips) }}
              rows={tray.rows}
              onRemove={(path) => edit.mutate({ remove: [path] })}
            />
            {tray.rows.length < tray.total && (
              <Box className="dim" sx={{ pt: 1 }}>
                The first {count(tray.rows.length)} are shown; all {count(tray.total)} go out.
              </Box>
            )}
          </>
        )}
      </Box>
      <Box
        component="aside"
        aria-label="How they go out"
        sx={{
          width: 400,
          flex: 'none',
          overflow: 'auto',
          background: 'var(--sheet)',
          borderLeft: '1px solid var(--line)',
          p: 2.25,
        }}
      >
        <TakeOutForm
          gameId={gameId}
          empty={tray.total === 0}
          chosen={chosen}
          choose={(part) => setChosen({ ...chosen, ...part })}
        />
        {going.length > 0 && (
          <Part title="Last taken out">
            {going.map((run) => (
              <RunCard key={run.id} run={run} />
            ))}
          </Part>
        )}
      </Box>
    </Box>
  );
}
