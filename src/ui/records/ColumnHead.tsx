'use client';
import { visible } from '../../core/faults/visible';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import MenuItem from '@mui/material/MenuItem';
import TextField from '@mui/material/TextField';
import { useState } from 'react';
import type { RecordReference, RecordTable } from '../../server/shapes';
import { call } from '../shared/api';
import { counted } from '../shared/format';
import { useGameMutation } from '../shared/queries';

interface Reference {
  readonly gameId: number;
  /** The table and the column, as a profile names them. */
  readonly field: string;
  readonly declared: RecordReference | undefined;
  readonly usedBy: readonly RecordReference[];
  readonly tables: readonly RecordTable[];
  readonly onDangling: () => void;
}

/** The name of a column: a click sorts, and what it refers to is declared below. */
export function ColumnHead({
  name,
  hint,
  isNumber = false,
  order,
  onSort,
  reference,
}: {
  name: string;
  hint: string;
  isNumber?: boolean;
  order: 'up' | 'down' | undefined;
  onSort: (order: 'up' | 'down' | undefined) => void;
  reference?: Reference;
}) {
  const [choosing, setChoosing] = useState(false);
  const declared = reference?.declared;
  return (
    <Box
      role="columnheader"
      aria-sort={order === 'up' ? 'ascending' : order === 'down' ? 'descending' : 'none'}
      sx={{ px: 1.25, py: 0.75, minWidth: 0, textAlign: isNumber ? 'right' : 'left' }}
    >
      <Box
        component="button"
        type="button"
        title={hint}
        onClick={() => onSort(order === undefined ? 'up' : order === 'up' ? 'down' : undefined)}
        sx={{
          all: 'unset',
          cursor: 'pointer',
          fontWeight: 600,
          maxWidth: '100%',
          overflow: 'hidden',
          textOverflow: 'ellipsis',
          whiteSpace: 'nowrap',
          '&:focus-visible': { outline: '2px solid var(--teal)' },
        }}
      >
        {visible(name)}
        {order === undefined ? '' : order === 'up' ? ' ↑' : ' ↓'}
      </Box>
      {reference !== undefined && (
        <Box sx={{ fontSize: 12, whiteSpace: 'nowrap', overflow: 'hidden', textOverflow: 'ellipsis' }}>
          {(declared?.dangling ?? 0) > 0 ? (
            <Button
              variant="text"
              sx={{ p: 0, minWidth: 0, fontSize: 12, color: 'var(--brick)' }}
              onClick={reference.onDangling}
            >
              {counted(declared!.dangling!, 'row refers', 'rows refer')} to nothing
            </Button>
          ) : (
            <Button
              variant="text"
              title={declared?.to ?? reference.usedBy.map(({ field }) => field).join('\n')}
              aria-label={`What ${name} refers to`}
              sx={{ p: 0, minWidth: 0, fontSize: 12, color: 'var(--dim)' }}
              onClick={() => setChoosing(true)}
            >
              {declared !== undefined
                ? `→ ${declared.to.slice(declared.to.lastIndexOf(': ') + 2)}`
                : reference.usedBy.length > 0
                  ? `named by ${reference.usedBy.length}`
                  : 'refers to…'}
            </Button>
          )}
          {(declared?.dangling ?? 0) > 0 && (
            <Button
              variant="text"
              aria-label={`What ${name} refers to`}
              sx={{ p: 0, minWidth: 0, ml: 0.5, fontSize: 12, color: 'var(--dim)' }}
              onClick={() => setChoosing(true)}
            >
              …
            </Button>
          )}
        </Box>
      )}
      {choosing && reference !== undefined && <ReferenceDialog {...reference} onClose={() => setChoosing(false)} />}
    </Box>
  );
}

/** Which field of which table the values of a column name. */
function ReferenceDialog({ gameId, field, declared, tables, onClose }: Reference & { onClose: () => void }) {
  const at = declared?.to.lastIndexOf(': ') ?? -1;
  const [table, setTable] = useState(declared?.to.slice(0, at) ?? '');
  const [column, setColumn] = useState(declared?.to.slice(at + 2) ?? '');
  const set = useGameMutation(gameId, (to: string | null) =>
    call('PUT games/{game}/records/references', { game: gameId, body: { field, to } }),
  );
  const done = (to: string | null) => set.mutate(to, { onSuccess: onClose });
  const columns = tables.find(({ name }) => name === table)?.columns ?? [];
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="sm">
      <DialogTitle sx={{ fontSize: 16, fontWeight: 600 }}>What it refers to</DialogTitle>
      <DialogContent>
        <Box className="mono" sx={{ mb: 1.5, overflowWrap: 'anywhere' }}>
          {field}
        </Box>
        <Box sx={{ display: 'grid', gap: 1.5 }}>
          <TextField
            select
            size="small"
            label="Rows of"
            value={table}
            onChange={(event) => {
              setTable(event.target.value);
              setColumn('');
            }}
            sx={{ mt: 1 }}
          >
            {tables.map(({ id, name }) => (
              <MenuItem key={id} value={name}>
                {visible(name)}
              </MenuItem>
            ))}
          </TextField>
          <TextField
            select
            size="small"
            label="by their"
            value={column}
            disabled={table === ''}
            onChange={(event) => setColumn(event.target.value)}
          >
            {columns.map(({ name }) => (
              <MenuItem key={name} value={name}>
                {visible(name)}
              </MenuItem>
            ))}
          </TextField>
        </Box>
        <Box className="dim" sx={{ mt: 1.5 }}>
          It is saved in the game’s profile: references are followed both ways, and those that lead nowhere are listed.
        </Box>
      </DialogContent>
      <DialogActions>
        {declared !== undefined && (
          <Button variant="text" onClick={() => done(null)}>
            It refers to nothing
          </Button>
        )}
        <Button variant="text" onClick={onClose}>
          Cancel
        </Button>
        <Button
          variant="contained"
          disabled={table === '' || column === '' || set.isPending}
          onClick={() => done(`${table}: ${column}`)}
        >
          It refers to these
        </Button>
      </DialogActions>
    </Dialog>
  );
}
