import { visible } from '../../core/faults/visible';
import Box from '@mui/material/Box';
import MenuItem from '@mui/material/MenuItem';
import TextField from '@mui/material/TextField';
import type { Clash, TakeOutOrder } from '../../server/shapes';
import { size, when } from '../shared/format';
import { useTallList } from '../shared/use-tall-list';

export type Existing = TakeOutOrder['existing'];
export type Decisions = TakeOutOrder['decisions'];

const ROW = 52;
const WORDS: Readonly<Record<Existing, string>> = {
  keep: 'Keep mine',
  aside: 'Move mine aside',
  replace: 'Replace',
};

interface Props {
  readonly clashes: readonly Clash[];
  readonly decisions: Decisions;
  readonly onDecide: (path: string, decision: Existing) => void;
}

/** One decision for each file that is there. */
export function DecisionList({ clashes, decisions, onDecide }: Props) {
  const { box, onScroll, height, from, to, topOf } = useTallList(clashes.length, ROW);
  return (
    <Box
      ref={box}
      onScroll={onScroll}
      role="list"
      aria-label="Files that are there"
      sx={{ height: Math.min(312, clashes.length * ROW), overflow: 'auto', borderBlock: '1px solid var(--line)' }}
    >
      <Box sx={{ height, position: 'relative' }}>
        {clashes.slice(from, to).map(({ path, size: bytes, modified }, i) => (
          <Box
            key={path}
            role="listitem"
            sx={{
              position: 'absolute',
              top: topOf(from + i),
              height: ROW,
              width: '100%',
              display: 'flex',
              alignItems: 'center',
              gap: 1.5,
            }}
          >
            <Box sx={{ flex: 1, minWidth: 0 }}>
              <Box
                className="mono"
                title={visible(path)}
                sx={{ overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap', direction: 'ltr' }}
              >
                {visible(path)}
              </Box>
              <span className="dim">
                {size(bytes)}, changed {when(modified)}
              </span>
            </Box>
            <TextField
              select
              size="small"
              value={decisions[path] ?? 'keep'}
              onChange={(event) => onDecide(path, event.target.value as Existing)}
              slotProps={{ select: { SelectDisplayProps: { 'aria-label': `What happens to ${path}` } } }}
              sx={{ width: 168, flex: 'none' }}
            >
              {(Object.keys(WORDS) as Existing[]).map((one) => (
                <MenuItem key={one} value={one}>
                  {WORDS[one]}
                </MenuItem>
              ))}
            </TextField>
          </Box>
        ))}
      </Box>
    </Box>
  );
}
