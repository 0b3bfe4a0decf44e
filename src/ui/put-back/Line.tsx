import Box from '@mui/material/Box';

/** A line of a report: right or wrong, what, and a figure. */
export function Line({ ok, text, note }: { ok: boolean; text: string; note: string }) {
  return (
    <Box sx={{ display: 'flex', gap: 1.5, py: 0.6, borderBottom: '1px solid var(--line)' }}>
      <Box component="span" sx={{ color: ok ? 'var(--teal)' : 'var(--brick)', width: 12 }}>
        {ok ? '✓' : '!'}
      </Box>
      <Box sx={{ flex: 1, overflowWrap: 'anywhere' }}>{text}</Box>
      <span className="dim" style={{ whiteSpace: 'nowrap' }}>
        {note}
      </span>
    </Box>
  );
}
