'use client';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { useState, type RefObject } from 'react';
import type { ArchiveAnswer, GameAnswer, RunAnswer } from '../../server/shapes';
import { api } from '../shared/api';
import { keyWords } from '../shared/format';
import { useAct } from '../shared/queries';
import { FaultNote, Part } from '../shared/states';

interface UnlockResult {
  readonly opened: readonly string[];
  readonly refused: readonly { readonly path: string; readonly why: string }[];
}

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
  const add = useAct(game.id, (key: string) => api<RunAnswer>(`games/${game.id}/keys`, { body: { text: key } }), {
    showsFault: true,
  });
  const remove = useAct(game.id, (key: number) => api(`games/${game.id}/keys/${key}`, { method: 'DELETE' }));
  const locked = game.archives.filter((archive) => archive.state === 'locked');
  const run = runs.find((one) => one.id === tried);
  const working = add.isPending || run?.state === 'waiting' || run?.state === 'working';
  const result = run?.state === 'done' ? (run.result as UnlockResult | null) : null;
  const submit = async () => {
    if (text.trim() === '') return;
    const started = await add.mutateAsync(text);
    setTried(started.id);
    // The pasted text does not stay on the page.
    setText('');
  };
  return (
    <Box
      component="aside"
      aria-label="Keys"
      sx={{
        width: 372,
        flex: 'none',
        overflow: 'auto',
        background: 'var(--sheet)',
        borderLeft: '1px solid var(--line)',
        p: 2.25,
      }}
    >
      <Typography variant="h2">Keys</Typography>
      <Box className="dim" sx={{ mb: 1.5 }}>
        A key is tried against every locked archive as soon as you add it.
      </Box>
      {game.keys.map((key) => (
        <Box
          key={key.id}
          sx={{
            border: '1px solid var(--line)',
            borderRadius: 1.5,
            background: 'var(--paper)',
            px: 1.5,
            py: 1,
            mb: 1,
            display: 'flex',
          }}
        >
          <Box sx={{ flex: 1 }}>
            <span className="dim">{keyWords(key.kind)}</span>
            <Box className="mono">{key.mask}</Box>
            <span className="dim">
              {key.opens.length === 0 ? 'opens nothing now' : `opens ${key.opens.join(', ')}`}
            </span>
          </Box>
          <Button variant="text" onClick={() => remove.mutate(key.id)} aria-label={`Forget the key ${key.mask}`}>
            Forget
          </Button>
        </Box>
      ))}
      <Part title="Add a key">
        <TextField
          fullWidth
          inputRef={fieldRef}
          value={text}
          onChange={(event) => setText(event.target.value)}
          onKeyDown={(event) => event.key === 'Enter' && void submit().catch(() => {})}
          placeholder="Paste hex, base64 or text"
          autoComplete="off"
          slotProps={{ htmlInput: { className: 'mono', 'aria-label': 'Key', spellCheck: false } }}
        />
        <Box sx={{ mt: 1 }}>
          <Button
            variant="contained"
            disabled={text.trim() === '' || working}
            onClick={() => void submit().catch(() => {})}
          >
            {working ? 'Trying…' : 'Try it'}
          </Button>
        </Box>
      </Part>
      {add.error !== null && <FaultNote>{add.error.message}</FaultNote>}
      {run?.state === 'failed' && <FaultNote>{run.fault?.sentence}</FaultNote>}
      {result !== null && result.opened.length > 0 && (
        <Box role="status" sx={{ color: 'var(--teal)' }}>
          ✓ It opens {result.opened.join(', ')}.
        </Box>
      )}
      {result !== null &&
        result.opened.length === 0 &&
        result.refused.map((one) => (
          <Box key={one.path} sx={{ mb: 1 }}>
            <FaultNote>{one.why}</FaultNote>
          </Box>
        ))}
      {locked.length > 0 && (
        <Box sx={{ mt: 2 }}>
          <Part title="What is still locked">
            {[...needsOf(locked)].map(([need, paths]) => (
              <Box key={need} sx={{ mb: 1 }}>
                {need}: <span className="dim">{paths.join(', ')}</span>
              </Box>
            ))}
            <Box className="dim">Keys often stand in the game’s program, or in notes of the people who mod it.</Box>
          </Part>
        </Box>
      )}
      {locked.length === 0 && game.archives.some((archive) => archive.state === 'open') && (
        <Box className="dim">Nothing is locked.</Box>
      )}
    </Box>
  );
}
