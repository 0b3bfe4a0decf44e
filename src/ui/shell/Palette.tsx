'use client';
import { visible } from '../../core/faults/visible';
import Autocomplete from '@mui/material/Autocomplete';
import Box from '@mui/material/Box';
import Dialog from '@mui/material/Dialog';
import TextField from '@mui/material/TextField';
import { useColorScheme } from '@mui/material/styles';
import { useQuery } from '@tanstack/react-query';
import { useRouter } from 'next/navigation';
import { useDeferredValue, useState } from 'react';
import { call } from '../shared/api';
import { KindMark } from '../shared/marks';
import { useGameMutation, useGame } from '../shared/queries';
import type { KindName } from '../../server/shapes';
import { STATIONS } from './stations';

interface Item {
  readonly group: 'Go to' | 'Do' | 'Archives' | 'Entries';
  readonly label: string;
  readonly kind?: KindName;
  run(): void;
}

/** One line that reaches everything: stations, actions, archives and entries. */
export function Palette({
  gameId,
  open,
  onClose,
  onKeys,
}: {
  gameId: number;
  open: boolean;
  onClose: () => void;
  onKeys: () => void;
}) {
  const router = useRouter();
  const [text, setText] = useState('');
  const deferred = useDeferredValue(text);
  const { mode, setMode } = useColorScheme();
  const { data: game } = useGame(gameId);
  const scan = useGameMutation(gameId, () => call('POST games/{game}/scan', { game: gameId }));
  const { data: entries } = useQuery({
    queryKey: ['game', gameId, 'palette', deferred],
    queryFn: () => call('GET games/{game}/entries', { game: gameId, query: { limit: 12, search: deferred } }),
    enabled: open && deferred.trim() !== '',
  });
  const go = (path: string) => () => router.push(`/games/${gameId}/${path}`);
  const items: Item[] = [
    ...STATIONS.map((station): Item => ({ group: 'Go to', label: station.name, run: go(station.path) })),
    { group: 'Go to', label: 'Records', run: go('records') },
    { group: 'Go to', label: 'Words', run: go('words') },
    { group: 'Go to', label: 'Recipes', run: go('recipes') },
    { group: 'Go to', label: 'Runs', run: go('runs') },
    { group: 'Go to', label: 'Another game', run: () => router.push('/') },
    { group: 'Do', label: 'Scan the folder again', run: () => scan.mutate(undefined) },
    {
      group: 'Do',
      label: mode === 'dark' ? 'Light theme' : 'Dark theme',
      run: () => setMode(mode === 'dark' ? 'light' : 'dark'),
    },
    { group: 'Do', label: 'System theme', run: () => setMode('system') },
    { group: 'Do', label: 'Show keyboard shortcuts', run: onKeys },
    ...(game?.archives ?? [])
      .filter((archive) => archive.state === 'open')
      .map((archive): Item => ({ group: 'Archives', label: archive.path, run: go(`find?archive=${archive.id}`) })),
    ...(deferred.trim() === '' ? [] : (entries?.rows ?? [])).map((entry): Item => ({
      group: 'Entries',
      label: entry.path,
      kind: entry.kind,
      run: go(`find?sel=${entry.archive}.${entry.n}&search=${encodeURIComponent(deferred)}`),
    })),
  ];
  const close = () => {
    setText('');
    onClose();
  };
  return (
    <Dialog
      open={open}
      onClose={close}
      fullWidth
      maxWidth="sm"
      aria-label="Find anything"
      sx={{ '& .MuiDialog-container': { alignItems: 'flex-start', pt: 8 } }}
    >
      <Box sx={{ p: 1.5, minHeight: 420 }}>
        <Autocomplete
          open
          disablePortal
          options={items}
          groupBy={(item) => item.group}
          getOptionLabel={(item) => item.label}
          getOptionKey={(item) => `${item.group} ${item.label}`}
          autoHighlight
          inputValue={text}
          onInputChange={(_, value, reason) => reason !== 'reset' && setText(value)}
          onChange={(_, item) => {
            if (item === null) return;
            close();
            item.run();
          }}
          noOptionsText="Nothing matches."
          renderOption={({ key, ...props }, item) => (
            <Box component="li" key={key} {...props} sx={{ gap: 1, fontSize: 13, overflowWrap: 'anywhere' }}>
              {item.kind !== undefined && <KindMark kind={item.kind} />}
              {visible(item.label)}
            </Box>
          )}
          renderInput={(params) => (
            <TextField {...params} autoFocus placeholder="An entry, an archive, or what to do" />
          )}
          slotProps={{ paper: { elevation: 0 }, listbox: { sx: { maxHeight: 340 } } }}
        />
      </Box>
    </Dialog>
  );
}
