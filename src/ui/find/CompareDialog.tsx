'use client';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import type { ComparedAnswer, ComparedSide } from '../../server/shapes';
import type { ByteMark } from '../preview/BytesView';
import { BytesBeside } from '../preview/BytesBeside';
import { Comparison, type Side } from '../preview/Comparison';
import { call, subjectUrl } from '../shared/api';
import { Chip } from '../shared/Chip';
import { counted, fileName, offset, size } from '../shared/format';
import { FaultNote } from '../shared/states';

export interface Which {
  /** Another game than the one that is open. */
  readonly game?: number;
  readonly archive: number;
  readonly n: number;
}

/** Two entries next to each other, as what they are or as bytes, with a word on which holds more. */
export function CompareDialog({
  gameId,
  left,
  right,
  onClose,
}: {
  gameId: number;
  left: Which;
  right: Which;
  onClose: () => void;
}) {
  const [asBytes, setAsBytes] = useState(false);
  const { data, error } = useQuery({
    queryKey: ['game', gameId, 'compare', left, right],
    queryFn: () =>
      call('GET games/{game}/compare', {
        game: gameId,
        query: { left: `${left.archive}.${left.n}`, right: `${right.archive}.${right.n}`, of: right.game },
      }),
    retry: false,
  });
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="lg">
      <DialogTitle sx={{ fontSize: 16, fontWeight: 600 }}>Two entries beside each other</DialogTitle>
      <DialogContent sx={{ minHeight: 420 }}>
        {error !== null && <FaultNote>{error.message}</FaultNote>}
        {data !== undefined && (
          <>
            <Box sx={{ fontWeight: 600 }}>{data.verdict}</Box>
            {!data.same && (
              <Box className="dim">
                They begin to differ at {offset(data.start)}; {data.cut ? 'more than ' : ''}
                {counted(data.differences.length, 'stretch', 'stretches')} of bytes.
              </Box>
            )}
            <Box sx={{ display: 'flex', gap: 0.75, my: 1.25 }}>
              <Chip on={!asBytes} onClick={() => setAsBytes(false)}>
                As what they are
              </Chip>
              <Chip on={asBytes} onClick={() => setAsBytes(true)}>
                As bytes
              </Chip>
            </Box>
            {asBytes ? (
              <BytesBeside {...sidesOf(data)} />
            ) : (
              <Comparison
                // Of two kinds only the bytes can be laid next to each other.
                kind={data.left.kind === data.right.kind ? data.left.kind : 'bytes'}
                name={fileName(data.left.path)}
                {...sidesOf(data)}
              />
            )}
          </>
        )}
      </DialogContent>
      <DialogActions>
        <Button variant="text" onClick={onClose}>
          Close
        </Button>
      </DialogActions>
    </Dialog>
  );
}

function sidesOf({ left, right, differences }: ComparedAnswer): { before: Side; after: Side } {
  const samePath = left.path === right.path;
  const from = (one: ComparedSide) => (left.game === right.game ? one.archivePath : one.gameName);
  const side = (one: ComparedSide, marks: readonly ByteMark[]): Side => ({
    subject: subjectUrl(one.game, { entry: one }),
    size: one.size,
    facts: one.facts,
    label: `${samePath ? from(one) : one.path}, ${size(one.size)}`,
    marks,
  });
  const tone = 'brass2' as const;
  return {
    before: side(
      left,
      differences.map(({ left: at, leftLength: length }) => ({ at, length, tone })),
    ),
    after: side(
      right,
      differences.map(({ right: at, rightLength: length }) => ({ at, length, tone })),
    ),
  };
}
