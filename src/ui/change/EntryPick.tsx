'use client';
import Autocomplete from '@mui/material/Autocomplete';
import Box from '@mui/material/Box';
import TextField from '@mui/material/TextField';
import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import type { EntryRow } from '../../server/shapes';
import { call } from '../shared/api';
import { folderOf } from '../shared/format';
import { KindMark } from '../shared/marks';

const SHOWN = 12;

/** One entry of the game, found by words of its path. */
export function EntryPick({
  gameId,
  label,
  onPick,
}: {
  gameId: number;
  label: string;
  onPick: (path: string) => void;
}) {
  const [typed, setTyped] = useState('');
  const { data, isFetching } = useQuery({
    queryKey: ['game', gameId, 'pick', typed],
    queryFn: ({ signal }) =>
      call('GET games/{game}/entries', { game: gameId, query: { limit: SHOWN, search: typed }, signal }),
    enabled: typed.trim() !== '',
    placeholderData: keepPreviousData,
    retry: false,
  });
  const rows = (typed.trim() === '' ? undefined : data)?.rows.filter(({ role }) => role === 'wins') ?? [];
  return (
    <Autocomplete<EntryRow>
      options={rows}
      // The server has searched.
      filterOptions={(all) => all}
      getOptionLabel={({ path }) => path}
      getOptionKey={({ archive, n }) => `${archive}.${n}`}
      inputValue={typed}
      onInputChange={(_, text, reason) => reason !== 'reset' && setTyped(text)}
      value={null}
      onChange={(_, row) => row !== null && onPick(row.path)}
      loading={isFetching}
      noOptionsText={typed.trim() === '' ? 'Type a part of its name' : 'No entries match'}
      blurOnSelect
      renderOption={(props, row) => (
        <Box component="li" {...props} key={`${row.archive}.${row.n}`} sx={{ gap: 1, alignItems: 'center' }}>
          <KindMark kind={row.kind} label />
          <span>{row.label ?? row.name}</span>
          <span className="mono dim">{folderOf(row.path)}</span>
        </Box>
      )}
      renderInput={(params) => <TextField {...params} label={label} size="small" />}
      sx={{ maxWidth: 480, mt: 1 }}
    />
  );
}
