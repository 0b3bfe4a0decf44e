'use client';
import { sayFault } from '../../core/faults';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { useState, type RefObject } from 'react';
import { useDropzone } from 'react-dropzone';
import type { ArchiveAnswer, GameAnswer, KeyAnswer, RunAnswer } from '../../server/shapes';
import { resultOf } from '../runs/run-result';
import { call } from '../shared/api';
import { Card } from '../shared/Card';
import { count, keyWords } from '../shared/format';
import { isGoing, useGameMutation } from '../shared/queries';
import { FaultNote, Part } from '../shared/states';
import { KeySearch } from './KeySearch';

/** What is asked for, and by which archives. */
function needsOf(locked: readonly ArchiveAnswer[]): ReadonlyMap<string, readonly string[]> {
  const needs = new Map<string, string[]>();
  for (const { path, slots } of locked) {
    for (const [slot, kind] of Object.entries(slots)) {
      const need = `${keyWords(kind)} for “${slot}”`;
      needs.set(need, [...(needs.get(need) ?? []), path]);
    }
  }
  return needs;
}

/** The keyring of the game: what each key opens, and why the last one tried did not fit. */
export function KeysPanel({
  game,
  runs,
  fieldRef,
}: {
  game: GameAnswer;
  runs: readonly RunAnswer[];
  fieldRef: RefObject<HTMLInputElement | null>;
}) {
  const [text, setText] = useState('');
  const [tried, setTried] = useState<number>();
  const add = useGameMutation(
    game.id,
    (key: string | File) =>
      typeof key === 'string'
        ? call('POST games/{game}/keys', { game: game.id, body: { text: key } })
        : call('POST games/{game}/keys/file', { game: game.id, send: key }),
    { showsFault: true },
  );
  const locked = game.archives.filter((archive) => archive.state === 'locked');
  const run = runs.find((one) => one.id === tried);
  const scanning = runs.some((one) => one.kind === 'scan' && isGoing(one));
  const working = add.isPending || (run !== undefined && isGoing(run));
  const result = resultOf(run, 'unlock') ?? null;
  const submit = async (key: string | File) => {
    if (scanning || (typeof key === 'string' && key.trim() === '')) return;
    const started = await add.mutateAsync(key);
    setTried(started.id);
    // The pasted text does not stay on the page.
    setText('');
  };
  const { getRootProps, getInputProps, isDragActive, open } = useDropzone({
    noClick: true,
    noKeyboard: true,
    multiple: false,
    onDrop: ([file]) => file !== undefined && void submit(file).catch(() => {}),
  });
  return (
    <Box
      {...getRootProps()}
      role="group"
      aria-label="Keys"
      sx={{ outline: isDragActive ? '2px dashed var(--teal)' : undefined, outlineOffset: 6, mb: 3 }}
    >
      <input {...getInputProps()} data-testid="key-file" aria-label="A key file" />
      <Typography variant="h2">Keys</Typography>
      <Box className="dim" sx={{ mb: 1.5 }}>
        A key is tried against every locked archive as soon as you add it.
      </Box>
      {game.keys.map((key) => (
        <KeyCard key={key.id} gameId={game.id} value={key} />
      ))}
      <Part title="Add keys">
        <TextField
          fullWidth
          multiline
          maxRows={6}
          inputRef={fieldRef}
          value={text}
          onChange={(event) => setText(event.target.value)}
          onKeyDown={(event) => {
            if (event.key !== 'Enter' || event.shiftKey) return;
            event.preventDefault();
            void submit(text).catch(() => {});
          }}
          placeholder="Paste hex, base64 or text, one key per line"
          autoComplete="off"
          slotProps={{ htmlInput: { className: 'mono', 'aria-label': 'Key', spellCheck: false } }}
        />
        <Box sx={{ mt: 1, display: 'flex', gap: 1, flexWrap: 'wrap' }}>
          <Button
            variant="contained"
            disabled={text.trim() === '' || working || scanning}
            onClick={() => void submit(text).catch(() => {})}
          >
            {working ? 'Trying…' : scanning ? 'After the scan' : 'Try it'}
          </Button>
          <Button onClick={open} disabled={working || scanning}>
            Key file…
          </Button>
          <KeySearch game={game} runs={runs} />
        </Box>
      </Part>
      {add.error !== null && <FaultNote>{add.error.message}</FaultNote>}
      {run?.state === 'failed' && <FaultNote>{run.fault?.sentence}</FaultNote>}
      {result !== null && result.opened.length > 0 && (
        <Box role="status" sx={{ color: 'var(--teal)', mb: 1, overflowWrap: 'anywhere' }}>
          ✓ It opens {result.opened.slice(0, 6).join(', ')}
          {result.opened.length > 6 && ` and ${count(result.opened.length - 6)} more`}.
        </Box>
      )}
      {result !== null &&
        result.opened.length === 0 &&
        result.refused.map((one) => (
          <Box key={one.path} sx={{ mb: 1 }}>
            <FaultNote>{sayFault(one.fault)}</FaultNote>
          </Box>
        ))}
      {locked.length > 0 && (
        <Part title="What is still locked">
          {[...needsOf(locked)].map(([need, paths]) => (
            <Box key={need} sx={{ mb: 0.75 }}>
              {need}: <span className="dim">{paths.join(', ')}</span>
            </Box>
          ))}
          <Box className="dim">Keys are often in the game’s program, or in the notes of other modders.</Box>
        </Part>
      )}
      {locked.length === 0 && game.archives.some((archive) => archive.state === 'open') && (
        <Box className="dim">Nothing is locked.</Box>
      )}
    </Box>
  );
}

function KeyCard({ gameId, value }: { gameId: number; value: KeyAnswer }) {
  const remove = useGameMutation(gameId, (key: number) =>
    call('DELETE games/{game}/keys/{key}', { game: gameId, key }),
  );
  return (
    <Card sx={{ display: 'flex' }}>
      <Box sx={{ flex: 1, minWidth: 0, overflowWrap: 'anywhere' }}>
        {value.name !== null && <b>{value.name} </b>}
        <span className="dim">
          {keyWords(value.kind)}
          {value.build !== null && `, build ${value.build}`}
        </span>
        <Box className="mono">{value.mask}</Box>
        <span className="dim">
          {value.opens.length === 0 ? 'opens nothing now' : `opens ${value.opens.join(', ')}`}
        </span>
      </Box>
      <Button
        variant="text"
        sx={{ alignSelf: 'flex-start', px: 0.5 }}
        onClick={() => remove.mutate(value.id)}
        aria-label={`Forget the key ${value.mask}`}
        title="What only it opens is locked again."
      >
        Forget
      </Button>
    </Card>
  );
}
