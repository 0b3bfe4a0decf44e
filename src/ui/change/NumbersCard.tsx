'use client';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import MenuItem from '@mui/material/MenuItem';
import TextField from '@mui/material/TextField';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import type { NumbersOrder } from '../../server/shapes';
import { call } from '../shared/api';
import { count, counted, fileName } from '../shared/format';
import { useGameMutation } from '../shared/queries';
import { FaultNote } from '../shared/states';

const COUNTED: Readonly<Record<NumbersOrder['counting'], string>> = {
  own: 'The numbers in the names of the entries',
  'from 0': 'Places in the folder, counted from 0',
  'from 1': 'Places in the folder, counted from 1',
};

/** All numbered files of a drop: which folder they are for, and what each way of counting would replace. */
export function NumbersCard({ gameId, drop, onSettled }: { gameId: number; drop: number; onSettled: () => void }) {
  const address = { game: gameId, drop };
  const numbers = (folder?: string) => call('GET games/{game}/drops/{drop}/numbers', { ...address, query: { folder } });
  const [typed, setTyped] = useState<string>();
  const first = useQuery({ queryKey: ['game', gameId, 'numbers', drop], queryFn: () => numbers() });
  const folders = first.data?.folders ?? [];
  const folder = typed ?? folders[0]?.folder;
  const { data, error } = useQuery({
    queryKey: ['game', gameId, 'numbers', drop, folder],
    queryFn: () => numbers(folder),
    enabled: folder !== undefined,
  });
  const settle = useGameMutation(gameId, (order: NumbersOrder) =>
    call('POST games/{game}/drops/{drop}/numbers', { ...address, body: order }),
  );
  if (first.data === undefined) return null;
  if (folder === undefined) return <Box className="dim">No folder of this game has numbered entries of that kind.</Box>;
  return (
    <Box sx={{ display: 'grid', gap: 1.5 }}>
      <TextField
        select
        size="small"
        label="The folder they are for"
        value={folder}
        onChange={(event) => setTyped(event.target.value)}
        sx={{ maxWidth: 480 }}
      >
        {folders.map((one) => (
          <MenuItem key={one.folder} value={one.folder}>
            {one.folder || 'the top'} · {counted(one.count, 'entry', 'entries')}
          </MenuItem>
        ))}
      </TextField>
      {error !== null && <FaultNote>{error.message}</FaultNote>}
      {data?.ways.map(({ counting, fits, shown }) => (
        <Box
          key={counting}
          role="group"
          aria-label={COUNTED[counting]}
          sx={{ border: '1px solid var(--line)', borderRadius: 1, background: 'var(--sheet)', p: 1.5 }}
        >
          <Box sx={{ display: 'flex', alignItems: 'center', gap: 1, mb: 0.5 }}>
            <b style={{ flex: 1 }}>{COUNTED[counting]}</b>
            <Button
              disabled={fits === 0 || settle.isPending}
              onClick={() => settle.mutate({ folder, counting }, { onSuccess: onSettled })}
            >
              {fits === 0 ? 'None matches' : `Take ${count(fits)} so`}
            </Button>
          </Box>
          {shown.map(({ name, path, label }) => (
            <Box key={name} sx={{ display: 'flex', gap: 1, minWidth: 0 }}>
              <span className="mono">{fileName(name)}</span>
              <span className="dim">for</span>
              <Box sx={{ overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' }}>
                {path === null ? <span className="dim">no entry</span> : fileName(path)}
                {label !== null && <span className="dim"> {label}</span>}
              </Box>
            </Box>
          ))}
        </Box>
      ))}
    </Box>
  );
}
