'use client';
import { visible } from '../../core/faults/visible';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { useQuery } from '@tanstack/react-query';
import { useSearchParams } from 'next/navigation';
import { useDeferredValue, useState } from 'react';
import type { RecordTablesAnswer } from '../../server/shapes';
import { RunLine } from '../runs/RunLine';
import { call } from '../shared/api';
import { count, counted } from '../shared/format';
import { isGoing, useGameMutation, useRuns } from '../shared/queries';
import { Empty, FaultNote } from '../shared/states';
import { RecordGrid } from './RecordGrid';
import type { RecordPlace } from './record-place';
import { Where } from './Where';

function useRecordPlace(): [RecordPlace, (next: Partial<RecordPlace>) => void] {
  const params = useSearchParams();
  const table = Number(params.get('table') ?? NaN);
  const place: RecordPlace = {
    table: Number.isNaN(table) ? undefined : table,
    search: params.get('search') ?? '',
    column: params.get('column') ?? undefined,
    value: params.get('value') ?? undefined,
    dangling: params.get('dangling') === 'true',
    where: params.get('where') ?? '',
  };
  const go = (next: Partial<RecordPlace>) => {
    const wanted = Object.entries({ ...place, ...next }).flatMap(([key, value]) =>
      value === undefined || value === '' || value === false ? [] : [[key, String(value)] as [string, string]],
    );
    window.history.pushState(null, '', `?${new URLSearchParams(wanted).toString()}`);
  };
  return [place, go];
}

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
      <Tables
        data={data}
        chosen={place.where === '' ? table?.id : undefined}
        onChoose={(id) =>
          go({ table: id, column: undefined, value: undefined, dangling: false, search: '', where: '' })
        }
      />
      <Box sx={{ flex: 1, minWidth: 0, display: 'flex', flexDirection: 'column' }}>
        <Head
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

function Head({
  place,
  go,
  summary,
}: {
  place: RecordPlace;
  go: (next: Partial<RecordPlace>) => void;
  summary: string;
}) {
  const [typed, setTyped] = useState(place.search);
  const [where, setWhere] = useState(place.where);
  return (
    <Box
      sx={{
        px: 2.25,
        py: 1.5,
        borderBottom: '1px solid var(--line)',
        background: 'var(--sheet)',
        display: 'flex',
        gap: 1.5,
        alignItems: 'flex-end',
        flexWrap: 'wrap',
      }}
    >
      <Box sx={{ flex: 1, minWidth: 160 }}>
        <Typography variant="h1">Records</Typography>
        <Box className="dim">{summary}</Box>
      </Box>
      <Box
        component="form"
        onSubmit={(event: React.FormEvent) => {
          event.preventDefault();
          go({ search: typed, where: '' });
        }}
      >
        <TextField
          size="small"
          placeholder="In this table"
          value={typed}
          onChange={(event) => setTyped(event.target.value)}
          slotProps={{ htmlInput: { 'aria-label': 'Search in this table' } }}
          sx={{ width: 180 }}
        />
      </Box>
      <Box
        component="form"
        onSubmit={(event: React.FormEvent) => {
          event.preventDefault();
          go({ where: where.trim() });
        }}
        sx={{ display: 'flex', gap: 0.75 }}
      >
        <TextField
          size="small"
          placeholder="Where is 120 set or read?"
          value={where}
          onChange={(event) => setWhere(event.target.value)}
          slotProps={{ htmlInput: { 'aria-label': 'Find a value in all records' } }}
          sx={{ width: 210 }}
        />
        <Button type="submit" disabled={where.trim() === ''}>
          Where?
        </Button>
      </Box>
    </Box>
  );
}

function Tables({
  data,
  chosen,
  onChoose,
}: {
  data: RecordTablesAnswer;
  chosen: number | undefined;
  onChoose: (id: number) => void;
}) {
  const [typed, setTyped] = useState('');
  const wanted = useDeferredValue(typed.toLowerCase());
  const shown = data.tables.filter(({ name }) => name.toLowerCase().includes(wanted));
  return (
    <Box
      component="aside"
      aria-label="Tables"
      sx={{
        width: 250,
        flex: 'none',
        overflow: 'auto',
        background: 'var(--sheet)',
        borderRight: '1px solid var(--line)',
        px: 1.25,
        py: 1.5,
      }}
    >
      <Typography variant="h3" component="h2" sx={{ px: 0.75, mb: 0.75 }}>
        Tables
      </Typography>
      {data.tables.length > 12 && (
        <TextField
          size="small"
          fullWidth
          placeholder="Part of a name"
          value={typed}
          onChange={(event) => setTyped(event.target.value)}
          slotProps={{ htmlInput: { 'aria-label': 'Find a table' } }}
          sx={{ mb: 0.75 }}
        />
      )}
      {shown.map(({ id, name, rows }) => (
        <Box
          key={id}
          component="button"
          type="button"
          aria-pressed={id === chosen}
          onClick={() => onChoose(id)}
          sx={{
            all: 'unset',
            boxSizing: 'border-box',
            width: '100%',
            display: 'flex',
            gap: 1,
            cursor: 'pointer',
            px: 0.75,
            py: 0.5,
            borderRadius: 1,
            background: id === chosen ? 'var(--teal2)' : undefined,
            '&:focus-visible': { outline: '2px solid var(--teal)' },
          }}
        >
          <Box component="span" sx={{ flex: 1, minWidth: 0, overflowWrap: 'anywhere' }}>
            <TableName name={name} />
          </Box>
          <span className="dim">{count(rows)}</span>
        </Box>
      ))}
    </Box>
  );
}

/** The files, and which list in them. */
function TableName({ name }: { name: string }) {
  const [file, inner] = name.split('#') as [string, string | undefined];
  const slash = file.lastIndexOf('/') + 1;
  return (
    <>
      {visible(inner ?? file.slice(slash))}
      <Box component="span" className="dim" sx={{ display: 'block', fontSize: 12 }}>
        {visible(inner === undefined ? file.slice(0, slash) : `in ${file}`)}
      </Box>
    </>
  );
}
