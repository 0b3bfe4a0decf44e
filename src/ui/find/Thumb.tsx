'use client';
import Box from '@mui/material/Box';
import { useState } from 'react';
import type { EntryRow, Glance } from '../../server/shapes';
import { entryUrl } from '../shared/api';
import { KIND_COLOURS, KindMark } from '../shared/marks';

/** A small picture of what the entry holds, or the mark of its kind large. */
export function Thumb({ gameId, entry, glance }: { gameId: number; entry: EntryRow; glance: Glance | undefined }) {
  const [failed, setFailed] = useState(false);
  const shows = glance?.shows;
  return (
    <Box
      sx={{
        height: 84,
        display: 'grid',
        placeItems: 'center',
        background: 'var(--paper)',
        borderBottom: '1px solid var(--line)',
        overflow: 'hidden',
      }}
    >
      {shows?.is === 'thumbnail' && !failed ? (
        // The card around it carries the name.
        <img
          src={shows.webp === null ? entryUrl(gameId, entry, 'thumbnail') : `data:image/webp;base64,${shows.webp}`}
          alt=""
          loading="lazy"
          // What is looked at closely goes before what is glanced at.
          fetchPriority="low"
          onError={() => setFailed(true)}
          style={{ maxWidth: '88%', maxHeight: 76, objectFit: 'contain' }}
        />
      ) : shows?.is === 'peaks' ? (
        <Outline peaks={shows.peaks} />
      ) : shows?.is === 'lines' ? (
        <Box
          aria-hidden
          className="mono"
          sx={{
            placeSelf: 'start',
            p: 0.75,
            fontSize: 9,
            lineHeight: '14px',
            whiteSpace: 'pre',
            color: 'var(--slate)',
          }}
        >
          {shows.lines.join('\n')}
        </Box>
      ) : (
        <Box sx={{ transform: 'scale(2.4)', color: KIND_COLOURS[entry.kind], lineHeight: 0 }}>
          <KindMark kind={entry.kind} />
        </Box>
      )}
    </Box>
  );
}

/** How loud a sound is along its length. */
function Outline({ peaks }: { peaks: readonly number[] }) {
  return (
    <svg width="88%" height="60" viewBox={`0 0 ${peaks.length * 3} 60`} preserveAspectRatio="none" aria-hidden>
      {peaks.map((peak, i) => {
        const height = Math.max(1.5, peak * 58);
        return <rect key={i} x={i * 3} y={30 - height / 2} width="2" height={height} rx="1" fill="var(--brass-mark)" />;
      })}
    </svg>
  );
}
