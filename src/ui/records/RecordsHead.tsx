'use client';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { useState } from 'react';
import type { RecordPlace } from './record-place';

/** The title of Records, the search in one table, and the search for a value in all of them. */
export function RecordsHead({
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
