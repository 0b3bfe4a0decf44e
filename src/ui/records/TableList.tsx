'use client';
import { visible } from '../../core/faults/visible';
import Box from '@mui/material/Box';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { useDeferredValue, useState } from 'react';
import type { RecordTablesAnswer } from '../../server/shapes';
import { count } from '../shared/format';

export function TableList({
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
