'use client';
import Box from '@mui/material/Box';
import Dialog from '@mui/material/Dialog';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import TextField from '@mui/material/TextField';
import { useQuery } from '@tanstack/react-query';
import { useDeferredValue, useState, useMemo } from 'react';
import { DialogFoot } from '../shared/DialogFoot';
import { call } from '../shared/api';
import { count } from '../shared/format';
import { useGameMutation } from '../shared/queries';
import { FaultNote } from '../shared/states';

/** Paths a second that are tested, roughly; only to say beforehand whether a search takes minutes or days. */
const A_SECOND = 5e6;

const wordsOf = (words: string): Record<string, string> => (words.trim() === '' ? {} : { words });

/** Paths guessed from a pattern: letters, numbers, words; how many there are is said before they are tried. */
export function PatternDialog({ gameId, onClose }: { gameId: number; onClose: () => void }) {
  const [pattern, setPattern] = useState('');
  const [words, setWords] = useState('');
  const edit = useMemo(() => ({ pattern, words: wordsOf(words) }), [pattern, words]);
  const asked = useDeferredValue(edit);
  const size = useQuery({
    queryKey: ['pattern', asked],
    queryFn: () => call('POST games/{game}/names/pattern/count', { game: gameId, body: asked }),
    enabled: pattern.trim() !== '',
    retry: false,
  });
  const search = useGameMutation(gameId, () => call('POST games/{game}/names/pattern', { game: gameId, body: edit }), {
    showsFault: true,
  });
  const begin = async () => {
    await search.mutateAsync(undefined);
    onClose();
  };
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="sm">
      <DialogTitle sx={{ fontSize: 16, fontWeight: 600 }}>What may the names look like?</DialogTitle>
      <DialogContent>
        <TextField
          fullWidth
          autoFocus
          value={pattern}
          onChange={(event) => setPattern(event.target.value)}
          placeholder="voices/{a-z}{00..99}.snd"
          slotProps={{ htmlInput: { className: 'mono', 'aria-label': 'Pattern', spellCheck: false } }}
        />
        <Box
          component="dl"
          sx={{ display: 'grid', gridTemplateColumns: '120px 1fr', rowGap: 0.25, my: 1.25, '& dd': { m: 0 } }}
        >
          <dt className="mono">{'{a-z}'}</dt>
          <dd className="dim">one letter or digit of a range</dd>
          <dt className="mono">{'{00..99}'}</dt>
          <dd className="dim">numbers, with as many digits as written</dd>
          <dt className="mono">{'{map,tile}'}</dt>
          <dd className="dim">one of these</dd>
          <dt className="mono">{'{words}'}</dt>
          <dd className="dim">one of the words below; twice gives every pair</dd>
        </Box>
        <TextField
          fullWidth
          multiline
          minRows={2}
          maxRows={8}
          value={words}
          onChange={(event) => setWords(event.target.value)}
          placeholder="Words, one a line"
          slotProps={{ htmlInput: { className: 'mono', 'aria-label': 'Words', spellCheck: false } }}
        />
        <Box sx={{ mt: 1.25, minHeight: 44 }} role="status">
          {pattern.trim() !== '' && size.data !== undefined && (
            <>
              <b>{count(size.data.count)} paths</b>, from <span className="mono">{size.data.first}</span> to{' '}
              <span className="mono">{size.data.last}</span>
              <Box className="dim">{duration(size.data.count / A_SECOND)}</Box>
            </>
          )}
          {size.error !== null && <FaultNote tone="brass">{size.error.message}</FaultNote>}
          {search.error !== null && <FaultNote>{search.error.message}</FaultNote>}
        </Box>
      </DialogContent>
      <DialogFoot
        onClose={onClose}
        disabled={pattern.trim() === '' || size.error !== null || search.isPending}
        onClick={() => void begin().catch(() => {})}
      >
        Try them
      </DialogFoot>
    </Dialog>
  );
}

function duration(seconds: number): string {
  if (seconds < 10) return 'That takes a few seconds.';
  if (seconds < 5400) return `That takes about ${Math.max(1, Math.round(seconds / 60))} min.`;
  if (seconds < 172_800) return `That takes about ${Math.round(seconds / 3600)} hours; it can be stopped.`;
  return `That takes about ${count(Math.round(seconds / 86_400))} days: fewer letters, or words in place of them, are quicker.`;
}
