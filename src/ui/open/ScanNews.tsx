'use client';
import { visible } from '../../core/faults/visible';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { useState, type ReactNode } from 'react';
import type { GameAnswer } from '../../server/shapes';
import { count, counted, when } from '../shared/format';
import { FaultNote } from '../shared/states';

const SHOWN = 6;

/** What the last scan found that was otherwise before, and what it could not look at. */
export function ScanNews({ game }: { game: GameAnswer }) {
  const [seen, setSeen] = useState<string>();
  const scan = game.lastScan;
  if (scan === null) return null;
  const { added, changed, moved, gone, buildBefore } = scan.news;
  const quiet = added.length + changed.length + moved.length + gone.length === 0;
  return (
    <>
      {(!quiet || buildBefore !== null) && seen !== scan.scannedAt && (
        <Box
          role="status"
          aria-label="What has changed"
          sx={{ border: '1px solid var(--line)', borderRadius: 1.5, background: 'var(--brass2)', p: 1.5, mb: 1.5 }}
        >
          <Box sx={{ display: 'flex', gap: 1 }}>
            <Typography variant="h2" sx={{ flex: 1 }}>
              {buildBefore === null
                ? `Changed at the scan of ${when(scan.scannedAt)}`
                : `Build ${scan.build ?? '?'} replaces build ${buildBefore}`}
            </Typography>
            <Button variant="text" sx={{ p: 0 }} onClick={() => setSeen(scan.scannedAt)}>
              Seen
            </Button>
          </Box>
          <Files title="changed" paths={changed} />
          <Files title="new" paths={added} />
          <Files title="gone" paths={gone} />
          <Files title="moved" paths={moved.map(({ from, to }) => `${from} → ${to}`)} />
          <Box className="dim" sx={{ mt: 0.5 }}>
            Changes inside an archive are listed with it, once it can be read.
          </Box>
        </Box>
      )}
      {scan.trouble.length > 0 && (
        <Box sx={{ mb: 1.5 }}>
          <FaultNote tone="brass">
            <b>{counted(scan.trouble.length, 'place')} could not be looked at.</b>
            {scan.trouble.slice(0, SHOWN).map((line) => (
              <div key={line}>{line}</div>
            ))}
            {scan.trouble.length > SHOWN && <div>and {count(scan.trouble.length - SHOWN)} more</div>}
          </FaultNote>
        </Box>
      )}
    </>
  );
}

function Files({ title, paths }: { title: string; paths: readonly string[] }): ReactNode {
  if (paths.length === 0) return null;
  return (
    <Box sx={{ overflowWrap: 'anywhere' }}>
      <b>
        {count(paths.length)} {title}:
      </b>{' '}
      {paths.slice(0, SHOWN).map(visible).join(', ')}
      {paths.length > SHOWN && ` and ${count(paths.length - SHOWN)} more`}
    </Box>
  );
}
