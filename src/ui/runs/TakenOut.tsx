import Box from '@mui/material/Box';
import type { RunResult } from '../../server/shapes';
import { count, counted, size } from '../shared/format';
import { zipAddress } from './zip-address';

/** What a run took out, and where to. */
export function TakenOut({ gameId, runId, result }: { gameId: number; runId: number; result: RunResult<'take-out'> }) {
  const { taken, bytes, folder, within, skipped, kept } = result;
  return (
    <Box sx={{ overflowWrap: 'anywhere' }}>
      {counted(taken, 'file')}, {size(bytes)} in{' '}
      {folder === null ? (
        <a href={zipAddress(gameId, runId)} download style={{ color: 'var(--teal)' }}>
          one ZIP, to download again
        </a>
      ) : (
        <span className="mono">{folder}</span>
      )}
      {within > 0 && <span className="dim"> · {count(within)} are parts of these pictures</span>}
      {skipped > 0 && <span className="dim"> · {count(skipped)} were there already, or have not changed</span>}
      {kept > 0 && <span className="dim"> · {counted(kept, 'file')} of yours kept</span>}
    </Box>
  );
}
