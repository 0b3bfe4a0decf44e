'use client';
import Box from '@mui/material/Box';
import { diffLines } from 'diff';
import { useMemo, useState } from 'react';
import type { ChangeAnswer, EntryDetails } from '../../server/shapes';
import { BytesView } from '../preview/BytesView';
import { SoundView } from '../preview/SoundView';
import { useText } from '../preview/TextView';
import { entryUrl } from '../shared/api';
import { Chip } from '../shared/Chip';
import { FaultNote } from '../shared/states';

interface Sides {
  readonly before: string;
  readonly after: string;
}

/** The original and the change, side by side in the manner of their kind. */
export function Comparison({ gameId, entry, change }: { gameId: number; entry: EntryDetails; change: ChangeAnswer }) {
  const sides: Sides = {
    before: entryUrl(gameId, entry, 'bytes'),
    after: `/api/games/${gameId}/changes/${change.id}/bytes`,
  };
  switch (entry.kind) {
    case 'picture':
      return <Pictures {...sides} name={entry.name} />;
    case 'sound':
      return (
        <Box sx={{ display: 'grid', gap: 2 }}>
          <Labelled label="Before">
            <SoundView url={sides.before} name={`${entry.name} before`} keys={false} />
          </Labelled>
          <Labelled label="After">
            <SoundView url={sides.after} name={`${entry.name} after`} keys={false} />
          </Labelled>
        </Box>
      );
    case 'words':
    case 'records':
      return <Lines {...sides} />;
    default:
      return (
        <Box sx={{ display: 'grid', gridTemplateColumns: '1fr 1fr', gap: 2 }}>
          <Labelled label="Before">
            <BytesView url={sides.before} size={entry.size} />
          </Labelled>
          <Labelled label="After">
            <BytesView url={sides.after} size={change.size} />
          </Labelled>
        </Box>
      );
  }
}

function Labelled({ label, children }: { label: string; children: React.ReactNode }) {
  return (
    <Box sx={{ minWidth: 0 }}>
      <Box className="dim" sx={{ mb: 0.5 }}>
        {label}
      </Box>
      {children}
    </Box>
  );
}

/** Two pictures under a slider, or their difference. */
function Pictures({ before, after, name }: Sides & { name: string }) {
  const [mode, setMode] = useState<'side' | 'difference'>('side');
  const [at, setAt] = useState(50);
  const picture = { position: 'absolute', inset: 0, width: '100%', height: '100%', objectFit: 'contain' } as const;
  return (
    <>
      <Box sx={{ display: 'flex', gap: 0.75, mb: 1 }}>
        <Chip on={mode === 'side'} onClick={() => setMode('side')}>
          Side by side
        </Chip>
        <Chip on={mode === 'difference'} onClick={() => setMode('difference')}>
          Difference
        </Chip>
      </Box>
      <Box
        className={mode === 'side' ? 'checker' : ''}
        sx={{
          position: 'relative',
          height: 400,
          border: '1px solid var(--line)',
          borderRadius: 1,
          overflow: 'hidden',
          background: mode === 'side' ? undefined : '#000',
          isolation: 'isolate',
        }}
      >
        <img
          src={before}
          alt={`${name} before`}
          style={{ ...picture, ...(mode === 'side' ? { clipPath: `inset(0 ${100 - at}% 0 0)` } : {}) }}
        />
        <img
          src={after}
          alt={`${name} after, as the game will have it`}
          style={{
            ...picture,
            ...(mode === 'side' ? { clipPath: `inset(0 0 0 ${at}%)` } : { mixBlendMode: 'difference' }),
          }}
        />
        {mode === 'side' && (
          <Box
            aria-hidden
            sx={{ position: 'absolute', insetBlock: 0, left: `${at}%`, width: 2, ml: '-1px', background: 'var(--ink)' }}
          />
        )}
        {mode === 'side' && (
          <>
            <Tag side="left">Before</Tag>
            <Tag side="right">After, as the game will have it</Tag>
          </>
        )}
      </Box>
      {mode === 'side' && (
        <input
          type="range"
          min={0}
          max={100}
          value={at}
          aria-label="Where before ends and after begins"
          onChange={(event) => setAt(Number(event.target.value))}
          style={{ width: '100%', accentColor: 'var(--teal)', marginTop: 8 }}
        />
      )}
    </>
  );
}

function Tag({ side, children }: { side: 'left' | 'right'; children: string }) {
  return (
    <Box
      sx={{
        position: 'absolute',
        bottom: 10,
        [side]: 10,
        border: '1px solid var(--line)',
        borderRadius: 7,
        background: 'var(--sheet)',
        px: 1.1,
        py: 0.3,
        fontSize: 12,
      }}
    >
      {children}
    </Box>
  );
}

/** What lines went and what came. */
function Lines({ before, after }: Sides) {
  const old = useText(before);
  const fresh = useText(after);
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
