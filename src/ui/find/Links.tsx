'use client';
import { visible } from '../../core/faults/visible';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import { useQuery } from '@tanstack/react-query';
import { useCallback, useState } from 'react';
import type { LinksAnswer } from '../../server/shapes';
import { RunLine } from '../runs/RunLine';
import { call } from '../shared/api';
import { Chart, type ColourOf } from '../shared/Chart';
import { fileName } from '../shared/format';
import { isGoing, useGameMutation, useRuns } from '../shared/queries';
import { Part } from '../shared/states';

interface Props {
  readonly gameId: number;
  readonly path: string;
  readonly onGo: (path: string) => void;
}

const MOST_LISTED = 6;

/** What an entry names, and what names it. */
export function Links({ gameId, path, onGo }: Props) {
  const { data } = useQuery({
    queryKey: ['game', gameId, 'links', path],
    queryFn: () => call('GET games/{game}/links', { game: gameId, query: { path } }),
  });
  const { data: runs } = useRuns(gameId);
  const run = runs?.find((one) => one.kind === 'links' && isGoing(one));
  const find = useGameMutation(gameId, () => call('POST games/{game}/links', { game: gameId }));
  const [drawn, setDrawn] = useState(false);
  if (data === undefined) return null;
  const { known, stale, uses, usedBy, around } = data;
  return (
    <Part title="Belongs together">
      {run !== undefined ? (
        <RunLine run={run} label="Entries searched" />
      ) : (
        (!known || stale) && (
          <Box sx={{ mb: 0.5 }}>
            <Box className="dim">
              {known ? 'Entries have changed since references were scanned.' : 'References have not been scanned yet.'}
            </Box>
            <Button variant="text" sx={{ px: 0, py: 0.25 }} onClick={() => find.mutate(undefined)}>
              Scan references
            </Button>
          </Box>
        )
      )}
      {known && uses.length + usedBy.length === 0 && (
        <Box className="dim">It has no references, and nothing refers to it.</Box>
      )}
      <Paths title="Uses" paths={uses} onGo={onGo} />
      <Paths title="Used by" paths={usedBy} onGo={onGo} />
      {around.length > 0 && (
        <Button variant="text" sx={{ px: 0, py: 0.25 }} onClick={() => setDrawn(true)}>
          Show as a graph
        </Button>
      )}
      {drawn && (
        <Dialog open onClose={() => setDrawn(false)} maxWidth="md" fullWidth>
          <DialogTitle sx={{ fontSize: 16, fontWeight: 600 }}>What belongs to {fileName(path)}</DialogTitle>
          <DialogContent>
            <Graph
              path={path}
              around={around}
              onGo={(to) => {
                setDrawn(false);
                onGo(to);
              }}
            />
          </DialogContent>
        </Dialog>
      )}
    </Part>
  );
}

function Paths({ title, paths, onGo }: { title: string; paths: readonly string[]; onGo: Props['onGo'] }) {
  const [all, setAll] = useState(false);
  if (paths.length === 0) return null;
  return (
    <Box sx={{ display: 'grid', gridTemplateColumns: '84px 1fr', mb: 0.5 }}>
      <span className="dim">{title}</span>
      <Box sx={{ minWidth: 0 }}>
        {(all ? paths : paths.slice(0, MOST_LISTED)).map((path) => (
          <Box
            key={path}
            component="button"
            type="button"
            title={path}
            onClick={() => onGo(path)}
            sx={{
              all: 'unset',
              display: 'block',
              maxWidth: '100%',
              cursor: 'pointer',
              textDecoration: 'underline',
              overflow: 'hidden',
              textOverflow: 'ellipsis',
              whiteSpace: 'nowrap',
              minHeight: 24,
              '&:focus-visible': { outline: '2px solid var(--teal)' },
            }}
          >
            {visible(fileName(path))}
          </Box>
        ))}
        {!all && paths.length > MOST_LISTED && (
          <Button variant="text" sx={{ p: 0 }} onClick={() => setAll(true)}>
            and {paths.length - MOST_LISTED} more
          </Button>
        )}
      </Box>
    </Box>
  );
}

/** The neighbourhood as dots and arrows; a click goes to an entry. */
function Graph({ path, around, onGo }: { path: string; around: LinksAnswer['around']; onGo: Props['onGo'] }) {
  const option = useCallback(
    (colour: ColourOf) => ({
      aria: { enabled: false },
      series: [
        {
          type: 'graph',
          layout: 'force',
          roam: true,
          edgeSymbol: ['none', 'arrow'],
          edgeSymbolSize: 7,
          force: { repulsion: 260, edgeLength: 110 },
          label: { show: true, position: 'bottom', color: colour('ink'), fontSize: 12 },
          lineStyle: { color: colour('dim'), width: 1.2 },
          data: [...new Set(around.flatMap(({ from, to }) => [from, to]))].map((one) => ({
            id: one,
            name: fileName(one),
            symbolSize: one === path ? 20 : 11,
            itemStyle: { color: colour(one === path ? 'teal' : 'slate') },
          })),
          links: around.map(({ from, to }) => ({ source: from, target: to })),
        },
      ],
    }),
    [around, path],
  );
  const onPick = useCallback(
    (node: unknown) => {
      const { id } = (node ?? {}) as { id?: string };
      if (id !== undefined) onGo(id);
    },
    [onGo],
  );
  return <Chart label="References as arrows; the lists show the same" height={440} option={option} onPick={onPick} />;
}
