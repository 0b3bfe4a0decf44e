'use client';
import { visible } from '../../core/faults/visible';
import Box from '@mui/material/Box';
import { useQuery } from '@tanstack/react-query';
import { call } from '../shared/api';
import { count, counted } from '../shared/format';
import { Empty, FaultNote } from '../shared/states';
import type { RecordPlace } from './record-place';

/** Where a value is set or read, over all tables: by field, each a way to its rows. */
export function Where({
  gameId,
  value,
  go,
}: {
  gameId: number;
  value: string;
  go: (next: Partial<RecordPlace>) => void;
}) {
  const { data, error } = useQuery({
    queryKey: ['game', gameId, 'records', 'where', value],
    queryFn: () => call('GET games/{game}/records/where', { game: gameId, query: { value } }),
  });
  if (error !== null) return <FaultNote>{error.message}</FaultNote>;
  if (data === undefined) return null;
  if (data.total === 0)
    return (
      <Empty title={`${value} is not in any record`}>
        It is looked for as a whole value, or as one of a list. Parts of texts are found in a table, and any bytes in
        Find, under “Look inside”.
      </Empty>
    );
  return (
    <Box sx={{ overflow: 'auto', p: 2.25 }}>
      <Box sx={{ mb: 1.25 }}>
        <b>{value}</b> is in {counted(data.total, 'row')} of {counted(data.fields.length, 'field')}.
      </Box>
      <Box component="ul" sx={{ m: 0, p: 0, listStyle: 'none', maxWidth: 760 }}>
        {data.fields.map(({ table, name, field, count: rows }) => (
          <Box component="li" key={`${table} ${field}`} sx={{ borderBottom: '1px solid var(--line)' }}>
            <Box
              component="button"
              type="button"
              onClick={() => go({ table, column: field, value, where: '', search: '', dangling: false })}
              sx={{
                all: 'unset',
                boxSizing: 'border-box',
                width: '100%',
                display: 'flex',
                gap: 1.5,
                py: 0.9,
                px: 0.75,
                cursor: 'pointer',
                '&:hover': { background: 'var(--sheet)' },
                '&:focus-visible': { outline: '2px solid var(--teal)' },
              }}
            >
              <Box component="span" sx={{ width: 150, flex: 'none', fontWeight: 600 }}>
                {field}
              </Box>
              <Box component="span" className="mono dim" sx={{ flex: 1, minWidth: 0, overflowWrap: 'anywhere' }}>
                {visible(name)}
              </Box>
              <span>{count(rows)}</span>
            </Box>
          </Box>
        ))}
      </Box>
    </Box>
  );
}
