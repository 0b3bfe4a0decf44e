'use client';
import Box from '@mui/material/Box';
import { diffLines } from 'diff';
import { useMemo } from 'react';
import { FaultNote } from '../../shared/states';
import type { FormSide } from '../form-view';
import { textAt } from './text-at';
import { useText } from './TextView';

/** What lines went and what came. */
export function LineComparison({ before, after, name }: { before: FormSide; after: FormSide; name: string }) {
  const old = useText(textAt(before.subject, name));
  const fresh = useText(textAt(after.subject, name));
  const parts = useMemo(
    // A comparison that takes too long is given up rather than holding the page.
    () =>
      old.data === undefined || fresh.data === undefined
        ? undefined
        : (diffLines(old.data, fresh.data, { timeout: 1500 }) ?? []),
    [old.data, fresh.data],
  );
  const error = old.error ?? fresh.error;
  if (error !== null) return <FaultNote>{error.message}</FaultNote>;
  return (
    <Box
      component="pre"
      tabIndex={0}
      aria-label="Lines that differ"
      className="mono"
      sx={{
        m: 0,
        maxHeight: 460,
        overflow: 'auto',
        whiteSpace: 'pre-wrap',
        overflowWrap: 'anywhere',
        border: '1px solid var(--line)',
        borderRadius: 1,
        background: 'var(--sheet)',
        py: 1,
      }}
    >
      {parts?.flatMap((part, i) =>
        part.value
          .replace(/\n$/, '')
          .split('\n')
          .map((line, j) => (
            <Box
              key={`${i} ${j}`}
              component="span"
              sx={{
                display: 'block',
                px: 1.5,
                background: part.added ? 'var(--teal2)' : part.removed ? 'var(--brick2)' : undefined,
              }}
            >
              <span aria-hidden>{part.added ? '+ ' : part.removed ? '− ' : '  '}</span>
              {line}
            </Box>
          )),
      )}
    </Box>
  );
}
