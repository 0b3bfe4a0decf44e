import Box from '@mui/material/Box';
import { useQuery } from '@tanstack/react-query';
import type { RunAnswer } from '../../server/shapes';
import { call } from '../shared/api';
import { FaultNote } from '../shared/states';

/** The log of a run, read again whenever a line comes. */
export function RunLog({ run: { id, lines, lastLine } }: { run: RunAnswer }) {
  const { data: log, error } = useQuery({
    queryKey: ['run', id, 'log', lines, lastLine],
    queryFn: () => call('GET runs/{run}/log', { run: id }),
    placeholderData: (before) => before,
    // Each new line is another key: logs of before are not worth keeping.
    gcTime: 0,
  });
  if (error !== null) return <FaultNote tone="brass">{error.message}</FaultNote>;
  return (
    <Box
      component="ol"
      aria-label="Log"
      aria-busy={log === undefined}
      className="mono"
      sx={{ m: 0, mt: 1, p: 0, listStyle: 'none', maxHeight: 260, overflow: 'auto', overflowWrap: 'anywhere' }}
    >
      {log?.map((line, i) => (
        <li key={`${line.at} ${i}`}>
          <span className="dim">{new Date(line.at).toLocaleTimeString('en-GB')}</span> {line.text}
        </li>
      ))}
    </Box>
  );
}
