'use client';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { useQuery } from '@tanstack/react-query';
import { RunLine } from '../runs/RunLine';
import { call } from '../shared/api';
import { counted } from '../shared/format';
import { isGoing, useGameMutation, useRuns } from '../shared/queries';
import { Empty, FaultNote } from '../shared/states';
import { RecordGrid } from './RecordGrid';
import { Where } from './Where';
import { RecordsHead } from './RecordsHead';
import { TableList } from './TableList';
import { useRecordPlace } from './use-record-place';

/** The data of a game as linked tables: all files that are alike together. */
export function RecordsView({ gameId }: { gameId: number }) {
  const [place, go] = useRecordPlace();
  const { data: runs } = useRuns(gameId);
  const run = runs?.find(({ kind }) => kind === 'records');
  const { data, error } = useQuery({
    queryKey: ['game', gameId, 'records', 'tables', run?.state === 'done' ? run.id : 0],
    queryFn: () => call('GET games/{game}/records/tables', { game: gameId }),
  });
  const gather = useGameMutation(gameId, () => call('POST games/{game}/records/tables', { game: gameId }));
  if (error !== null) return <FaultNote>{error.message}</FaultNote>;
  if (data === undefined) return null;
  const going = run !== undefined && isGoing(run);
  if (!data.known || (data.tables.length === 0 && going))
    return (
      <Empty
        title="The records have not been read yet"
        actions={
          going ? (
            <RunLine run={run} label="Progress of the records" />
          ) : (
            <Button variant="contained" onClick={() => gather.mutate(undefined)} disabled={gather.isPending}>
              Read the records
            </Button>
          )
        }
      >
        Every JSON, CSV and INI file of the game is read once. Files that are alike become one table, in which rows can
        be sorted, looked for, followed and changed.
      </Empty>
    );
  const table = data.tables.find(({ id }) => id === place.table) ?? data.tables[0];
  return (
    <Box sx={{ flex: 1, minHeight: 0, display: 'flex' }}>
      <TableList
        data={data}
        chosen={place.where === '' ? table?.id : undefined}
        onChoose={(id) =>
          go({ table: id, column: undefined, value: undefined, dangling: false, search: '', where: '' })
        }
      />
      <Box sx={{ flex: 1, minWidth: 0, display: 'flex', flexDirection: 'column' }}>
        <RecordsHead
          key={`${place.search} ${place.where}`}
          place={place}
          go={go}
          summary={`${counted(
            data.tables.reduce((sum, { rows }) => sum + rows, 0),
            'row',
          )} in ${counted(data.tables.length, 'table')}`}
        />
        {going && (
          <Box sx={{ px: 2.25 }}>
            <RunLine run={run} label="Progress of the records" />
          </Box>
        )}
        {data.stale && !going && (
          <Box sx={{ px: 2.25, pt: 1 }}>
            <FaultNote tone="brass">
              The game has changed since its records were read.{' '}
              <Button variant="inline" onClick={() => gather.mutate(undefined)}>
                Read them again
              </Button>
            </FaultNote>
          </Box>
        )}
        {place.where !== '' ? (
          <Where gameId={gameId} value={place.where} go={go} />
        ) : table === undefined ? (
          <Empty title="There are no records">No JSON, CSV or INI file of the game holds any.</Empty>
        ) : (
          <RecordGrid key={table.id} gameId={gameId} table={table} answer={data} place={place} go={go} />
        )}
      </Box>
    </Box>
  );
}
