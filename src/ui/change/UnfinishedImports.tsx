'use client';
import { visible } from '../../core/faults/visible';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { useQuery } from '@tanstack/react-query';
import { useRef } from 'react';
import type { UnfinishedImport } from '../../server/shapes';
import { call } from '../shared/api';
import { count, counted, when } from '../shared/format';
import { useGameMutation } from '../shared/queries';
import { FaultNote } from '../shared/states';
import type { BringIn } from './use-bring-in';

/** An import whose last file came longer ago than this is not being sent any more. */
const QUIET_MS = 10_000;
const ASK_AGAIN_MS = 5_000;
const MOST_NAMED = 4;

/** Imports that a reload or a lost connection cut off while their files were sent. */
export function UnfinishedImports({ gameId, bringIn }: { gameId: number; bringIn: BringIn }) {
  const { data = [] } = useQuery({
    queryKey: ['game', gameId, 'unfinished'],
    queryFn: () => call('GET games/{game}/drops/unfinished', { game: gameId }),
    // While one is there, it is being sent, or waits for someone.
    refetchInterval: ({ state }) => ((state.data?.length ?? 0) > 0 ? ASK_AGAIN_MS : false),
  });
  const cutOff = data.filter(({ id, quietFor }) => id !== bringIn.drop && quietFor > QUIET_MS);
  return cutOff.map((one) => <Unfinished key={one.id} gameId={gameId} unfinished={one} bringIn={bringIn} />);
}

function Unfinished({
  gameId,
  unfinished,
  bringIn,
}: {
  gameId: number;
  unfinished: UnfinishedImport;
  bringIn: BringIn;
}) {
  const { id, total, received, missing, createdAt } = unfinished;
  const files = useRef<HTMLInputElement>(null);
  const forget = useGameMutation(gameId, () => call('DELETE games/{game}/drops/{drop}', { game: gameId, drop: id }));
  const lacks = total - received;
  return (
    <Box sx={{ px: 2, pb: 1 }}>
      <FaultNote tone="brass">
        {lacks === 0 ? (
          `An import of ${when(createdAt)} was cut off behind its last file: ${total === 1 ? 'it came' : `all ${count(total)} came`}.`
        ) : (
          <>
            An import of {when(createdAt)} was cut off: {count(received)} of {counted(total, 'file')} came. Missing:{' '}
            <span className="mono">
              {missing
                .slice(0, MOST_NAMED)
                .map(({ name }) => visible(name))
                .join(', ')}
            </span>
            {lacks > MOST_NAMED && ` and ${count(lacks - MOST_NAMED)} more`}
          </>
        )}
        <Box sx={{ display: 'flex', gap: 1, mt: 0.75, flexWrap: 'wrap' }}>
          {lacks > 0 && (
            <Button disabled={bringIn.sending !== undefined} onClick={() => files.current?.click()}>
              Send the rest…
            </Button>
          )}
          {received > 0 && (
            <Button
              disabled={bringIn.sending !== undefined}
              onClick={() => {
                bringIn.goOn(id);
              }}
            >
              {lacks === 0 ? 'Go on' : 'Go on without'}
            </Button>
          )}
          <Button variant="text" disabled={forget.isPending} onClick={() => forget.mutate(undefined)}>
            Discard
          </Button>
        </Box>
        <input
          ref={files}
          type="file"
          hidden
          multiple
          aria-label="The files that are missing"
          data-testid="missing-files"
          onChange={(event) => {
            void bringIn.finish(unfinished, [...(event.target.files ?? [])]);
            event.target.value = '';
          }}
        />
      </FaultNote>
    </Box>
  );
}
