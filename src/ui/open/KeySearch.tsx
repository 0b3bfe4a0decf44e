'use client';
import { visible } from '../../core/faults/visible';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import List from '@mui/material/List';
import ListItemButton from '@mui/material/ListItemButton';
import { useRef, useState } from 'react';
import type { GameAnswer, KeySearchFind, RunAnswer, RunResult } from '../../server/shapes';
import { resultOf } from '../runs/run-result';
import { call } from '../shared/api';
import { RunLine } from '../runs/RunLine';
import { FilePick } from '../shared/FilePick';
import { offset, size } from '../shared/format';
import { isGoing, useGameMutation } from '../shared/queries';
import { FaultNote } from '../shared/states';

const WRITTEN: Readonly<Record<KeySearchFind['written'], string>> = {
  raw: 'as it is',
  hex: 'in hex',
  base64: 'in base64',
  schedule: 'expanded',
  text: 'as text',
  derived: 'derived from known bytes',
};

/** What programs are mostly called: they are offered first. */
const PROGRAM = /\.(exe|dll|bin|so|dylib|elf|wasm)$|^[^.]+$/i;

/** Looks for keys in a file: of the game, or one of the person's own; every candidate is tested against what is locked. */
export function KeySearch({ game, runs }: { game: GameAnswer; runs: readonly RunAnswer[] }) {
  const [choosing, setChoosing] = useState(false);
  const [started, setStarted] = useState<number>();
  const own = useRef<HTMLInputElement>(null);
  const search = useGameMutation(
    game.id,
    (file: string | File) =>
      typeof file === 'string'
        ? call('POST games/{game}/keys/search', { game: game.id, body: { file } })
        : call('POST games/{game}/keys/search/file', { game: game.id, query: { name: file.name }, send: file }),
    { showsFault: true },
  );
  const begin = async (file: string | File) => {
    setChoosing(false);
    setStarted((await search.mutateAsync(file)).id);
  };
  const latest = runs.find((run) => run.kind === 'key-search');
  const run = latest !== undefined && (isGoing(latest) || latest.id === started) ? latest : undefined;
  const found = resultOf(run, 'key-search');
  const files = [...game.archives]
    .filter(({ state }) => state === 'unknown')
    .sort((a, b) => Number(PROGRAM.test(b.path)) - Number(PROGRAM.test(a.path)) || b.size - a.size);
  const locked = game.archives.some(({ state }) => state === 'locked');
  return (
    <>
      <Button
        disabled={!locked || search.isPending || (run !== undefined && isGoing(run))}
        onClick={() => setChoosing(true)}
      >
        {search.isPending ? 'Sending…' : 'Look for keys in a file…'}
      </Button>
      {search.error !== null && <FaultNote>{search.error.message}</FaultNote>}
      {run !== undefined && isGoing(run) && (
        <RunLine run={run} label="Looking for keys">
          {run.lastLine}
        </RunLine>
      )}
      {run?.state === 'failed' && <FaultNote>{run.fault?.sentence}</FaultNote>}
      {found !== undefined && <Result result={found} />}
      <Dialog open={choosing} onClose={() => setChoosing(false)} fullWidth maxWidth="sm">
        <DialogTitle sx={{ fontSize: 16, fontWeight: 600 }}>Which file may contain the keys?</DialogTitle>
        <DialogContent>
          <Box className="dim" sx={{ mb: 1 }}>
            Every place in it is tried, as it is, written as hex or base64, and expanded, against each locked archive.
            The game’s program is a good guess, or a dump of its memory.
          </Box>
          <List dense sx={{ maxHeight: 260, overflow: 'auto', border: '1px solid var(--line)', borderRadius: 1 }}>
            {files.map((file) => (
              <ListItemButton key={file.id} onClick={() => void begin(file.path).catch(() => {})}>
                <Box sx={{ flex: 1, overflowWrap: 'anywhere' }}>{visible(file.path)}</Box>
                <span className="dim">{size(file.size)}</span>
              </ListItemButton>
            ))}
            {files.length === 0 && <Box sx={{ p: 1.5 }}>Every file in the folder is an archive.</Box>}
          </List>
        </DialogContent>
        <DialogActions sx={{ px: 3, pb: 2 }}>
          <Button variant="text" onClick={() => setChoosing(false)}>
            Not now
          </Button>
          <Button onClick={() => own.current?.click()}>A file of my own…</Button>
        </DialogActions>
      </Dialog>
      <FilePick
        pickRef={own}
        label="The file to look through"
        testId="key-search-file"
        onPick={(file) => void begin(file).catch(() => {})}
      />
    </>
  );
}

function Result({ result }: { result: RunResult<'key-search'> }) {
  return (
    <Box role="status" aria-label="What the search found" sx={{ width: '100%', overflowWrap: 'anywhere' }}>
      {result.found.map((key) => (
        <Box key={`${key.archive} ${key.slot}`} sx={{ color: 'var(--teal)' }}>
          ✓ <span className="mono">{key.mask}</span> for {visible(key.archive)}
          {key.written !== 'derived' && (
            <>
              , at <span className="mono">{offset(key.at)}</span>
            </>
          )}{' '}
          {WRITTEN[key.written]}
        </Box>
      ))}
      {result.found.length === 0 && (
        <FaultNote tone="brass">
          No key for {result.searched.join(', ')} was found in {visible(result.file)}. It may be packed, or another
          build: try a dump of the running game.
        </FaultNote>
      )}
    </Box>
  );
}
