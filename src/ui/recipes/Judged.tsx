'use client';
import Box from '@mui/material/Box';
import type { ReactNode } from 'react';
import type { PlacedFault } from '../../server/shapes';

interface JudgedProps {
  readonly holds: boolean;
  /** Said instead when there was nothing to judge: that is no proof. */
  readonly none?: string | undefined;
  readonly good: string;
  readonly bad: string;
  readonly first: PlacedFault | null;
  readonly onPlace: (fault: PlacedFault) => void;
}

export function Judged({ holds, none, good, bad, first, onPlace }: JudgedProps) {
  if (none !== undefined) return <Item tone="wait">{none}</Item>;
  if (holds) return <Item tone="holds">{good}</Item>;
  return (
    <>
      <Item tone="wrong">{bad}</Item>
      {first !== null && <Item tone="wait" fault={first} onPlace={onPlace} />}
    </>
  );
}

const SIGNS = { holds: ['✓', 'var(--teal)', 'holds'], wrong: ['!', 'var(--brick)', 'wrong'], wait: ['·', 'var(--dim)', ''] } as const;

export function Item({
  tone,
  fault,
  onPlace,
  children,
}: {
  tone: keyof typeof SIGNS;
  fault?: PlacedFault;
  onPlace?: (fault: PlacedFault) => void;
  children?: ReactNode;
}) {
  const [sign, colour, word] = SIGNS[tone];
  const leads = fault !== undefined && (fault.line !== null || fault.at !== null);
  return (
    <Box component="li" sx={{ display: 'flex', gap: 1.25, mb: 0.9, overflowWrap: 'anywhere' }}>
      <Box component="span" aria-label={word} sx={{ color: colour, fontWeight: 700, width: 12, flex: 'none' }}>
        {sign}
      </Box>
      {leads ? (
        <Box
          component="button"
          type="button"
          onClick={() => onPlace?.(fault)}
          title="Show where"
          sx={{ all: 'unset', cursor: 'pointer', '&:focus-visible': { outline: '2px solid var(--teal)' } }}
        >
          {children ?? fault.sentence}
        </Box>
      ) : (
        <span>{children ?? fault?.sentence}</span>
      )}
    </Box>
  );
}
