/** The marks of kinds and of state: shape carries the meaning, colour helps. */
import Box from '@mui/material/Box';
import type { ArchiveState, KindName } from '../../server/shapes';

export const KIND_WORDS: Readonly<Record<KindName, { readonly one: string; readonly many: string }>> = {
  picture: { one: 'Picture', many: 'Pictures' },
  sound: { one: 'Sound', many: 'Sounds' },
  film: { one: 'Film', many: 'Films' },
  words: { one: 'Words', many: 'Words' },
  mesh: { one: 'Mesh', many: 'Meshes' },
  font: { one: 'Font', many: 'Fonts' },
  records: { one: 'Records', many: 'Records' },
  bytes: { one: 'Bytes', many: 'Bytes' },
};

export const KIND_COLOURS: Readonly<Record<KindName, string>> = {
  picture: 'var(--teal)',
  sound: 'var(--brass-mark)',
  film: 'var(--plum)',
  words: 'var(--slate)',
  mesh: 'var(--olive)',
  font: 'var(--ink)',
  records: 'var(--dim)',
  bytes: 'var(--hatch)',
};

/** 11 by 11: square, circle, triangle, lines, hexagon, letter, frame, hatch. */
export function KindMark({ kind, label = false }: { kind: KindName; label?: boolean }) {
  const colour = KIND_COLOURS[kind];
  const { one } = KIND_WORDS[kind];
  return (
    <svg
      width="11"
      height="11"
      viewBox="0 0 11 11"
      style={{ flex: 'none' }}
      {...(label ? { role: 'img', 'aria-label': one } : { 'aria-hidden': true })}
    >
      {kind === 'picture' && <rect width="11" height="11" rx="2" fill={colour} />}
      {kind === 'sound' && <circle cx="5.5" cy="5.5" r="5.5" fill={colour} />}
      {kind === 'film' && <path d="M1 0 L11 5.5 L1 11 z" fill={colour} />}
      {kind === 'words' && <path d="M0 1.5h11M0 5.5h11M0 9.5h11" stroke={colour} strokeWidth="2" />}
      {kind === 'mesh' && <path d="M2.75 0h5.5L11 5.5 8.25 11h-5.5L0 5.5z" fill={colour} />}
      {kind === 'font' && <path d="M.5 11 5.5 0l5 11M2.2 7.4h6.6" fill="none" stroke={colour} strokeWidth="1.8" />}
      {kind === 'records' && (
        <rect x="1" y="1" width="9" height="9" rx="1.5" fill="none" stroke={colour} strokeWidth="2" />
      )}
      {kind === 'bytes' && (
        <path d="M0 4 L4 0 M0 8 L8 0 M1 11 L11 1 M5 11 L11 5 M9 11 L11 9" stroke="var(--dim)" strokeWidth="1.4" />
      )}
    </svg>
  );
}

const LATCH_WORDS: Readonly<Record<ArchiveState, string>> = {
  open: 'open',
  locked: 'locked',
  unknown: 'no recipe knows it',
  damaged: 'damaged',
  unsure: 'several recipes fit',
};

/** The latch: bolt to the left is closed, to the right open, dashed is unknown. */
export function Latch({ state, tone }: { state: ArchiveState | 'waiting'; tone?: 'brass' | 'brick' | 'teal' }) {
  const colour = `var(--${tone ?? (state === 'open' ? 'teal' : state === 'damaged' ? 'brick' : state === 'locked' ? 'brick' : 'dim')})`;
  const unknown = state === 'unknown' || state === 'unsure';
  const open = state === 'open';
  const words = state === 'waiting' ? 'needs you' : LATCH_WORDS[state];
  return (
    <Box component="span" role="img" aria-label={words} title={words} sx={{ display: 'inline-flex', flex: 'none' }}>
      <svg width="30" height="12" viewBox="0 0 30 12" aria-hidden>
        <rect
          x="1"
          y="1"
          width="28"
          height="10"
          rx="5"
          fill="none"
          stroke={colour}
          strokeWidth="1.8"
          strokeDasharray={unknown ? '5 3' : undefined}
        />
        {!unknown && <rect x={open ? 15.5 : 4} y="3.5" width="10.5" height="5" rx="2.5" fill={colour} />}
        {state === 'damaged' && <path d="M19 3 L24 9 M24 3 L19 9" stroke={colour} strokeWidth="1.6" />}
      </svg>
    </Box>
  );
}
